package document

import (
	"regexp"
	"regexp/syntax"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// requiredOf is what is looked for before an expression is tried.
func requiredOf(t rapid.TB, expression string) []string {
	parsed, err := syntax.Parse(expression, syntax.Perl)
	if err != nil {
		t.Fatalf("%s: %v", expression, err)
	}
	return required(parsed.Simplify())
}

func TestRequired(t *testing.T) {
	for _, c := range []struct {
		expression string
		want       []string
	}{
		{`go_version = "(\d+)"`, []string{`go_version = "`}},
		{`(?i)CMake_Policy\(`, []string{"cmake_policy("}},
		{`\bnode(?:js)?_version`, []string{"_version"}},
		{`require|check|assert`, []string{"require", "check", "assert"}},
		{`\b(?:require|check)\s*\(?x`, []string{"require", "check"}},
		{`(?:kotlin|java)+-(\d+)`, []string{"kotlin", "java"}},
		{`kotlin|\d+`, nil},
		{`(?:go)?\d+`, nil},
		{`a*b?`, nil},
		{`alpha|bravo|cider|delta|eagle|fruit|grape`, nil}, // too many to look for each
		{`(?i)größe`, nil}, // only the cases of ASCII are known
		{`größe`, []string{"größe"}},
		{``, nil},
	} {
		assert.Equal(t, c.want, requiredOf(t, c.expression), c.expression)
	}
}

// expressions are made of what patterns of rules are made of.
func expressions() *rapid.Generator[string] {
	word := rapid.SampledFrom([]string{"go", "Node", "kotlin", "version", "x", "=", "_"})
	leaf := rapid.OneOf(rapid.Map(word, regexp.QuoteMeta), rapid.SampledFrom([]string{`\d+`, `[a-c]`, `\s*`, `\w?`, `.`}))
	var grow func(deep int) *rapid.Generator[string]
	grow = func(deep int) *rapid.Generator[string] {
		if deep == 0 {
			return leaf
		}
		return rapid.Custom(func(t *rapid.T) string {
			parts := rapid.SliceOfN(grow(deep-1), 1, 4).Draw(t, "parts")
			group := "(?:"
			if rapid.Bool().Draw(t, "captures") {
				group = "("
			}
			between := rapid.SampledFrom([]string{"", "|"}).Draw(t, "between")
			return group + strings.Join(parts, between) + ")" + rapid.SampledFrom([]string{"", "", "?", "+", "*"}).Draw(t, "often")
		})
	}
	return rapid.Custom(func(t *rapid.T) string {
		return rapid.SampledFrom([]string{"", "(?i)"}).Draw(t, "case") + grow(2).Draw(t, "expression")
	})
}

// TestWhatIsRequiredIsInEveryMatch: a text that a pattern matches holds one of the texts
// without which the pattern is not even tried.
func TestWhatIsRequiredIsInEveryMatch(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		expression := expressions().Draw(t, "expression")
		text := rapid.StringMatching(expression).Draw(t, "text")
		if m := regexp.MustCompile(expression).FindString(text); m == "" {
			return // nothing is required of an empty match, and of none
		}
		wanted := requiredOf(t, expression)
		if script := (&Script{code: []byte(text)}); !script.mentions(wanted) {
			t.Fatalf("%s matches %q, which holds none of %q", expression, text, wanted)
		}
	})
}

// TestLettersOfOtherCases: what a pattern takes for a letter of ASCII whatever its case.
func TestLettersOfOtherCases(t *testing.T) {
	for _, text := range []string{"VERSION", "VERſION", "token", "TO\u212aEN"} {
		pattern := regexp.MustCompile("(?i)version|token")
		assert.True(t, pattern.MatchString(text), text)
		assert.True(t, (&Script{code: []byte(text)}).mentions(sizeOf(pattern).required), text)
	}
}

// TestAPatternIsTriedWhereItMayMatch: what a rule finds does not depend on the short cut.
func TestAPatternIsTriedWhereItMayMatch(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		pattern := regexp.MustCompile(expressions().Draw(t, "expression"))
		text := rapid.StringMatching(`(?:go|NODE|Kotlin|version|x|=|_|[a-c]|[0-9]| |\n){0,30}`).Draw(t, "text")
		script := &Script{code: []byte(text)}
		if pattern.FindString(text) != "" && !script.mentions(sizeOf(pattern).required) {
			t.Fatalf("%s is not tried on %q", pattern, text)
		}
	})
}
