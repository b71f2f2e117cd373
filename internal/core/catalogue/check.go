package catalogue

import (
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/version"
)

// meanings are what a name in pins may stand for.
var meanings = []string{"newest", "newest-long-term", "second-newest", "development"}

// checking finds what is wrong with a tool's file beyond its form: words that nothing
// knows, and patterns that can never match. Problems name the line.
type checking struct {
	tool     *Tool
	root     *yaml.Node
	problems []error
}

// check gives what is wrong with a file that could be decoded.
func (f *toolFile) check() error {
	c := &checking{tool: f.tool}
	var doc yaml.Node
	if err := yaml.Unmarshal(f.data, &doc); err == nil && len(doc.Content) > 0 {
		c.root = doc.Content[0]
	}
	t := f.tool
	if _, ok := version.SchemeNamed(t.SchemeName); t.SchemeName != "" && !ok {
		c.fail(c.at("scheme"), "unknown scheme %q; known are %s", t.SchemeName, strings.Join(version.SchemeNames(), ", "))
	}
	c.dialect(t.Dialect, "dialect")
	c.dialect(t.SetupDialect, "setup-dialect")
	for _, name := range slices.Sorted(maps.Keys(t.Aliases)) {
		if !slices.Contains(meanings, t.Aliases[name]) {
			c.fail(c.at("aliases", name), "the name %q stands for %q; it can stand for %s", name, t.Aliases[name], strings.Join(meanings, " or "))
		}
	}
	c.files(t.Uses, "uses")
	for i := range t.Claims {
		r, at := &t.Claims[i], strconv.Itoa(i)
		if err := r.check(); err != nil {
			c.fail(c.at("claims", at), "%v", err)
		}
		c.dialect(r.Dialect, "claims", at)
		if r.Format != "folders" { // whose names are the claims
			c.files(r.Files, "claims", at)
		}
	}
	for i := range t.Steps {
		c.dialect(t.Steps[i].Dialect, "steps", strconv.Itoa(i))
		if t.Steps[i].Uses == "" || t.Steps[i].Input == "" && !t.Steps[i].Reference {
			c.fail(c.at("steps", strconv.Itoa(i)), "a step needs the name it is used by, and an input or reference: true")
		}
	}
	for i, pattern := range t.Installation.Executables {
		if _, err := path.Match(pattern, ""); err != nil {
			c.fail(c.at("installation", "executables", strconv.Itoa(i)), "%q is no pattern of a file's name", pattern)
		}
	}
	return errors.Join(c.problems...)
}

func (c *checking) fail(line int, format string, args ...any) {
	c.problems = append(c.problems, fmt.Errorf("line %d: %s", line, fmt.Sprintf(format, args...)))
}

func (c *checking) dialect(name string, at ...string) {
	if name != "" && !slices.Contains(version.DialectNames(), name) {
		c.fail(c.at(at...), "unknown dialect %q; known are %s", name, strings.Join(version.DialectNames(), ", "))
	}
}

func (c *checking) files(patterns []string, at ...string) {
	for _, pattern := range patterns {
		if why := neverMatches(pattern); why != "" {
			c.fail(c.at(at...), "the file pattern %q can never match: %s", pattern, why)
		}
	}
}

// neverMatches tells why no file's path can end in a pattern; "" where one can. A name may
// hold one star: in place of all before its ending, or behind a dot or a dash.
func neverMatches(pattern string) string {
	parts := strings.Split(pattern, "/")
	base := parts[len(parts)-1]
	before, _, star := strings.Cut(base, "*")
	switch {
	case base == "" || slices.Contains(parts, "") || slices.Contains(parts, "..") || slices.Contains(parts, "."):
		return "it is no path of a file"
	case strings.ContainsAny(pattern, "?[]{}"):
		return "only a star stands for other characters"
	case star && !strings.HasPrefix(base, "*.") && !strings.HasSuffix(before, ".") && !strings.HasSuffix(before, "-"):
		return "a star stands before an ending, or behind a dot or a dash"
	case slices.ContainsFunc(parts, func(part string) bool { return part != "**" && strings.Count(part, "*") > 1 }):
		return "one star is understood in a name"
	}
	return ""
}

// at is the line of a value, or of the nearest one above it that is there.
func (c *checking) at(keys ...string) int {
	n := c.root
	if n == nil {
		return 1
	}
	for _, key := range keys {
		var next *yaml.Node
		switch n.Kind {
		case yaml.MappingNode:
			for i := 0; i+1 < len(n.Content); i += 2 {
				if n.Content[i].Value == key {
					next = n.Content[i+1]
				}
			}
		case yaml.SequenceNode:
			if i, err := strconv.Atoi(key); err == nil && i < len(n.Content) {
				next = n.Content[i]
			}
		}
		if next == nil {
			return n.Line
		}
		n = next
	}
	return n.Line
}
