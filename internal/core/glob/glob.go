// Package glob is how users name files and folders of their repositories: "**" stands for
// any number of folders, a name without a slash is meant in every folder, and one that ends
// in a slash is a folder.
package glob

import (
	"errors"
	"fmt"
	"path"
	"strings"

	"github.com/bmatcuk/doublestar/v4"
)

// Longest is how long a glob may be, in bytes.
const Longest = 1_000

// Check gives an error for a text that is no glob of a path inside a repository.
func Check(text string) error {
	switch {
	case text == "" || !doublestar.ValidatePattern(text) || strings.Contains(text, "..") || strings.ContainsAny(text, `\{`):
		return errors.New("is no path or glob inside the repository")
	case len(text) > Longest:
		return fmt.Errorf("is longer than %d characters", Longest)
	}
	return nil
}

// Match reports whether a glob names a file or folder.
func Match(text, file string) bool {
	text = strings.TrimPrefix(strings.TrimSuffix(text, "/"), "./")
	if !strings.Contains(text, "/") {
		file = path.Base(file)
	}
	text = strings.TrimPrefix(text, "/")
	for strings.Contains(text, "/**/**") {
		text = strings.ReplaceAll(text, "/**/**", "/**")
	}
	if doublestar.MatchUnvalidated(text, file) {
		return true
	}
	// Folders at the end may be none; the library does not see it behind a star that stands
	// for nothing ("a*/**" and "a").
	rest, open := strings.CutSuffix(text, "/**")
	return open && doublestar.MatchUnvalidated(rest, file)
}

// CheckName gives an error for a text that is no glob of the name of a repository or machine.
func CheckName(text string) error {
	if !doublestar.ValidatePattern(text) || len(text) > Longest {
		return errors.New("is no glob of a name")
	}
	return nil
}

// Name reports whether a glob names a repository or machine: a star stands for any letters but a
// slash, and {a,b} for one or the other.
func Name(text, name string) bool {
	ok, err := doublestar.Match(text, name)
	return ok && err == nil
}

// Any reports whether one of the globs names a file or folder.
func Any(globs []string, file string) bool {
	for _, text := range globs {
		if Match(text, file) {
			return true
		}
	}
	return false
}
