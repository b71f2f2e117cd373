package document

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// TestBranches: what stands in a branch of a script's own logic is blanked, and nothing else is.
func TestBranches(t *testing.T) {
	for text, want := range map[string]string{
		"a = 1\nif (x) { a = 2 }\nb":                        "a = 1\nif (x) {       }\nb",
		"if (x) {\n a = 2\n} else {\n a = 3\n}\nb = 4":      "if (x) {\n      \n} else {\n      \n}\nb = 4",
		"if (f(\")\")) { a { b } c } d":                     "if (f(\")\")) {           } d",
		"if (x) throw new E(\"a\")":                         "if (x) throw new E(\"a\")",
		"if (v < 17) { throw new GradleException(\"17\") }": "if (v < 17) { throw new GradleException(\"17\") }",
		"notif (x) { a }":                                   "notif (x) { a }",
		"diff { a }":                                        "diff { a }",
		"if (x) { a":                                        "if (x) { a",
		"plugins { id 'a' version '2' }":                    "plugins { id 'a' version '2' }",
	} {
		assert.Equal(t, want, string(blankBranches([]byte(text))), text)
	}
}

// TestBranchesKeepPlaces: whatever a script holds, offsets and lines stay.
func TestBranchesKeepPlaces(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		part := rapid.SampledFrom([]string{"if", " ", "(", ")", "{", "}", "else", "\n", "\"", "'", "\\", "a = 1", "throw", "x"})
		text := strings.Join(rapid.SliceOfN(part, 0, 60).Draw(t, "parts"), "")
		got := blankBranches([]byte(text))
		assert.Len(t, got, len(text))
		for i := range got {
			if got[i] != text[i] {
				assert.Equal(t, byte(' '), got[i])
				assert.NotEqual(t, byte('\n'), text[i])
			}
		}
	})
}
