package catalogue

import (
	"fmt"
	"maps"
	"path"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
)

// meanings are what a name in pins may stand for.
var meanings = []string{"newest", "newest-long-term", "second-newest", "development"}

// checking finds what is wrong with a tool's file. Problems name the line.
type checking struct {
	file     toolFile
	tool     *Tool
	problems []error
}

// check reads the tool and gives what is wrong with its file: keys and values of another
// kind, words that nothing knows, and patterns that can never match.
func (f *toolFile) check() []error {
	c := &checking{file: *f, tool: f.tool}
	const what = "a tool's file"
	form{fail: c.fail}.value(f.root, reflect.TypeFor[Tool](), what)
	if err := f.root.Decode(f.tool); err != nil || len(c.problems) > 0 {
		c.problems = nil
		form{c.fail, true}.value(f.root, reflect.TypeFor[Tool](), what)
		if len(c.problems) == 0 {
			c.fail(f.root.Line, "%v", err)
		}
		return c.problems
	}
	f.tool.file, f.tool.text = f.name, f.data
	c.words()
	c.reading()
	c.installation()
	c.asking()
	if f.tool.scheme != version.NoScheme {
		c.fetching()
		c.dropping()
		c.lines()
	}
	return c.problems
}

// words checks what the tool is called, and its grammar.
func (c *checking) words() {
	t := c.tool
	for key, value := range map[string]string{"tool": t.Name, "title": t.Title, "scheme": t.SchemeName, "dialect": t.Dialect} {
		if value == "" {
			c.fail(c.at(key), "a tool's file should have %s", key)
		}
	}
	if t.Name != "" && !toolName.MatchString(t.Name) {
		c.fail(c.at("tool"), "%q is no name of a tool; it has lower-case letters, digits and dashes", t.Name)
	}
	known := false
	if t.scheme, known = version.SchemeNamed(t.SchemeName); t.SchemeName != "" && !known {
		c.fail(c.at("scheme"), "unknown scheme %q; %s", t.SchemeName, nearest.Hint(t.SchemeName, version.SchemeNames()))
	}
	c.dialect(t.Dialect, "dialect")
	c.dialect(t.SetupDialect, "setup-dialect")
	for _, name := range slices.Sorted(maps.Keys(t.Aliases)) {
		if !slices.Contains(meanings, t.Aliases[name]) {
			c.fail(c.at("aliases", name), "the name %q stands for %q; it can stand for %s", name, t.Aliases[name], strings.Join(meanings, " or "))
		}
	}
	for i, f := range t.Frameworks {
		if _, known := version.SchemeNamed(f.Scheme); f.Scheme != "" && !known {
			c.fail(c.at("frameworks", strconv.Itoa(i), "scheme"), "framework %s: unknown scheme %q; %s", f.Name, f.Scheme, nearest.Hint(f.Scheme, version.SchemeNames()))
		}
		if f.Name == "" {
			c.fail(c.at("frameworks", strconv.Itoa(i)), "a framework should have a name")
		}
	}
}

// toolName is how a tool is called in files and on the command line.
var toolName = regexp.MustCompile(`^[a-z0-9][a-z0-9-]*$`)

// reading checks where claims are read from.
func (c *checking) reading() {
	t := c.tool
	c.files(t.Uses, "uses")
	for i := range t.Claims {
		r, at := &t.Claims[i], strconv.Itoa(i)
		if key, reason := r.check(); reason != "" {
			c.fail(c.at("claims", at, key), "%s", reason)
		}
		if path := r.Reading == "path" || r.Reading == "name"; r.Dialect == "" && r.MeansOf == "" && !path {
			r.Dialect = t.Dialect
		}
		if r.line = c.at("claims", at); !r.perPackage() { // of which each may have an order of its own
			c.dialectFor(c.schemeOf(r), r.Dialect, "claims", at, "dialect")
		}
		if r.Format != "folders" { // whose names are the claims
			c.files(r.Files, "claims", at, "files")
		}
	}
	for i := range t.Steps {
		at := strconv.Itoa(i)
		c.dialect(t.Steps[i].Dialect, "steps", at, "dialect")
		if t.Steps[i].Uses == "" || t.Steps[i].Input == "" && !t.Steps[i].Reference {
			c.fail(c.at("steps", at), "a step needs the name it is used by, and an input or reference: true")
		}
	}
	for i := range t.Spellings {
		c.dialect(t.Spellings[i].Dialect, "spellings", strconv.Itoa(i), "dialect")
	}
}

// installation checks how an installation is found and told.
func (c *checking) installation() {
	in := c.tool.Installation
	for i, pattern := range in.Executables {
		if _, err := path.Match(pattern, ""); err != nil {
			c.fail(c.at("installation", "executables", strconv.Itoa(i)), "%q is no pattern of a file's name", pattern)
		}
	}
	for i, source := range in.Version {
		at := []string{"installation", "version", strconv.Itoa(i)}
		if source.Pattern.Regexp == nil {
			c.fail(c.at(at...), "a source of the version should have a pattern")
			continue
		}
		if source.Pattern.NumSubexp() == 0 {
			c.fail(c.at(append(at, "pattern")...), "the pattern '%s' should have a group around the version", source.Pattern)
		}
		if plain, _ := source.Pattern.LiteralPrefix(); source.Itself && len(plain) < leastPlain {
			c.fail(c.at(append(at, "pattern")...), "a pattern that is searched for in executables begins with plain text of at least %d characters; '%s' does not", leastPlain, source.Pattern)
		}
	}
}

func (c *checking) fail(line int, format string, args ...any) {
	c.problems = append(c.problems, Problem{c.file.name, line, fmt.Sprintf(format, args...)})
}

// dialect checks the name of a dialect, and that it is one for the tool's versions.
func (c *checking) dialect(name string, at ...string) { c.dialectFor(c.tool.scheme, name, at...) }

func (c *checking) dialectFor(s version.Scheme, name string, at ...string) {
	if name == "" {
		return
	}
	if err := version.DialectFits(name, s); err != nil && (s != version.NoScheme || !slices.Contains(version.DialectNames(), name)) {
		c.fail(c.at(at...), "%v", err)
	}
}

// schemeOf is the order of the versions that a claim speaks of.
func (c *checking) schemeOf(r *ClaimRule) version.Scheme {
	for _, f := range c.tool.Frameworks {
		if f.Name == r.Component && f.Scheme != "" {
			s, _ := version.SchemeNamed(f.Scheme)
			return s
		}
	}
	return c.tool.scheme
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
	n := c.file.root
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
