package glob_test

import (
	"path"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"wexo/internal/core/glob"
)

func matched(pattern, name string) bool {
	ok, err := path.Match(pattern, name)
	return ok && err == nil
}

// slowly compares a path with a glob as the words say, whatever that costs.
func slowly(parts, file []string) bool {
	switch {
	case len(parts) == 0:
		return len(file) == 0
	case parts[0] == "**":
		return slowly(parts[1:], file) || len(file) > 0 && slowly(parts, file[1:])
	}
	return len(file) > 0 && matched(parts[0], file[0]) && slowly(parts[1:], file[1:])
}

func TestGlobsMatchAsTheWordsSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		globs := rapid.SliceOfN(rapid.SampledFrom([]string{"**", "a", "b", "a*", "?", "*b"}), 2, 7).Draw(t, "glob")
		file := rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", "ab", "c"}), 1, 7).Draw(t, "file")
		assert.Equal(t, slowly(globs, file), glob.Match(strings.Join(globs, "/"), strings.Join(file, "/")))
	})
	for text, file := range map[string]string{"docs/": "docs", "./docs": "docs", "*.lock": "a/b/c.lock", "/a/b": "a/b", "a/**": "a", "**/a*/**": "c/a", "a*/**/**": "a"} {
		assert.True(t, glob.Match(text, file), "%s and %s", text, file)
	}
	assert.False(t, glob.Match("a/b", "a/b/c"))
}

func TestCheck(t *testing.T) {
	for _, text := range []string{"docs/", "**/vendor/**", "a?", "[ab]*.lock", strings.Repeat("a", glob.Longest)} {
		assert.NoError(t, glob.Check(text), text)
	}
	for _, text := range []string{"", "../a", "a/../b", `a\b`, "[a", "{a,b}", strings.Repeat("a", glob.Longest+1)} {
		assert.Error(t, glob.Check(text), text)
	}
}
