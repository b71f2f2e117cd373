package claim

import (
	"bytes"
	"cmp"
	"path"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
)

// kind reads a file in which any tool may be spoken of.
func (s *scanning) kind(kind, holds string) {
	if kind == "container" {
		s.container(holds)
		return
	}
	format := "yaml"
	if strings.HasSuffix(s.file, ".json") {
		format = "json"
	}
	doc, ok := s.document(format).(*treeDocument)
	if !ok {
		return
	}
	p := &pipeline{scanning: s, holds: holds, names: map[string][]*node{}, parts: map[string]bool{}}
	for _, root := range append([]*node{doc.root}, doc.more...) {
		p.root = root
		p.define(root, 0)
		switch kind {
		case "development":
			p.features(root)
		case "pipeline":
			p.languages(root)
		}
		p.walk(root, nil)
	}
}

// pipeline is a file of steps, services or jobs being read.
type pipeline struct {
	*scanning
	holds string
	root  *node
	names map[string][]*node // what variables and matrices define, by lower-case name
	parts map[string]bool    // names whose values are only parts of versions
}

// define collects variables and matrices, the places where a reference may lead.
func (p *pipeline) define(n *node, depth int) {
	if depth > 12 {
		return
	}
	for _, c := range n.children {
		switch strings.ToLower(c.key) {
		case "env", "variables", "environment", "args", "parameters", "pipeline", "global":
			p.collect(c, c.key)
		case "matrix":
			p.matrix(c)
		}
		if name, ok := p.partOf(c); ok {
			p.parts[strings.ToLower(name)] = true
		}
		p.define(c, depth+1)
	}
}

// partOf names the variable that is a part of the version of a <tool>-version key, as in
// "1.${{ matrix.go }}".
func (p *pipeline) partOf(n *node) (string, bool) {
	if n.kind != scalarNode || len(n.text) > maxText {
		return "", false
	}
	m := variable.FindStringSubmatch(n.text)
	if m == nil || m[0] == strings.TrimSpace(n.text) {
		return "", false
	}
	_, known := p.toolKey(n.key)
	return variableName(m), known
}

func (p *pipeline) collect(n *node, prefix string) {
	for _, c := range n.children {
		name := c.key
		v := c
		if c.kind == mappingNode { // {name: X, value: Y}, or a parameter's default
			if named := c.child("name"); named != nil {
				name = named.text
			}
			if v = c.child("value"); v == nil {
				v = c.child("default")
			}
		}
		if v == nil || v.kind != scalarNode || name == "" {
			continue
		}
		for _, known := range []string{name, prefix + "." + name} {
			p.names[strings.ToLower(known)] = append(p.names[strings.ToLower(known)], v)
		}
	}
}

func (p *pipeline) matrix(n *node) {
	rows := []*node{n}
	if n.kind == listNode {
		rows = n.children
	}
	for _, row := range rows {
		for _, c := range row.children {
			switch {
			case c.key == "include" || c.key == "exclude":
				for _, entry := range c.children {
					for _, v := range entry.children {
						if c.key == "include" && v.kind == scalarNode {
							p.names["matrix."+strings.ToLower(v.key)] = append(p.names["matrix."+strings.ToLower(v.key)], v)
						}
					}
				}
			case c.kind == listNode:
				p.names["matrix."+strings.ToLower(c.key)] = append(p.names["matrix."+strings.ToLower(c.key)], c.children...)
			case c.kind == mappingNode: // a named leg with its variables
				for _, v := range c.children {
					p.names[strings.ToLower(v.key)] = append(p.names[strings.ToLower(v.key)], several(v)...)
				}
			case c.kind == scalarNode:
				p.names["matrix."+strings.ToLower(c.key)] = append(p.names["matrix."+strings.ToLower(c.key)], c)
			}
		}
	}
}

// walk looks at every key of the file.
func (p *pipeline) walk(n *node, above []string) {
	for _, c := range n.children {
		if p.full {
			return
		}
		path := append(slices.Clip(above), c.key)
		switch c.key {
		case "image", "container":
			p.images(c)
		case "uses":
			p.step(n, c)
		case "task":
			p.task(n, c)
		default:
			if n.kind == mappingNode && (c.kind == scalarNode || c.kind == listNode) && !isFilePointer(c.key) {
				if tool, known := p.toolKey(c.key); known && !inside(above, "matrix") {
					p.versions(tool, c)
				}
			}
		}
		if c.key == "matrix" {
			p.matrixTools(c)
		}
		if len(path) < 40 {
			p.walk(c, path)
		}
	}
}

func inside(path []string, key string) bool { return slices.Contains(path, key) }

func isFilePointer(key string) bool { return strings.HasSuffix(strings.ToLower(key), "file") }

// one is the only value of a name; a name with several has none.
func (p *pipeline) one(name string) (value, bool) {
	list := p.lookup(name)
	if len(list) != 1 || list[0].kind != scalarNode {
		return value{}, false
	}
	return list[0].value(), true
}

func (p *pipeline) lookup(name string) []*node {
	name = strings.ToLower(name)
	for _, prefix := range []string{"", "env.", "variables.", "parameters.", "matrix."} {
		if list := p.names[prefix+name]; len(list) > 0 {
			return list
		}
	}
	return nil
}

// images reads an image reference, also one that is the name of a mapping, and with one
// matrix variable in it, one for each of its values.
func (p *pipeline) images(n *node) {
	if n.kind == mappingNode { // a container's image is found below its own key
		n = n.child("name")
	}
	if n == nil || n.kind != scalarNode {
		return
	}
	m := variable.FindStringSubmatch(n.text)
	if m != nil {
		name := variableName(m)
		if list := p.lookup(name); len(list) > 1 {
			for _, v := range list {
				if !p.more() {
					return
				}
				one := func(string) (value, bool) {
					return v.value(), v.kind == scalarNode
				}
				added := p.image(n.text, n.offset, one, p.holds)
				for i := range added {
					added[i].OneOf = name
				}
			}
			return
		}
	}
	p.image(n.text, n.offset, p.one, p.holds)
}

// versions reads the value of a <tool>-version key: one, several, or a reference.
func (p *pipeline) versions(tool *catalogue.Tool, n *node) {
	if n.kind == listNode {
		for _, c := range n.children {
			if !p.version(tool, c, n.key) {
				return
			}
		}
		return
	}
	m := variable.FindStringSubmatch(n.text)
	if m == nil {
		lines := strings.Split(n.text, "\n")
		if len(lines) == 1 {
			p.version(tool, n, "")
			return
		}
		from := n.offset
		for _, line := range lines { // a block of several versions
			if line = strings.TrimSpace(line); line == "" {
				continue
			}
			at := *n
			at.text, at.written = line, 0
			if i := bytes.Index(p.Data[from:], []byte(line)); i >= 0 {
				at.offset = from + i
				from = at.offset + len(line)
			}
			if !p.version(tool, &at, n.key) {
				return
			}
		}
		return
	}
	name := variableName(m)
	list := p.lookup(name)
	group := ""
	if len(list) > 1 {
		group = name
	}
	for _, v := range list {
		if p.full {
			return
		}
		if strings.TrimSpace(n.text) == m[0] {
			p.version(tool, v, group)
		} else if v.kind == scalarNode && len(n.text) <= maxText {
			p.composed(tool, n, strings.Replace(n.text, m[0], v.text, 1), given{name, v.offset}, group)
		}
	}
}

// composed adds a version of which a variable is only a part. It stands where it is put together.
func (p *pipeline) composed(tool *catalogue.Tool, n *node, text string, from given, group string) {
	text = strings.TrimSpace(text)
	if !p.more() || !setUp(tool, text) {
		return
	}
	p.add(p.setup(tool, value{text: text, offset: n.offset, size: cmp.Or(n.written, len(n.text)), given: &from}, group))
}

// version adds one version that is set up, and tells whether more are wanted.
func (p *pipeline) version(tool *catalogue.Tool, n *node, group string) bool {
	if !p.more() {
		return false
	}
	if n.kind != scalarNode || !setUp(tool, n.text) {
		return true
	}
	p.add(p.setup(tool, n.value(), group))
	return true
}

func (p *pipeline) setup(tool *catalogue.Tool, v value, group string) Claim {
	c := p.claim(tool, Setup, v, "plain", p.holds)
	c.OneOf = group
	if !isPlain(tool, v.text) {
		c.Dialect = tool.SetupDialect
	}
	return c
}

// setUp tells whether a text can be a version of the tool, or a range of them.
func setUp(tool *catalogue.Tool, text string) bool {
	if text == "" || len(text) > 80 || strings.ContainsAny(text, "\n$") {
		return false
	}
	if isPlain(tool, text) {
		return true
	}
	if tool.SetupDialect == "" || !strings.ContainsFunc(text, unicode.IsDigit) {
		return false
	}
	_, err := wantText(tool, tool.SetupDialect, "", text)
	return err == nil
}

func isPlain(tool *catalogue.Tool, text string) bool {
	w, err := wantPlain(tool, text)
	return err == nil && w.Unknown == ""
}

// matrixTools reads the keys of a matrix that are tools, or tools with "version" behind.
func (p *pipeline) matrixTools(n *node) {
	rows := []*node{n}
	if n.kind == listNode {
		rows = n.children
	}
	for _, row := range rows {
		for _, c := range row.children {
			if c.key == "include" {
				for _, entry := range c.children {
					for _, v := range entry.children {
						p.matrixTool(v.key, []*node{v})
					}
				}
				continue
			}
			switch c.kind {
			case listNode:
				p.matrixTool(c.key, c.children)
			case mappingNode:
				for _, v := range c.children {
					p.matrixTool(v.key, several(v))
				}
			case scalarNode:
				p.matrixTool(c.key, []*node{c})
			}
		}
	}
}

// several are the values of a list, or the value itself.
func several(n *node) []*node {
	if n.kind == listNode {
		return n.children
	}
	return []*node{n}
}

func (p *pipeline) matrixTool(key string, values []*node) {
	tool, known := p.toolKey(key)
	if !known {
		if tool, known = p.reader.catalogue.Tool(strings.ReplaceAll(key, "_", "-")); !known {
			return
		}
	}
	name := "matrix." + strings.ToLower(key)
	if p.parts[name] {
		return
	}
	for _, v := range values {
		if plausible(tool, v.text) && !p.version(tool, v, name) {
			return
		}
	}
}

// languages reads the keys at the top of a file that are a tool's name with one version
// or several.
func (p *pipeline) languages(root *node) {
	if root.kind != mappingNode {
		return
	}
	for _, c := range root.children {
		tool, known := p.reader.catalogue.Tool(c.key)
		if !known {
			continue
		}
		switch c.kind {
		case scalarNode:
			p.version(tool, c, "")
		case listNode:
			group := ""
			if len(c.children) > 1 {
				group = c.key
			}
			for _, v := range c.children {
				p.version(tool, v, group)
			}
		}
	}
}

// task reads a step that names its kind apart from its inputs.
func (p *pipeline) task(step, name *node) {
	inputs := step.child("inputs")
	if inputs == nil || name.kind != scalarNode {
		return
	}
	plain, _, _ := strings.Cut(name.text, "@")
	tool := p.toolIn(plain)
	if tool == nil {
		return
	}
	for _, key := range []string{"versionSpec", "version"} {
		if v := inputs.child(key); v != nil {
			p.versions(tool, v)
			return
		}
	}
}

// step reads a step that uses an image or names its tool, with a plain "version" beside it.
func (p *pipeline) step(step, uses *node) {
	if uses.kind != scalarNode {
		return
	}
	if strings.HasPrefix(uses.text, "docker://") {
		p.image(uses.text, uses.offset, p.one, p.holds)
		return
	}
	v := step.below("with/version")
	name, _, _ := strings.Cut(uses.text, "@")
	if v == nil || strings.HasPrefix(name, ".") {
		return
	}
	var tools []*catalogue.Tool
	for word := range strings.FieldsFuncSeq(name, func(c rune) bool { return c == '/' || c == '-' || c == '_' }) {
		if tool, known := p.reader.catalogue.Tool(word); known && !slices.Contains(tools, tool) {
			tools = append(tools, tool)
		}
	}
	if len(tools) == 1 {
		p.versions(tools[0], v)
	}
}

// toolIn finds the one tool whose name is a word of a name in mixed case.
func (p *pipeline) toolIn(name string) *catalogue.Tool {
	var words []string
	word := strings.Builder{}
	runes := []rune(name)
	for i, c := range runes {
		if unicode.IsUpper(c) && i > 0 && (unicode.IsLower(runes[i-1]) || i+1 < len(runes) && unicode.IsLower(runes[i+1])) {
			words = append(words, word.String())
			word.Reset()
		}
		word.WriteRune(c)
	}
	words = append(words, word.String())
	for i, w := range words {
		if tool, known := p.reader.catalogue.Tool(w); known {
			return tool
		}
		if i > 0 {
			if tool, known := p.reader.catalogue.Tool(words[i-1] + w); known {
				return tool
			}
		}
	}
	return nil
}

// features reads a development container's features: names that end in a tool's, each
// with a version of its own.
func (p *pipeline) features(root *node) {
	list := root.child("features")
	if list == nil {
		return
	}
	for _, c := range list.children {
		name, _, _ := strings.Cut(path.Base(c.key), ":")
		tool, known := p.reader.catalogue.Tool(name)
		if !known {
			continue
		}
		v := c
		if c.kind == mappingNode {
			if v = c.child("version"); v == nil {
				continue
			}
		}
		p.version(tool, v, "")
	}
}
