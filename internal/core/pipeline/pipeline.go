package pipeline

import (
	"bytes"
	"cmp"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// Read reads a file of steps, services or jobs of a kind, which speaks for a folder.
func Read(s *scan.File, kind, holds string) { ReadGiven(s, kind, holds, nil) }

// ReadGiven is [Read] of a file whose names are given from outside, where they are known. What
// rests on one has it as its Given, with no place.
func ReadGiven(s *scan.File, kind, holds string, given map[string]string) {
	format := "yaml"
	if strings.HasSuffix(s.Path, ".json") {
		format = "json"
	}
	doc, ok := s.Document(format).(*document.Tree)
	if !ok {
		return
	}
	p := &pipeline{File: s, words: &s.Catalogue.Places().Pipelines, kind: kind, holds: holds, scopes: newScopes(), parts: map[string]bool{}, read: map[*document.Node]bool{}, runs: map[string]*document.Node{}}
	p.scopes.blind, p.scopes.given = kind == "compose", given // what runs it gives the names, or their fallbacks count
	if kind == "pipeline" {
		defer p.titled(fileTitle(s.Path))()
	}
	for _, root := range append([]*document.Node{doc.Root}, doc.More...) {
		p.define(root, 0)
		switch kind {
		case "development":
			p.features(root)
			p.builds(root.Child("build"))
		case "pipeline":
			p.languages(root)
		}
		p.walk(root, nil)
	}
	p.calledAlone()
}

// pipeline is a file of steps, services or jobs being read.
type pipeline struct {
	*scan.File
	words  *catalogue.Pipelines
	kind   string
	holds  string
	scopes *scopes
	titles []title                   // what the parts are called in which the walk is
	parts  map[string]bool           // names whose values are only parts of versions
	read   map[*document.Node]bool   // values that were read as what a known step says
	runs   map[string]*document.Node // scripts of steps, by their names
	called []called
}

// input says how the value of a key is meant. The zero value is a version or a range as
// the tool's setup steps usually take it.
type input struct {
	dialect string
	pattern catalogue.Pattern
	ignore  []string
	vendor  string // whose build is set up; empty where nothing says so
	group   string // the matrix that the value is one of; empty where it is none
}

// walk looks at every key of the file.
func (p *pipeline) walk(n *document.Node, above []string) {
	defer p.scopes.enter(p.local(n))()
	defer p.titled(p.titleOf(n))()
	for _, c := range n.Children {
		if p.Full {
			return
		}
		if p.switchedOff(c) {
			p.leaveOut(c, "", "never runs: it is switched off")
			continue
		}
		if p.kind == "pipeline" && slices.Contains(p.words.LeftOut, c.Key) {
			p.leaveOut(c, "", "left out of the matrix, or allowed to fail")
			continue
		}
		leave := func() {}
		if c.Kind == document.Mapping || c.Kind == document.List {
			leave = p.titled(c.Key)
		}
		path := append(slices.Clip(above), c.Key)
		switch c.Key {
		case "image", "container":
			p.images(c)
		case "uses":
			p.step(n, c)
		case "stack":
			p.stack(c)
		case "task":
			p.task(n, c)
		case "build":
			if p.kind == "compose" {
				p.builds(c)
			}
		case "build-args", "build_args", "buildArgs":
			p.built(n, c)
		default:
			p.key(n, c, above)
		}
		if c.Kind == document.Mapping && (strings.HasSuffix(c.Key, "-versions") || p.kind == "pipeline" && c.Key == "tools") {
			p.languages(c)
		}
		if c.Key == "matrix" || c.Key == "jobs" {
			p.matrixTools(c)
		}
		switch c.Kind {
		case document.Scalar:
			p.says(c, above)
		case document.List:
			p.listSets(c)
		}
		if len(path) < 40 {
			p.walk(c, path)
		}
		leave()
	}
}

// key reads the value of a key that is called after a tool and version.
func (p *pipeline) key(n, c *document.Node, above []string) {
	if n.Kind != document.Mapping || c.Kind != document.Scalar && c.Kind != document.List || p.read[c] || slices.Contains(above, "matrix") {
		return
	}
	if name, ok := strings.CutSuffix(strings.ToLower(c.Key), "file"); ok {
		if tool, known := p.ToolKey(strings.TrimRight(name, "-_")); known && c.Kind == document.Scalar {
			p.pointer(tool, c)
		}
		return
	}
	if tool, known := p.InputKey(c.Key); known {
		p.versions(tool, c, input{})
	} else if tool, known := p.Catalogue.Tool(c.Key); known && c.Kind == document.Scalar && p.kind == "pipeline" && p.defines(lastOf(above)) {
		p.called = append(p.called, called{tool, c.Value(), ""})
	}
}

// images reads an image reference, also one that is the name of a mapping; where a matrix
// takes part, one for each of its values.
func (p *pipeline) images(n *document.Node) {
	if n.Kind == document.Mapping { // a container's image is found below its own key
		n = n.Child("name")
	}
	if n == nil || n.Kind != document.Scalar {
		return
	}
	for _, c := range p.scopes.compose(n.Text, n.Offset) {
		if !p.More() {
			return
		}
		added := p.Image(n.Text, n.Offset, c, p.holds)
		for i := range added {
			if tool, known := p.Catalogue.Tool(added[i].Tool); known {
				added[i].Purpose = p.purpose(tool, added[i].Raw)
			}
		}
	}
}

// versions reads the value of a key beside which versions stand: one, several, or references.
func (p *pipeline) versions(tool *catalogue.Tool, n *document.Node, in input) {
	if n.Kind == document.List {
		in.group = cmp.Or(in.group, n.Key)
		for _, c := range n.Children {
			if c.Kind == document.Scalar && !p.value(tool, c, in) {
				return
			}
		}
		return
	}
	if lines := strings.Split(strings.TrimSpace(n.Text), "\n"); len(lines) > 1 && !document.Refers(n.Text) {
		p.block(tool, n, lines, in)
		return
	}
	p.value(tool, n, in)
}

// block reads a text of several versions, one a line.
func (p *pipeline) block(tool *catalogue.Tool, n *document.Node, lines []string, in input) {
	in.group = cmp.Or(in.group, n.Key)
	from := n.Offset
	for _, line := range lines {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		at := document.Value{Text: line, Offset: n.Offset}
		if i := bytes.Index(p.Data[from:], []byte(line)); i >= 0 {
			at.Offset = from + i
			from = at.Offset + len(line)
		}
		if !p.version(tool, at, in) {
			return
		}
	}
}

// value reads one text, with what it refers to put in. A text that is a reference and
// nothing else is a claim where it leads to; one of which a reference is only a part
// stands where it is put together.
func (p *pipeline) value(tool *catalogue.Tool, n *document.Node, in input) bool {
	defer p.titled(keyTitle(n.Key))()
	for _, c := range p.scopes.compose(n.Text, n.Offset) {
		one := in
		one.group = cmp.Or(c.Choice, in.group)
		v := n.Value()
		switch {
		case c.Open != "":
			p.open(tool, n, c.Open)
			continue
		case c.Whole != nil:
			v = *c.Whole
		case c.From != nil:
			v = document.Value{Text: strings.TrimSpace(c.Text), Offset: n.Offset, Size: cmp.Or(n.Written, len(n.Text)), Given: c.From}
		case c.Text != n.Text: // what a reference falls back to
			v = document.Value{Text: strings.TrimSpace(c.Text), Offset: n.Offset, Size: cmp.Or(n.Written, len(n.Text))}
			if from, to, ok := document.FallbackAt(n.Text); ok {
				v.Offset, v.Size = n.Offset+from, to-from
			}
		}
		if !p.version(tool, v, one) {
			return false
		}
	}
	return true
}

// version adds one version that is set up, and tells whether more are wanted.
func (p *pipeline) version(tool *catalogue.Tool, v document.Value, in input) bool {
	if !p.More() {
		return false
	}
	if in.pattern.Regexp != nil {
		narrow, ok := document.Narrow(v, in.pattern.Regexp, p.Budget)
		if !ok {
			return true
		}
		v = narrow
	}
	if scan.IsSwitch(v.Text) {
		return true
	}
	if slices.Contains(in.ignore, strings.ToLower(v.Text)) {
		p.Mention(tool, v, "a word of the step's own, no version of "+tool.Title)
		return true
	}
	if means, dialect, ok := tool.Spelled(v.Text); ok {
		v.Means = means
		p.Add(p.setup(tool, v, dialect, in))
		return true
	}
	dialect, ok := scan.SetUp(tool, v.Text, cmp.Or(in.dialect, tool.SetupDialect))
	if !ok || !claim.Plausible(tool, v.Text) {
		p.Mention(tool, v, scan.WhyNone(tool, v.Text))
		return true
	}
	p.Add(p.setup(tool, v, dialect, in))
	return true
}

func (p *pipeline) setup(tool *catalogue.Tool, v document.Value, dialect string, in input) claim.Claim {
	c := p.Claim(tool, claim.Setup, v, dialect, p.holds)
	c.OneOf, c.Vendor, c.Purpose = in.group, in.vendor, p.purpose(tool, v.Text)
	return c
}

// keyTitle is a key that may say that its value is old on purpose.
func keyTitle(key string) string {
	if strings.ContainsAny(key, "-_") || strings.ToLower(key) != key {
		return key
	}
	return ""
}

// matrixTools reads the keys of a matrix that are tools, or tools with "version" behind.
func (p *pipeline) matrixTools(n *document.Node) {
	rows := []*document.Node{n}
	if n.Kind == document.List {
		rows = n.Children
	}
	for _, row := range rows {
		p.pair(row, "")
		for _, c := range row.Children {
			if c.Key == "include" {
				for _, entry := range c.Children {
					leave := p.titled(p.entryTitles(entry)...)
					p.pair(entry, "")
					for _, v := range entry.Children {
						p.matrixTool(v.Key, several(v))
					}
					leave()
				}
				continue
			}
			if slices.Contains(p.words.LeftOut, c.Key) {
				continue
			}
			if n.Key == "jobs" { // whose other keys are jobs, not parts of a matrix
				continue
			}
			switch c.Kind {
			case document.List:
				for _, entry := range c.Children {
					p.pair(entry, c.Key)
				}
				p.matrixTool(c.Key, c.Children)
			case document.Mapping:
				for _, v := range c.Children {
					p.matrixTool(v.Key, several(v))
				}
			case document.Scalar:
				p.matrixTool(c.Key, []*document.Node{c})
			}
		}
	}
}

// entryTitles are what an entry of a matrix says that it is.
func (p *pipeline) entryTitles(entry *document.Node) []string {
	if entry.Kind != document.Mapping {
		return nil
	}
	var out []string
	for _, c := range entry.Children {
		if c.Kind == document.Scalar && !strings.ContainsFunc(c.Text, unicode.IsDigit) || slices.Contains(p.words.Titles, strings.ToLower(c.Key)) {
			out = append(out, c.Text)
		}
	}
	return out
}

// pair reads an entry of a matrix that names a tool and, under a key of its own, its
// version: {compiler: gcc, version: 12}; in a list of such tools {name: gcc, version: 12}.
func (p *pipeline) pair(entry *document.Node, list string) {
	if entry.Kind != document.Mapping {
		return
	}
	keys := p.words.Pairs
	if slices.Contains(keys, strings.ToLower(list)) {
		keys = append(keys[:len(keys):len(keys)], "name")
	}
	for _, key := range keys {
		named, v := entry.Child(key), entry.Child("version")
		for _, called := range []string{key + "-version", key + "_version", key + "-ver", key + "_ver", "ver"} {
			if v == nil {
				v = entry.Child(called)
			}
		}
		if named == nil || v == nil || named.Kind != document.Scalar || v.Kind != document.Scalar {
			continue
		}
		if tool, known := p.Catalogue.Tool(named.Text); known {
			p.value(tool, v, input{group: "matrix." + strings.ToLower(v.Key)})
			return
		}
	}
}

func (p *pipeline) matrixTool(key string, values []*document.Node) {
	tool, known := p.InputKey(key)
	if !known {
		if tool, known = p.Catalogue.Tool(strings.ReplaceAll(key, "_", "-")); !known {
			return
		}
	}
	name := "matrix." + strings.ToLower(key)
	if p.parts[name] {
		return
	}
	for _, v := range values {
		if v.Kind == document.Scalar && !p.value(tool, v, input{group: name}) {
			return
		}
	}
}
