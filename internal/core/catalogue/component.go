package catalogue

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"wexo/internal/core/version"
)

// SchemeOf is the order of a framework's versions; false for what is no framework.
func (c *Catalogue) SchemeOf(framework string) (version.Scheme, bool) {
	f, t := c.framework(framework)
	switch {
	case f == nil || f.Words:
		return version.NoScheme, false
	case f.Scheme == "":
		return t.scheme, true
	}
	return version.SchemeNamed(f.Scheme)
}

func (c *Catalogue) framework(name string) (*Framework, *Tool) {
	at, known := c.frameworks[name]
	if !known {
		return nil, nil
	}
	return &at.tool.Frameworks[at.n], at.tool
}

// component is a framework's place.
type component struct {
	tool *Tool
	n    int
}

// Frameworks lists every framework's name, sorted.
func (c *Catalogue) Frameworks() []string { return slices.Sorted(maps.Keys(c.frameworks)) }

// Worded reports whether a framework has no versions, but is one of some words.
func (c *Catalogue) Worded(framework string) bool {
	f, _ := c.framework(framework)
	return f != nil && f.Words
}

// Title is what a tool or framework is called; the name itself where it is neither.
func (c *Catalogue) Title(name string) string {
	if t, known := c.Tool(name); known {
		return t.Title
	}
	if f, _ := c.framework(name); f != nil && f.Title != "" {
		return f.Title
	}
	return name
}

// SchemeNamed is the order of the versions of a tool or framework.
func (c *Catalogue) SchemeNamed(name string) (version.Scheme, bool) {
	if t, known := c.Tool(name); known {
		return t.scheme, true
	}
	return c.SchemeOf(name)
}

// Range reads a range as rules and baselines write it: a version or a line alone, in
// whatever scheme; npm's words for semver, pep440 for Python, those of gems for gems;
// for the other schemes brackets, or comparisons such as ">=17 <22".
func Range(s version.Scheme, text string) (version.Set, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return version.Set{}, fmt.Errorf("a range is empty; %q means any version", "*")
	}
	if text == "*" {
		return version.All(s), nil
	}
	if plain(text) {
		set, err := version.ParseRange("plain", s, text)
		return set.WithPrereleases(), err
	}
	switch name := s.String(); {
	case name == "semver":
		return version.ParseRange("npm", s, text)
	case name == "pep440" || name == "rubygems" || name == "composer":
		return version.ParseRange(name, s, text)
	case text[0] == '[' || text[0] == '(':
		return version.ParseRange("maven", s, text)
	}
	return comparisons(s, text)
}

// plain reports whether a text is a version or a line and no range.
func plain(text string) bool {
	return text[0] >= '0' && text[0] <= '9' && !strings.ContainsAny(text, " ,|*")
}

// comparisons reads ">=17 <22 || 25" in any scheme.
func comparisons(s version.Scheme, text string) (version.Set, error) {
	out := version.None(s)
	for alternative := range strings.SplitSeq(text, "||") {
		one := version.All(s)
		for part := range strings.FieldsFuncSeq(alternative, func(r rune) bool { return r == ' ' || r == ',' }) {
			set, err := comparison(s, part)
			if err != nil {
				return out, err
			}
			one = one.Intersect(set)
		}
		out = out.Unite(one)
	}
	return out, nil
}

func comparison(s version.Scheme, part string) (version.Set, error) {
	number := strings.TrimLeft(part, "<>=")
	switch operator := part[:len(part)-len(number)]; {
	case number == "" || !plain(number):
		return version.Set{}, fmt.Errorf("%q is no comparison such as >=17, <22 or 21", part)
	case operator == "":
		set, err := version.ParseRange("plain", s, number)
		return set.WithPrereleases(), err
	case operator == ">=":
		return version.Minimum(s, number)
	case operator == "<":
		set, err := version.Minimum(s, number)
		return set.Complement(), err
	}
	return version.Set{}, fmt.Errorf("%q is no comparison such as >=17, <22 or 21", part)
}

// ToolOf is the tool that a framework is of.
func (c *Catalogue) ToolOf(framework string) (*Tool, bool) {
	f, t := c.framework(framework)
	return t, f != nil
}
