package catalogue

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/document"
	"wexo/internal/core/nearest"
)

// ClaimRule describes a claim that known files make.
type ClaimRule struct {
	// Files are base names, globs of them, or paths. A claim holds from the folder in
	// which the whole path starts: .vscode/settings.json speaks for the folder above it.
	Files   []string `yaml:"files"`
	Format  string   `yaml:"format"`  // how the files are read: json, yaml, toml, xml, hcl, ini, properties, gomod, cmake, plain, raw, or as text with hash or percent comments
	Select  []string `yaml:"select"`  // the first that is there makes the claim
	Every   bool     `yaml:"every"`   // all that are there make claims
	Pattern Pattern  `yaml:"pattern"` // a regular expression of the selected text, or of the file; its group is the version
	Split   string   `yaml:"split"`   // what parts several values in one text
	Join    []string `yaml:"join"`    // keys of the selected mapping whose values, joined by dots, are the text
	Role    string   `yaml:"role"`    // pin, bound, wiring, setup, tested, component or residue
	Dialect string   `yaml:"dialect"` // how the text is written; the tool's own where it is left out
	// Reading tells how the text is meant: "" as its dialect says, "minimum" this or newer, "level" the
	// same for what the code is written for, which newer versions may refuse (the tool's dropped),
	// minimum-same-major, -minor or -hundred within what they name, "caret" with carets and
	// tildes beside the dialect's own operators, "path" a path, "name" a name that an editor
	// gives to an installation.
	Reading   string            `yaml:"reading"`
	Ignore    []string          `yaml:"ignore"`    // texts that say nothing
	Means     map[string]string `yaml:"means"`     // what a text stands for; texts that are not listed make no claim
	MeansOf   string            `yaml:"means-of"`  // the table of rules that says what a text stands for
	Serves    string            `yaml:"serves"`    // "editor" where a path is the editor's own runtime, not the project's
	Brings    bool              `yaml:"brings"`    // the file makes the build fetch the tool itself; no installation is needed
	Fetched   bool              `yaml:"fetched"`   // the tool's own programs read it, and fetch what it asks for as the tool's fetches says
	Alternate bool              `yaml:"alternate"` // it may name one of several tools of which a project uses one
	When      *Condition        `yaml:"when"`      // only in files where another value is as given
	Unless    []string          `yaml:"unless"`    // selectors; where one finds something there is no claim
	Component string            `yaml:"component"` // of a component: the framework whose version it is
	Tells     string            `yaml:"tells"`     // what rules speak of that a pin or bound tells too
	Certainty string            `yaml:"certainty"` // high where it is left out
	Why       string            `yaml:"why"`       // why the certainty is not high
	Spell     string            `yaml:"spell"`     // what the text stands for, with $1 and $2 for the pattern's groups: py39 is $1.$2
	Items     Pattern           `yaml:"items"`     // of a list that the pattern finds in a script: its group is one of the values
	Least     bool              `yaml:"least"`     // of several values only the lowest counts: what is written for all of them runs on it
	Braces    bool              `yaml:"braces"`    // parts of a list may stand in braces: py{38,39}
	Locked    *Locked           `yaml:"locked"`    // of a lock file: its entries, each with a demand on the tool
	Clears    []string          `yaml:"clears"`    // of a residue: what to delete, beside its file; else the file's folder
	Anew      []string          `yaml:"anew"`      // of a residue: lock files of the folder from which it is made anew
	// Holds is what a script must hold for the pattern to find anything: a package's name.
	// Empty where that is not known.
	Holds string `yaml:"-"`
	line  int
}

// Condition limits a rule to files where another value is as given.
type Condition struct {
	Select string `yaml:"select"` // where the other value stands
	Is     string `yaml:"is"`     // what it has to be
}

// Selection is which values of a file the rule means.
func (r *ClaimRule) Selection() *document.Selection {
	s := &document.Selection{Select: r.Select, Every: r.Every, Pattern: r.Pattern.Regexp, Items: r.Items.Regexp, Spell: r.Spell, Split: r.Split,
		Braces: r.Braces, Join: r.Join, Ignore: r.Ignore, Unless: r.Unless, Holds: r.Holds}
	if r.When != nil {
		s.When = &document.Condition{Select: r.When.Select, Is: r.When.Is}
	}
	return s
}

// Locked describes the entries of a lock file, each a dependency with a demand on the tool.
type Locked struct {
	Each    string   `yaml:"each"`    // selector of the entries
	Key     Pattern  `yaml:"key"`     // the entry's own key must be like this; its groups are name and version
	Name    string   `yaml:"name"`    // key below an entry
	Version string   `yaml:"version"` // key below an entry
	Demand  string   `yaml:"demand"`  // keys below an entry, parted by slashes
	Unless  []string `yaml:"unless"`  // keys below an entry; where one is true the entry does not count
}

// Framework is a library that rules speak of, with the packages whose version is its own.
type Framework struct {
	Name     string   `yaml:"name"`     // what rules call it
	Title    string   `yaml:"title"`    // what people read; the name where it is left out
	Packages []string `yaml:"packages"` // packages of manifests whose version is its own
	Scheme   string   `yaml:"scheme"`   // the order of its versions; the tool's where it is left out
	Words    bool     `yaml:"words"`    // it has no versions, but is one of some words
}

// packageMark stands in a selector or pattern for each package of each framework.
const packageMark = "{package}"

var (
	roles    = []string{"pin", "bound", "wiring", "setup", "tested", "component", "residue"}
	readings = []string{"minimum", "level", "minimum-same-major", "minimum-same-minor", "minimum-same-hundred", "caret", "path", "name"}
)

// certainties are how sure a claim can be.
var certainties = []string{"high", "medium", "low"}

// check gives the key of a claim that is wrong and why; "" where none is.
func (r *ClaimRule) check() (key, reason string) {
	for _, word := range []struct {
		key, value string
		known      []string
		empty      bool
	}{{"role", r.Role, roles, false}, {"reading", r.Reading, readings, true}, {"certainty", r.Certainty, certainties, true}} {
		switch {
		case word.value == "" && word.empty, slices.Contains(word.known, word.value):
		case word.value == "":
			return "", "a claim should have a " + word.key + ": " + nearest.Listed(word.known, "or")
		default:
			return word.key, fmt.Sprintf("unknown %s %q; %s", word.key, word.value, nearest.Hint(word.value, word.known))
		}
	}
	switch {
	case r.Spell != "" && r.Pattern.Regexp == nil:
		return "spell", "a claim spells a text without a pattern to take its parts from"
	case len(r.Files) == 0:
		return "", "a " + r.Role + " claim names no files"
	case r.Format == "":
		return "", "a " + r.Role + " claim should say in format how its files are read"
	}
	return "", ""
}

// perPackage reports whether the rule stands for one of each package of each framework.
func (r *ClaimRule) perPackage() bool {
	return r.marked() || slices.ContainsFunc(r.Select, func(s string) bool { return strings.Contains(s, packageMark) })
}

// marked reports whether a package's name is a part of the pattern.
func (r *ClaimRule) marked() bool {
	return r.Pattern.Regexp != nil && strings.Contains(r.Pattern.String(), packageMark)
}

// instances are the rule itself, or a rule for each package of each framework where the
// rule's selectors or its pattern hold a mark for one.
func (r *ClaimRule) instances(frameworks []Framework) ([]*ClaimRule, error) {
	if !r.perPackage() {
		return []*ClaimRule{r}, nil
	}
	inPattern := r.marked()
	var out []*ClaimRule
	for _, f := range frameworks {
		for _, name := range f.Packages {
			instance := *r
			instance.Component = f.Name
			instance.Select = nil
			for _, s := range r.Select {
				instance.Select = append(instance.Select, strings.ReplaceAll(s, packageMark, name))
			}
			if inPattern {
				re, err := regexp.Compile(strings.ReplaceAll(r.Pattern.String(), packageMark, regexp.QuoteMeta(name)))
				if err != nil {
					return nil, fmt.Errorf("pattern for %s: %w", name, err)
				}
				instance.Pattern, instance.Holds = Pattern{re}, name
				if strings.Contains(r.Pattern.String(), packageMark+"@") {
					instance.Holds += "@"
				}
			}
			out = append(out, &instance)
		}
	}
	return out, nil
}

// Use is a claim rule together with its tool. Without a rule, the file only shows that
// its folder uses the tool.
type Use struct {
	Tool *Tool
	Rule *ClaimRule
}

// Problem is something that is wrong with the rule, at its place in the tool's file.
func (u Use) Problem(reason string) Problem { return Problem{u.Tool.file, u.Rule.line, reason} }

// fileIndex finds the rules for a path quickly: by base name, by ending, by beginning.
type fileIndex struct {
	exact    map[string][]filed
	byEnding map[string][]filed // *.csproj
	byStart  map[string][]filed // Dockerfile.*, Dockerfile-*, compose.*.yaml
}

type filed struct {
	pattern string
	use     Use
	kind    string
}

func (x *fileIndex) add(patterns []string, use Use, kind string) {
	if x.exact == nil {
		*x = fileIndex{map[string][]filed{}, map[string][]filed{}, map[string][]filed{}}
	}
	for _, pattern := range patterns {
		base := pattern[strings.LastIndexByte(pattern, '/')+1:]
		f := filed{pattern, use, kind}
		switch {
		case strings.HasPrefix(base, "*."):
			ending := base[strings.LastIndexByte(base, '.'):]
			x.byEnding[ending] = append(x.byEnding[ending], f)
		case strings.Contains(base, ".*") || strings.Contains(base, "-*"):
			start, _, _ := strings.Cut(base, "*")
			x.byStart[start] = append(x.byStart[start], f)
		default:
			x.exact[base] = append(x.exact[base], f)
		}
	}
}

// candidates are the rules whose base name fits.
func (x *fileIndex) candidates(base string) [4][]filed {
	var out [4][]filed
	out[0] = x.exact[base]
	if dot := strings.LastIndexByte(base, '.'); dot > 0 {
		out[1] = x.byEnding[base[dot:]]
	}
	for i, mark := range []byte{'.', '-'} {
		if at := strings.IndexByte(base, mark); at > 0 {
			out[2+i] = x.byStart[base[:at+1]]
		}
	}
	return out
}

// Found is a rule that reads a file, and the folder that the file speaks for.
type Found struct {
	Use
	Folder string
}

// RulesFor lists what is known to read from a file with this path, most of all where in
// the tree it then holds.
func (c *Catalogue) RulesFor(path string) []Found {
	var out []Found
	base := path[strings.LastIndexByte(path, '/')+1:]
	for _, list := range c.files.candidates(base) {
		for _, f := range list {
			folder, ok := HoldsFrom(f.pattern, path)
			if !ok {
				continue
			}
			same := slices.IndexFunc(out, func(o Found) bool { return o.Use == f.use })
			switch {
			case same < 0:
				out = append(out, Found{f.use, folder})
			case len(folder) < len(out[same].Folder): // the longer pattern knows better
				out[same].Folder = folder
			}
		}
	}
	return out
}

// Covers reports whether a path ends in one of some patterns, as HoldsFrom reads them.
func Covers(patterns []string, path string) bool {
	return slices.ContainsFunc(patterns, func(pattern string) bool { _, ok := HoldsFrom(pattern, path); return ok })
}

// HoldsFrom tells whether a path ends in a pattern, and the folder above what matched.
// In a pattern's folders "**" stands for any number of folders.
func HoldsFrom(pattern, path string) (folder string, ok bool) {
	depth := strings.Count(pattern, "/")
	parts := strings.Split(path, "/")
	wanted := strings.Split(pattern, "/")
	if depth > 0 && wanted[depth-1] == "**" {
		for at := range parts {
			if parts[at] == wanted[0] && at < len(parts)-1 && matches(wanted[depth], parts[len(parts)-1]) {
				return strings.Join(parts[:at], "/"), true
			}
		}
		return "", false
	}
	if len(parts) < len(wanted) {
		return "", false
	}
	from := len(parts) - len(wanted)
	for i, w := range wanted {
		if !matches(w, parts[from+i]) {
			return "", false
		}
	}
	return strings.Join(parts[:from], "/"), true
}

// matches compares a name with a pattern in which one star may stand for some characters.
func matches(pattern, name string) bool {
	before, after, star := strings.Cut(pattern, "*")
	if !star {
		return pattern == name
	}
	return len(name) > len(before)+len(after) && strings.HasPrefix(name, before) && strings.HasSuffix(name, after)
}

// Known tells whether any rule reads a file with this base name.
func (c *Catalogue) Known(base string) bool {
	for _, x := range []*fileIndex{&c.files, &c.places.index} {
		for _, list := range x.candidates(base) {
			if len(list) > 0 {
				return true
			}
		}
	}
	return false
}

func (x *fileIndex) all() [][]filed {
	var out [][]filed
	for _, m := range []map[string][]filed{x.exact, x.byEnding, x.byStart} {
		for _, key := range slices.Sorted(maps.Keys(m)) {
			out = append(out, m[key])
		}
	}
	return out
}
