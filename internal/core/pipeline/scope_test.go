package pipeline

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"wexo/internal/core/document"
)

// value is a text that stands at an offset.
func value(text string, offset int) document.Value { return document.Value{Text: text, Offset: offset} }

func TestNamesAreLookedUpFromInside(t *testing.T) {
	s := newScopes()
	s.whole.put(value("20", 1), "node", "env.node")
	assert.Equal(t, []document.Value{value("20", 1)}, s.lookup("NODE", -1))
	job := newScope()
	job.put(value("22", 2), "env.node")
	leave := s.enter(job)
	assert.Equal(t, "22", s.lookup("node", -1)[0].Text)
	assert.Equal(t, "20", s.lookup("node", 2)[0].Text, "a definition is not looked up in itself")
	s.enter(nil)()
	leave()
	assert.Equal(t, "20", s.lookup("env.node", -1)[0].Text)
	assert.Empty(t, s.lookup("go", -1))
	assert.True(t, s.used["node"])
	s.blind = true
	assert.Empty(t, s.lookup("node", -1))
}

// TestANameInItsOwnDefinition means what it stands for outside.
func TestANameInItsOwnDefinition(t *testing.T) {
	s := newScopes()
	s.whole.put(value("20", 1), "env.node")
	job := newScope()
	job.put(value("${{ env.node || '24' }}", 2), "env.node")
	defer s.enter(job)()
	got := s.compose("${{ env.NODE }}", 9)
	assert.Len(t, got, 1)
	assert.Equal(t, "20", got[0].Text)
}

// TestLookupEnds: whatever refers to whatever, looking up ends and invents nothing.
func TestLookupEnds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		part := rapid.SampledFrom([]string{"${A}", "${B:-1}", "${{ env.a }}", "$C", "2", ".", "${A:-${B}}"})
		s := newScopes()
		offset := 0
		fill := func(to *scope) {
			for _, name := range []string{"a", "env.a", "b", "c"} {
				for range rapid.IntRange(0, 2).Draw(t, "values") {
					offset++
					to.put(value(strings.Join(rapid.SliceOfN(part, 1, 3).Draw(t, "parts"), ""), offset), name)
				}
			}
		}
		fill(s.whole)
		for range rapid.IntRange(0, 3).Draw(t, "deep") {
			inner := newScope()
			fill(inner)
			defer s.enter(inner)()
		}
		for _, one := range s.compose("${A}-${{ env.a }}", -1) {
			if one.Open == "" && one.From == nil {
				assert.NotContains(t, one.Text, "$")
			}
		}
	})
}

func TestWordsOfTitles(t *testing.T) {
	for title, want := range map[string]string{
		"CI (old Go version)": "ci old go version", "gradle_jdk11": "gradle jdk 11", "py37": "py 37", "Dockerfile.test.go1.13": "dockerfile test go 1.13",
		"minSupported": "min supported", "node-16.x": "node 16. x", "": "", "JDK 8": "jdk 8",
	} {
		assert.Equal(t, want, strings.Join(wordsOf(title), " "), title)
	}
}
