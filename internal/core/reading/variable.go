package reading

import (
	"strings"

	"wexo/internal/core/document"
)

// define collects variables and matrices, the places where a reference may lead.
func (p *pipeline) define(n *document.Node, depth int) {
	if depth > 12 {
		return
	}
	for _, c := range n.Children {
		switch strings.ToLower(c.Key) {
		case "env", "variables", "environment", "args", "parameters", "pipeline", "global":
			p.collect(c, c.Key)
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
func (p *pipeline) partOf(n *document.Node) (string, bool) {
	if n.Kind != document.Scalar || len(n.Text) > maxText {
		return "", false
	}
	m := variable.FindStringSubmatch(n.Text)
	if m == nil || m[0] == strings.TrimSpace(n.Text) {
		return "", false
	}
	_, known := p.toolKey(n.Key)
	return variableName(m), known
}

func (p *pipeline) collect(n *document.Node, prefix string) {
	for _, c := range n.Children {
		name := c.Key
		v := c
		if c.Kind == document.Mapping { // {name: X, value: Y}, or a parameter's default
			if named := c.Child("name"); named != nil {
				name = named.Text
			}
			if v = c.Child("value"); v == nil {
				v = c.Child("default")
			}
		}
		if v == nil || v.Kind != document.Scalar || name == "" {
			continue
		}
		for _, known := range []string{name, prefix + "." + name} {
			p.names[strings.ToLower(known)] = append(p.names[strings.ToLower(known)], v)
		}
	}
}

func (p *pipeline) matrix(n *document.Node) {
	rows := []*document.Node{n}
	if n.Kind == document.List {
		rows = n.Children
	}
	for _, row := range rows {
		for _, c := range row.Children {
			switch {
			case c.Key == "include" || c.Key == "exclude":
				for _, entry := range c.Children {
					for _, v := range entry.Children {
						if c.Key == "include" && v.Kind == document.Scalar {
							p.names["matrix."+strings.ToLower(v.Key)] = append(p.names["matrix."+strings.ToLower(v.Key)], v)
						}
					}
				}
			case c.Kind == document.List:
				p.names["matrix."+strings.ToLower(c.Key)] = append(p.names["matrix."+strings.ToLower(c.Key)], c.Children...)
			case c.Kind == document.Mapping: // a named leg with its variables
				for _, v := range c.Children {
					p.names[strings.ToLower(v.Key)] = append(p.names[strings.ToLower(v.Key)], several(v)...)
				}
			case c.Kind == document.Scalar:
				p.names["matrix."+strings.ToLower(c.Key)] = append(p.names["matrix."+strings.ToLower(c.Key)], c)
			}
		}
	}
}

// one is the only value of a name; a name with several has none.
func (p *pipeline) one(name string) (document.Value, bool) {
	list := p.lookup(name)
	if len(list) != 1 || list[0].Kind != document.Scalar {
		return document.Value{}, false
	}
	return list[0].Value(), true
}

func (p *pipeline) lookup(name string) []*document.Node {
	name = strings.ToLower(name)
	for _, prefix := range []string{"", "env.", "variables.", "parameters.", "matrix."} {
		if list := p.names[prefix+name]; len(list) > 0 {
			return list
		}
	}
	return nil
}

// several are the values of a list, or the value itself.
func several(n *document.Node) []*document.Node {
	if n.Kind == document.List {
		return n.Children
	}
	return []*document.Node{n}
}
