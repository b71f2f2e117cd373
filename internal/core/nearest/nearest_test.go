package nearest_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"wexo/internal/core/nearest"
)

var tools = []string{"bun", "bundler", "clang", "deno", "dotnet", "dotnet-framework", "erlang", "go", "gradle", "java", "node", "npm", "php", "python", "ruby", "rust"}

func TestTo(t *testing.T) {
	for word, want := range map[string]string{
		"nod": "node", "Node": "node", "noed": "node", "pyhton": "python", "rubby": "ruby", "dot-net": "dotnet", "dotnet framework": "dotnet-framework",
		"gradel": "gradle", "pyth": "python", "jva": "java", "ggo": "go",
		"gardener": "", "zig": "", "": "", "x": "",
	} {
		got, ok := nearest.To(word, tools)
		assert.Equal(t, want, got, word)
		assert.Equal(t, want != "", ok, word)
	}
}

// TestOfTwoAsNear the one that begins alike is meant.
func TestOfTwoAsNear(t *testing.T) {
	for _, known := range [][]string{{"serve", "survey"}, {"survey", "serve"}} {
		got, _ := nearest.To("surve", known)
		assert.Equal(t, "survey", got)
	}
}

func TestHint(t *testing.T) {
	assert.Equal(t, `did you mean "node"?`, nearest.Hint("nod", tools))
	assert.Equal(t, "known are bun, bundler, clang, deno, dotnet, dotnet-framework, erlang, go, gradle, java, node, npm and 4 others", nearest.Hint("gardener", tools))
	assert.Equal(t, "known are error, warning and note", nearest.Hint("awful", []string{"error", "warning", "note"}))
	assert.Equal(t, "none is known", nearest.Hint("a", nil))
	assert.Equal(t, "the one that is known is glasshouse", nearest.Hint("x", []string{"glasshouse"}))
}

// TestAnyWordIsNearestToItself, and one letter wrong in a word of some length is forgiven.
func TestAnyWordIsNearestToItself(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		word := rapid.SampledFrom(tools).Draw(r, "word")
		got, ok := nearest.To(word, tools)
		assert.True(r, ok)
		assert.Equal(r, word, got)
		if at := rapid.IntRange(0, len(word)-1).Draw(r, "at"); len(word) > 4 {
			short := word[:at] + word[at+1:]
			near, ok := nearest.To(short, []string{word, "quite-another"})
			assert.True(r, ok, short)
			assert.Equal(r, word, near)
			swapped, ok := nearest.To(strings.ToUpper(word[:at]+"z"+word[at+1:]), []string{"quite-another", word})
			assert.True(r, ok)
			assert.Equal(r, word, swapped)
		}
	})
}
