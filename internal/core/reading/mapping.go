package reading

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

var (
	yamlLine    = regexp.MustCompile(`^["']?[A-Za-z][\w.-]*["']?:(?:\s|$)`)
	tomlSection = regexp.MustCompile(`^\[[\w."-]+\]$`)
)

// mapped reads a small file that holds a mapping from tool names to versions, at its top
// or one or two levels down. It tells whether the file is a structured one at all.
func (s *scanning) mapped(lines []document.Line) bool {
	format := structured(path.Ext(s.Path), lines)
	if format == "" {
		return false
	}
	doc, err := document.Parse(format, s.Source(s.Selectors))
	if err != nil {
		// Not a known file: that it cannot be parsed is nobody's problem.
		return path.Ext(s.Path) != path.Base(s.Path) && path.Ext(s.Path) != ""
	}
	tree, ok := doc.(*document.Tree)
	if !ok || tree.Root.Kind != document.Mapping {
		return false
	}
	s.keyed(tree.Root, nil)
	if s.mapping(tree.Root, nil, true) {
		return true
	}
	found := false
	for _, c := range tree.Root.Children {
		found = s.nested(c, []string{c.Key}, 2) || found
	}
	return found || format == "json"
}

// visible tells whether the file is no dot-file and lies in no dot-folder: there are many
// such files, and few of them speak of tools.
func (s *scanning) visible() bool { return s.Path[0] != '.' && !strings.Contains(s.Path, "/.") }

// maxKeyed is how deep below the top keys are looked for that are called after a tool and
// version.
const maxKeyed = 3

// keyed reads keys such as flutterSdkVersion and node_version, wherever they stand, and such
// as dart-sdk where no key above gives them another meaning.
func (s *scanning) keyed(n *document.Node, above []string) {
	if n.Kind != document.Mapping || len(above) > maxKeyed {
		return
	}
	for _, c := range n.Children {
		path := append(slices.Clip(above), c.Key)
		if c.Kind != document.Scalar {
			s.keyed(c, path)
			continue
		}
		tool, known := s.ToolKey(c.Key)
		if !known && !slices.ContainsFunc(above, func(key string) bool { return slices.Contains(s.Catalogue.Places().Ordinary.Keys, key) }) {
			tool, known = s.KitKey(c.Key)
		}
		if !known || s.tellsNewest(c.Key) {
			continue
		}
		if of := ownedBeside(n, c.Key); of != "" {
			s.Mention(tool, c.Value(), "with "+of+" beside it, it is the version of a package")
			continue
		}
		if !claim.VersionLike(c.Text) || !claim.Fits(tool, c.Text) || !claim.Plausible(tool, c.Text) {
			s.Mention(tool, c.Value(), "no version of "+tool.Title)
			continue
		}
		s.entry(tool, c, roleBelow(above), claim.Medium, strings.Join(path, ".")+" is called after a tool and its version")
	}
}

// ownedBeside is a key beside another that says that both are of a package that is made, and not
// of the tool that makes it: npmName beside npmVersion. It is empty where there is none.
func ownedBeside(n *document.Node, key string) string {
	stem := strings.TrimRight(strings.TrimSuffix(strings.TrimSuffix(key, "Version"), "version"), "-_.")
	for _, c := range n.Children {
		rest, ok := strings.CutPrefix(c.Key, stem)
		switch strings.ToLower(strings.TrimLeft(rest, "-_.")) {
		case "name", "package", "packagename", "repository", "scope":
			if ok && stem != key {
				return c.Key
			}
		}
	}
	return ""
}

// roleBelow is what versions below some keys do.
func roleBelow(path []string) claim.Role {
	if slices.ContainsFunc(path, func(key string) bool { return slices.Contains(settingUp, key) }) {
		return claim.Setup
	}
	return claim.Pin
}

func structured(ext string, lines []document.Line) string {
	switch ext {
	case ".json", ".jsonc":
		return "json"
	case ".yaml", ".yml":
		return "yaml"
	case ".toml":
		return "toml"
	}
	if len(lines) == 0 {
		return ""
	}
	first := lines[0].Text
	switch {
	case first[0] == '{':
		return "json"
	case slices.ContainsFunc(lines, func(l document.Line) bool { return tomlSection.MatchString(l.Text) }):
		return "toml"
	case !slices.ContainsFunc(lines, func(l document.Line) bool { return !yamlLine.MatchString(l.Text) && l.Text != "---" }):
		return "yaml"
	}
	return ""
}

// nested looks for a mapping of tools below a key that has no other meaning.
func (s *scanning) nested(n *document.Node, path []string, levels int) bool {
	places := s.Catalogue.Places()
	if n.Kind != document.Mapping || levels == 0 || slices.Contains(places.Ordinary.Keys, n.Key) && (s.knownFile || !slices.Contains(places.Naming, n.Key)) {
		return false
	}
	if s.mapping(n, path, false) {
		return true
	}
	found := false
	for _, c := range n.Children {
		found = s.nested(c, append(slices.Clip(path), c.Key), levels-1) || found
	}
	return found
}

// settingUp are the keys below which versions are what a service sets up.
var settingUp = []string{"build", "ci", "environment", "image", "setup", "jobs"}

// mapping reads a mapping in which every value is a version and, below a key, every name
// is a tool's. At the top of a small file unknown names beside known ones are unclaimed.
func (s *scanning) mapping(n *document.Node, path []string, top bool) bool {
	type entry struct {
		tool *catalogue.Tool
		at   *document.Node
	}
	var entries []entry
	known, dots := 0, 0
	for _, c := range n.Children {
		at := c
		if c.Kind == document.Mapping && len(c.Children) <= 4 { // {version: "20", …}
			at = c.Child("version")
		}
		if c.Kind == document.List && len(c.Children) > 0 { // fallbacks in order
			at = c.Children[0]
		}
		if at == nil || at.Kind != document.Scalar {
			return false
		}
		tool, ok := s.Catalogue.Tool(c.Key)
		switch {
		case ok && exactly(tool, at):
			known++
		case ok || !top || !claim.VersionLike(at.Text) || !strings.Contains(at.Text, "."):
			return false
		}
		if strings.Contains(at.Text, ".") {
			dots++
		}
		entries = append(entries, entry{tool, c})
	}
	named := len(path) > 0 && slices.Contains(s.Catalogue.Places().Naming, path[len(path)-1])
	if known == 0 || s.visible() && !named && (dots == 0 || known < len(entries)) {
		return false
	}
	limits := len(path) > 0 && slices.Contains(s.Catalogue.Places().Ordinary.Limits, path[len(path)-1])
	if limits || s.visible() && !named && !s.knownFile && known == 1 { // one name among a program's settings
		for _, e := range entries {
			if e.tool != nil {
				s.unread(e.tool, e.at, path)
				break
			}
		}
		return true
	}
	certainty, why := claim.High, "the file maps tool names to versions"
	if !top {
		certainty, why = claim.Medium, fmt.Sprintf("%s maps tool names to versions", strings.Join(path, "."))
	}
	if s.visible() && !named {
		certainty, why = claim.Medium, why+"; nothing says who reads it"
	}
	for _, e := range entries {
		s.entry(e.tool, e.at, roleBelow(path), certainty, why)
	}
	return true
}

// unread tells of a tool with a version in the settings of a program that nobody knows.
func (s *scanning) unread(tool *catalogue.Tool, n *document.Node, keys []string) {
	line, column := s.Position(n.Offset)
	format := structured(path.Ext(s.Path), nil)
	selector := "$"
	for _, key := range append(slices.Clip(keys), n.Key) {
		selector += fmt.Sprintf("[%q]", key)
	}
	s.Said.Problems = append(s.Said.Problems, claim.Problem{Kind: claim.Unclaimed, Folder: s.Folder, File: s.Path, Line: line, Column: column, Raw: document.Clip(n.Text),
		Reason: fmt.Sprintf("%s looks like a version of %s, and nothing says who reads it", strings.Join(append(slices.Clip(keys), n.Key), "."), tool.Title),
		Settle: fmt.Sprintf("claims:\n  - {files: [%s], tool: %s, format: %s, select: ['%s']}", quoted(s.Path), tool.Name, format, selector)})
}

// exactly tells whether a scalar can be a pin of the tool in a mapping: a version or
// name, no range, no yes or no.
func exactly(tool *catalogue.Tool, n *document.Node) bool {
	switch n.Text {
	case "true", "false", "yes", "no", "on", "off", "":
		return false
	}
	return len(n.Text) <= 64 && !strings.ContainsAny(n.Text, "<>^~|, ") && (keptText(n.Text) != "" || claim.Fits(tool, n.Text))
}

func (s *scanning) entry(tool *catalogue.Tool, n *document.Node, role claim.Role, certainty, why string) {
	first := n
	var rest []string
	switch n.Kind {
	case document.Mapping:
		first = n.Child("version")
	case document.List:
		first = n.Children[0]
		for _, c := range n.Children[1:] {
			rest = append(rest, c.Text)
		}
	}
	if tool == nil {
		s.unclaimed(document.Line{Text: first.Text, Offset: first.Offset}, fmt.Sprintf("it pins %s, a tool that the catalogue does not know", n.Key), "")
		return
	}
	if s.claimed(tool, first.Offset) {
		return
	}
	c := s.shaped(tool, first.Value(), certainty, why)
	c.Role = role
	if what := keptText(first.Text); what != "" {
		c.Reading, c.Why = "kept", what
	}
	if first.Number != "" {
		c.Means, c.Why = first.Number, why+"; without quotes it is the number "+first.Number
	}
	s.fallbacks(&c, tool, rest)
	s.Add(c)
}

// claimed tells whether a rule made a claim of the tool of what stands at an offset.
func (s *scanning) claimed(tool *catalogue.Tool, offset int) bool {
	line, column := s.Position(offset)
	return slices.ContainsFunc(s.Said.Claims, func(c claim.Claim) bool { return c.Line == line && c.Column == column && c.Tool == tool.Name })
}

// nestedTools looks for mappings of tools in a known file, below keys that no rule and no
// ecosystem gives another meaning.
func (s *scanning) nestedTools() {
	for format, doc := range s.Parsed {
		tree, ok := doc.(*document.Tree)
		if !ok || tree.Root.Kind != document.Mapping || (format != "json" && format != "toml") || len(s.Data) > scan.MaxShape {
			continue
		}
		if s.Said.Holds != nil || s.Catalogue.Places().ScopeOf(s.Path) != "" {
			continue
		}
		for _, c := range tree.Root.Children {
			s.nested(c, []string{c.Key}, 2)
		}
	}
}
