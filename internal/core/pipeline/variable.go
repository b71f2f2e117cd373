package pipeline

import (
	"slices"
	"strings"

	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// defines tells whether names are defined below a key.
func (p *pipeline) defines(key string) bool {
	return slices.Contains(p.words.Defining, strings.ToLower(key))
}

// local is what a mapping defines for all below it; nil where it defines nothing.
func (p *pipeline) local(n *document.Node) *scope {
	if n.Kind != document.Mapping || len(n.Children) > 200 {
		return nil
	}
	var out *scope
	for _, c := range n.Children {
		key := strings.ToLower(c.Key)
		if !p.defines(key) && key != "matrix" && key != "strategy" || c.Kind == document.Scalar {
			continue
		}
		if out == nil {
			out = newScope()
		}
		switch key {
		case "matrix":
			out.matrix(c)
		case "strategy":
			if m := c.Child("matrix"); m != nil {
				out.matrix(m)
			}
		default:
			p.collect(out, c, c.Key)
		}
	}
	return out
}

// define collects what the whole file defines: where a name is defined in several places
// and none of them encloses its use, all of them count.
func (p *pipeline) define(n *document.Node, depth int) {
	if depth > 12 {
		return
	}
	for _, c := range n.Children {
		key := strings.ToLower(c.Key)
		if p.switchedOff(c) {
			continue
		}
		switch {
		case p.defines(key):
			p.collect(p.scopes.whole, c, c.Key)
		case key == "matrix":
			p.scopes.whole.matrix(c)
		case key == "outputs":
			for _, v := range c.Children {
				if v.Kind == document.Mapping {
					v = v.Child("value")
				}
				if v != nil && v.Kind == document.Scalar {
					p.scopes.whole.node(v, "needs."+n.Key+".outputs."+v.Key)
				}
			}
		case key == "id" && c.Kind == document.Scalar:
			if run := n.Child("run"); run != nil && run.Kind == document.Scalar {
				p.runs[c.Text] = run
			}
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
	if n.Kind != document.Scalar || !document.Refers(n.Text) {
		return "", false
	}
	if _, known := p.InputKey(n.Key); !known {
		return "", false
	}
	name, whole := "", false
	for _, c := range document.Compose(n.Text, func(asked string) []document.Value { name = asked; return []document.Value{{Text: "1"}} }) {
		whole = c.Whole != nil
	}
	return name, !whole
}

func (p *pipeline) collect(to *scope, n *document.Node, prefix string) {
	for _, c := range n.Children {
		name, v := c.Key, c
		if c.Kind == document.Scalar && n.Kind == document.List { // NAME=value, as a shell is given it
			scan.Assignments(c.Text, func(name, value string, at int) {
				part := document.Value{Key: name, Text: value, Offset: c.Offset + at}
				if c.Written != 0 && c.Written != len(c.Text) {
					part.Offset, part.Size = c.Offset, -1
				}
				to.put(part, name, prefix+"."+name)
			})
			continue
		}
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
		to.node(v, name, prefix+"."+name)
	}
}

func (s *scope) matrix(n *document.Node) {
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
							s.node(v, "matrix."+v.Key)
						} else if c.Key == "include" {
							s.nested(v, "matrix."+v.Key)
						}
					}
				}
			case c.Kind == document.List:
				for _, v := range c.Children {
					if v.Kind == document.Scalar {
						s.node(v, "matrix."+c.Key)
					} else {
						s.nested(v, "matrix."+c.Key)
					}
				}
			case c.Kind == document.Mapping: // a named leg with its variables
				for _, v := range c.Children {
					for _, one := range several(v) {
						s.node(one, v.Key)
					}
				}
			case c.Kind == document.Scalar:
				s.node(c, "matrix."+c.Key)
			}
		}
	}
}

// node puts a scalar of the file.
func (s *scope) node(n *document.Node, names ...string) {
	if n.Kind == document.Scalar {
		s.put(n.Value(), names...)
	}
}

// nested puts the parts of a value of a matrix that is a mapping: matrix.compiler.version.
func (s *scope) nested(n *document.Node, prefix string) {
	for _, c := range n.Children {
		if n.Kind == document.Mapping && c.Kind == document.Scalar {
			s.node(c, prefix+"."+c.Key)
		}
	}
}

// several are the values of a list, or the value itself.
func several(n *document.Node) []*document.Node {
	if n.Kind == document.List {
		return n.Children
	}
	return []*document.Node{n}
}
