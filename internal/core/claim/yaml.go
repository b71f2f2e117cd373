package claim

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"
)

// parseYAML reads YAML. Selectors see the first document of a file.
func parseYAML(s source) (document, error) {
	d := &treeDocument{root: &node{kind: nullNode}, source: s}
	r := yamlReader{source: s, places: characters{data: s.data, starts: lineStarts(s.data)}}
	decoder := yaml.NewDecoder(bytes.NewReader(s.data))
	for n := range maxDocuments {
		var doc yaml.Node
		err := decoder.Decode(&doc)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, yamlError(err)
		}
		if len(doc.Content) == 0 {
			continue
		}
		root, err := r.node(doc.Content[0], 0)
		if err != nil {
			return nil, err
		}
		if n == 0 {
			d.root = root
		} else {
			d.more = append(d.more, root)
		}
	}
	return d, nil
}

var yamlPlace = regexp.MustCompile(`line (\d+): (.*)`)

func yamlError(err error) error {
	line := 1
	text := strings.TrimPrefix(err.Error(), "yaml: ")
	if m := yamlPlace.FindStringSubmatch(text); m != nil {
		if n, err := strconv.Atoi(m[1]); err == nil {
			line, text = n, m[2]
		}
	}
	return &syntaxError{line, 1, "broken YAML: " + text}
}

// yamlReader turns the library's nodes into ours and counts them.
type yamlReader struct {
	source
	places characters
	count  int
}

func (r *yamlReader) node(y *yaml.Node, depth int) (*node, error) {
	if r.count++; r.count > maxNodes {
		return nil, &syntaxError{y.Line, y.Column, fmt.Sprintf("it holds more than %d values when its aliases are followed", maxNodes)}
	}
	r.budget.spend(16)
	if depth > maxNesting {
		return nil, &syntaxError{y.Line, y.Column, fmt.Sprintf("values are nested more than %d deep", maxNesting)}
	}
	switch y.Kind {
	case yaml.AliasNode:
		return r.node(y.Alias, depth+1)
	case yaml.SequenceNode:
		n := &node{kind: listNode, offset: r.offset(y)}
		for _, c := range y.Content {
			child, err := r.node(c, depth+1)
			if err != nil {
				return nil, err
			}
			n.children = append(n.children, child)
		}
		return n, nil
	case yaml.MappingNode:
		return r.mapping(y, depth)
	}
	return r.scalar(y), nil
}

func (r *yamlReader) mapping(y *yaml.Node, depth int) (*node, error) {
	n := &node{kind: mappingNode, offset: r.offset(y)}
	var merged []*node
	for i := 0; i+1 < len(y.Content); i += 2 {
		child, err := r.node(y.Content[i+1], depth+1)
		if err != nil {
			return nil, err
		}
		if y.Content[i].Tag == "!!merge" {
			merged = append(merged, child)
			continue
		}
		n.put(y.Content[i].Value, child)
	}
	for _, m := range merged {
		sources := []*node{m}
		if m.kind == listNode {
			sources = m.children
		}
		for _, source := range sources {
			for _, c := range source.children {
				if n.child(c.key) == nil {
					copied := *c
					n.put(c.key, &copied)
				}
			}
		}
	}
	return n, nil
}

func (r *yamlReader) scalar(y *yaml.Node) *node {
	n := &node{text: y.Value, offset: r.offset(y)}
	switch {
	case y.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) != 0:
		n.quoted = true
		n.written = r.quotedSize(n.offset)
		n.offset++
	case y.Style&(yaml.LiteralStyle|yaml.FoldedStyle) != 0:
		n.quoted = true
		n.written = -1
	case y.Tag == "!!null":
		n.kind = nullNode
	case y.Tag == "!!float":
		var f float64
		if y.Decode(&f) == nil {
			if text := strconv.FormatFloat(f, 'f', -1, 64); text != y.Value {
				n.number = text
			}
		}
	}
	return n
}

// quotedSize is what stands between a quote and the one that closes it; -1 where there is none.
func (r *yamlReader) quotedSize(at int) int {
	if at >= len(r.data) {
		return -1
	}
	quote := r.data[at]
	for i := at + 1; i < len(r.data); i++ {
		switch c := r.data[i]; {
		case c == '\\' && quote == '"':
			i++
		case c != quote:
		case quote == '\'' && i+1 < len(r.data) && r.data[i+1] == quote:
			i++
		default:
			return i - at - 1
		}
	}
	return -1
}

// offset is a node's place in bytes; the library counts columns in characters.
func (r *yamlReader) offset(y *yaml.Node) int { return r.places.offset(y.Line, y.Column) }
