package reading

import (
	"bytes"
	"cmp"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
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
	doc, ok := s.document(format).(*document.Tree)
	if !ok {
		return
	}
	p := &pipeline{scanning: s, holds: holds, names: map[string][]*document.Node{}, parts: map[string]bool{}}
	for _, root := range append([]*document.Node{doc.Root}, doc.More...) {
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
	root  *document.Node
	names map[string][]*document.Node // what variables and matrices define, by lower-case name
	parts map[string]bool             // names whose values are only parts of versions
}

// walk looks at every key of the file.
func (p *pipeline) walk(n *document.Node, above []string) {
	for _, c := range n.Children {
		if p.full {
			return
		}
		path := append(slices.Clip(above), c.Key)
		switch c.Key {
		case "image", "container":
			p.images(c)
		case "uses":
			p.step(n, c)
		case "task":
			p.task(n, c)
		default:
			if n.Kind == document.Mapping && (c.Kind == document.Scalar || c.Kind == document.List) && !isFilePointer(c.Key) {
				if tool, known := p.toolKey(c.Key); known && !inside(above, "matrix") {
					p.versions(tool, c)
				}
			}
		}
		if c.Key == "matrix" {
			p.matrixTools(c)
		}
		if len(path) < 40 {
			p.walk(c, path)
		}
	}
}

func inside(path []string, key string) bool { return slices.Contains(path, key) }

func isFilePointer(key string) bool { return strings.HasSuffix(strings.ToLower(key), "file") }

// images reads an image reference, also one that is the name of a mapping, and with one
// matrix variable in it, one for each of its values.
func (p *pipeline) images(n *document.Node) {
	if n.Kind == document.Mapping { // a container's image is found below its own key
		n = n.Child("name")
	}
	if n == nil || n.Kind != document.Scalar {
		return
	}
	m := variable.FindStringSubmatch(n.Text)
	if m != nil {
		name := variableName(m)
		if list := p.lookup(name); len(list) > 1 {
			for _, v := range list {
				if !p.more() {
					return
				}
				one := func(string) (document.Value, bool) {
					return v.Value(), v.Kind == document.Scalar
				}
				added := p.image(n.Text, n.Offset, one, p.holds)
				for i := range added {
					added[i].OneOf = name
				}
			}
			return
		}
	}
	p.image(n.Text, n.Offset, p.one, p.holds)
}

// versions reads the value of a <tool>-version key: one, several, or a reference.
func (p *pipeline) versions(tool *catalogue.Tool, n *document.Node) {
	if n.Kind == document.List {
		for _, c := range n.Children {
			if !p.version(tool, c, n.Key) {
				return
			}
		}
		return
	}
	m := variable.FindStringSubmatch(n.Text)
	if m == nil {
		lines := strings.Split(n.Text, "\n")
		if len(lines) == 1 {
			p.version(tool, n, "")
			return
		}
		from := n.Offset
		for _, line := range lines { // a block of several versions
			if line = strings.TrimSpace(line); line == "" {
				continue
			}
			at := *n
			at.Text, at.Written = line, 0
			if i := bytes.Index(p.Data[from:], []byte(line)); i >= 0 {
				at.Offset = from + i
				from = at.Offset + len(line)
			}
			if !p.version(tool, &at, n.Key) {
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
		if strings.TrimSpace(n.Text) == m[0] {
			p.version(tool, v, group)
		} else if v.Kind == document.Scalar && len(n.Text) <= maxText {
			p.composed(tool, n, strings.Replace(n.Text, m[0], v.Text, 1), document.Given{Name: name, Offset: v.Offset}, group)
		}
	}
}

// composed adds a version of which a variable is only a part. It stands where it is put together.
func (p *pipeline) composed(tool *catalogue.Tool, n *document.Node, text string, from document.Given, group string) {
	text = strings.TrimSpace(text)
	if !p.more() || !setUp(tool, text) {
		return
	}
	p.add(p.setup(tool, document.Value{Text: text, Offset: n.Offset, Size: cmp.Or(n.Written, len(n.Text)), Given: &from}, group))
}

// version adds one version that is set up, and tells whether more are wanted.
func (p *pipeline) version(tool *catalogue.Tool, n *document.Node, group string) bool {
	if !p.more() {
		return false
	}
	if n.Kind != document.Scalar || !setUp(tool, n.Text) {
		return true
	}
	p.add(p.setup(tool, n.Value(), group))
	return true
}

func (p *pipeline) setup(tool *catalogue.Tool, v document.Value, group string) claim.Claim {
	c := p.claim(tool, claim.Setup, v, "plain", p.holds)
	c.OneOf = group
	if !isPlain(tool, v.Text) {
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
	_, err := claim.WantOf(tool, tool.SetupDialect, "", text)
	return err == nil
}

func isPlain(tool *catalogue.Tool, text string) bool {
	w, err := claim.WantPlain(tool, text)
	return err == nil && w.Unknown == ""
}

// matrixTools reads the keys of a matrix that are tools, or tools with "version" behind.
func (p *pipeline) matrixTools(n *document.Node) {
	rows := []*document.Node{n}
	if n.Kind == document.List {
		rows = n.Children
	}
	for _, row := range rows {
		for _, c := range row.Children {
			if c.Key == "include" {
				for _, entry := range c.Children {
					for _, v := range entry.Children {
						p.matrixTool(v.Key, []*document.Node{v})
					}
				}
				continue
			}
			switch c.Kind {
			case document.List:
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

func (p *pipeline) matrixTool(key string, values []*document.Node) {
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
		if claim.Plausible(tool, v.Text) && !p.version(tool, v, name) {
			return
		}
	}
}
