package claim

import (
	"errors"
	"fmt"
	"path"
	"strings"
)

// glob is a path in a user's rules: "**" stands for any number of folders, one without a
// slash matches in every folder, one that ends in a slash a folder.
type glob struct {
	text  string
	parts []string // nil where it has no slash
}

// compileGlob reads a glob, and refuses one that leads out of the repository.
func compileGlob(text string) (glob, error) {
	switch _, err := path.Match(strings.ReplaceAll(text, "**", "*"), ""); {
	case err != nil || strings.Contains(text, "..") || strings.Contains(text, `\`):
		return glob{}, errors.New("is no path or glob inside the repository")
	case len(text) > maxRuleText:
		return glob{}, fmt.Errorf("is longer than %d characters", maxRuleText)
	}
	return newGlob(text), nil
}

func newGlob(text string) glob {
	trimmed := strings.TrimPrefix(strings.TrimSuffix(text, "/"), "./")
	if !strings.Contains(trimmed, "/") {
		return glob{text: trimmed}
	}
	g := glob{text: trimmed}
	for part := range strings.SplitSeq(strings.TrimPrefix(trimmed, "/"), "/") {
		if part != "**" || len(g.parts) == 0 || g.parts[len(g.parts)-1] != "**" { // several say no more than one
			g.parts = append(g.parts, part)
		}
	}
	return g
}

// matches compares a path with the glob, in at most as many comparisons as both have
// parts, multiplied.
func (g glob) matches(file string) bool {
	if g.parts == nil {
		return matchPart(g.text, path.Base(file))
	}
	at, from := 0, 0 // in the glob and in the path
	back, tried := -1, 0
	parts := strings.Split(file, "/")
	for from < len(parts) {
		switch {
		case at < len(g.parts) && g.parts[at] == "**":
			back, tried = at, from
			at++
		case at < len(g.parts) && matchPart(g.parts[at], parts[from]):
			at, from = at+1, from+1
		case back >= 0: // the last "**" takes one folder more; those before it need not
			tried++
			at, from = back+1, tried
		default:
			return false
		}
	}
	for at < len(g.parts) && g.parts[at] == "**" {
		at++
	}
	return at == len(g.parts)
}

func matchPart(pattern, name string) bool {
	ok, err := path.Match(pattern, name)
	return ok && err == nil
}

// anyMatches tells whether one of the globs matches, and spends what that takes.
func anyMatches(globs []string, file string, b *budget) bool {
	for _, text := range globs {
		b.spend(len(text) + len(file))
		if newGlob(text).matches(file) {
			return true
		}
	}
	return false
}
