package claim

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
)

var (
	yamlLine    = regexp.MustCompile(`^["']?[A-Za-z][\w.-]*["']?:(?:\s|$)`)
	tomlSection = regexp.MustCompile(`^\[[\w."-]+\]$`)
)

// mapped reads a small file that holds a mapping from tool names to versions, at its top
// or one or two levels down. It tells whether the file is a structured one at all.
func (s *scanning) mapped(lines []textLine) bool {
	format := structured(path.Ext(s.file), lines)
	if format == "" {
		return false
	}
	doc, err := parse(format, source{s.Data, s.reader.selectors, s.budget})
	if err != nil {
		// Not a known file: that it cannot be parsed is nobody's problem.
		return path.Ext(s.file) != path.Base(s.file) && path.Ext(s.file) != ""
	}
	tree, ok := doc.(*treeDocument)
	if !ok || tree.root.kind != mappingNode {
		return false
	}
	if s.mapping(tree.root, nil, true) {
		return true
	}
	found := false
	for _, c := range tree.root.children {
		found = s.nested(c, []string{c.key}, 2) || found
	}
	return found || format == "json"
}

func structured(ext string, lines []textLine) string {
	switch ext {
	case ".json", ".jsonc":
		return "json"
	case ".yaml", ".yml":
		return "yaml"
	case ".toml":
		return "toml"
	}
	first := lines[0].text
	switch {
	case first[0] == '{':
		return "json"
	case slices.ContainsFunc(lines, func(l textLine) bool { return tomlSection.MatchString(l.text) }):
		return "toml"
	case !slices.ContainsFunc(lines, func(l textLine) bool { return !yamlLine.MatchString(l.text) && l.text != "---" }):
		return "yaml"
	}
	return ""
}

// nested looks for a mapping of tools below a key that has no other meaning.
func (s *scanning) nested(n *node, path []string, levels int) bool {
	if n.kind != mappingNode || levels == 0 || slices.Contains(s.reader.catalogue.Places().Ordinary.Keys, n.key) {
		return false
	}
	if s.mapping(n, path, false) {
		return true
	}
	found := false
	for _, c := range n.children {
		found = s.nested(c, append(slices.Clip(path), c.key), levels-1) || found
	}
	return found
}

// settingUp are the keys below which versions are what a service sets up.
var settingUp = []string{"build", "ci", "environment", "image", "setup", "jobs"}

// mapping reads a mapping in which every value is a version and, below a key, every name
// is a tool's. At the top of a small file unknown names beside known ones are unclaimed.
func (s *scanning) mapping(n *node, path []string, top bool) bool {
	type entry struct {
		tool *catalogue.Tool
		at   *node
	}
	var entries []entry
	known := 0
	for _, c := range n.children {
		at := c
		if c.kind == mappingNode && len(c.children) <= 4 { // {version: "20", …}
			at = c.child("version")
		}
		if c.kind == listNode && len(c.children) > 0 { // fallbacks in order
			at = c.children[0]
		}
		if at == nil || at.kind != scalarNode {
			return false
		}
		tool, ok := s.reader.catalogue.Tool(c.key)
		switch {
		case ok && exactly(tool, at):
			known++
		case ok || !top || !versionLike(at.text) || !strings.Contains(at.text, "."):
			return false
		}
		entries = append(entries, entry{tool, c})
	}
	if known == 0 {
		return false
	}
	certainty, why := High, "the file maps tool names to versions"
	if !top {
		certainty, why = Medium, fmt.Sprintf("%s maps tool names to versions", strings.Join(path, "."))
	}
	role := Pin
	if slices.ContainsFunc(path, func(key string) bool { return slices.Contains(settingUp, key) }) {
		role = Setup
	}
	for _, e := range entries {
		s.entry(e.tool, e.at, role, certainty, why)
	}
	return true
}

// exactly tells whether a scalar can be a pin of the tool in a mapping: a version or
// name, no range, no yes or no.
func exactly(tool *catalogue.Tool, n *node) bool {
	switch n.text {
	case "true", "false", "yes", "no", "on", "off", "":
		return false
	}
	return len(n.text) <= 64 && !strings.ContainsAny(n.text, "<>^~|, ") && (keptText(n.text) != "" || fits(tool, n.text))
}

func (s *scanning) entry(tool *catalogue.Tool, n *node, role Role, certainty, why string) {
	first := n
	var rest []string
	switch n.kind {
	case mappingNode:
		first = n.child("version")
	case listNode:
		first = n.children[0]
		for _, c := range n.children[1:] {
			rest = append(rest, c.text)
		}
	}
	if tool == nil {
		s.unclaimed(textLine{first.text, first.offset}, fmt.Sprintf("it pins %s, a tool that the catalogue does not know", n.key), "")
		return
	}
	c := s.shaped(tool, first.value(), certainty, why)
	c.Role = role
	if what := keptText(first.text); what != "" {
		c.Reading, c.Why = "kept", what
	}
	if first.number != "" {
		c.Means, c.Why = first.number, why+"; without quotes it is the number "+first.number
	}
	s.fallbacks(&c, tool, rest)
	s.add(c)
}

// nestedTools looks for mappings of tools in a known file, below keys that no rule and no
// ecosystem gives another meaning.
func (s *scanning) nestedTools() {
	for format, doc := range s.parsed {
		tree, ok := doc.(*treeDocument)
		if !ok || tree.root.kind != mappingNode || (format != "json" && format != "toml") || len(s.Data) > MaxShape {
			continue
		}
		if s.out.Holds != nil || s.reader.catalogue.Places().ScopeOf(s.file) != "" {
			continue
		}
		for _, c := range tree.root.children {
			s.nested(c, []string{c.key}, 2)
		}
	}
}
