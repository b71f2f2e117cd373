package document

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
func parseYAML(s Source) (Document, error) {
	d := &Tree{Root: &Node{Kind: Null}, Source: s}
	r := yamlReader{Source: s, places: characters{data: s.Data, starts: lineStarts(s.Data)}}
	decoder := yaml.NewDecoder(bytes.NewReader(s.Data))
	for n := range maxDocuments {
		var doc yaml.Node
		err := decoder.Decode(&doc)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, YAMLError(err)
		}
		if len(doc.Content) == 0 {
			continue
		}
		root, err := r.node(doc.Content[0], 0)
		if err != nil {
			return nil, err
		}
		if n == 0 {
			d.Root = root
		} else {
			d.More = append(d.More, root)
		}
	}
	return d, nil
}

var yamlPlace = regexp.MustCompile(`line (\d+): (.*)`)

// YAMLError is the library's error with its place.
func YAMLError(err error) error {
	line := 1
	text := strings.TrimPrefix(err.Error(), "yaml: ")
	if m := yamlPlace.FindStringSubmatch(text); m != nil {
		if n, err := strconv.Atoi(m[1]); err == nil {
			line, text = n, m[2]
		}
	}
	return &SyntaxError{line, 1, "broken YAML: " + text}
}

// yamlReader turns the library's nodes into ours and counts them.
type yamlReader struct {
	Source
	places characters
	count  int
}

func (r *yamlReader) node(y *yaml.Node, depth int) (*Node, error) {
	if r.count++; r.count > maxNodes {
		return nil, &SyntaxError{y.Line, y.Column, fmt.Sprintf("it holds more than %d values when its aliases are followed", maxNodes)}
	}
	r.Budget.Spend(16)
	if depth > maxNesting {
		return nil, &SyntaxError{y.Line, y.Column, fmt.Sprintf("values are nested more than %d deep", maxNesting)}
	}
	switch y.Kind {
	case yaml.AliasNode:
		return r.node(y.Alias, depth+1)
	case yaml.SequenceNode:
		n := &Node{Kind: List, Offset: r.offset(y)}
		for _, c := range y.Content {
			child, err := r.node(c, depth+1)
			if err != nil {
				return nil, err
			}
			n.Children = append(n.Children, child)
		}
		return n, nil
	case yaml.MappingNode:
		return r.mapping(y, depth)
	}
	return r.scalar(y), nil
}

func (r *yamlReader) mapping(y *yaml.Node, depth int) (*Node, error) {
	n := &Node{Kind: Mapping, Offset: r.offset(y)}
	var merged []*Node
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
		sources := []*Node{m}
		if m.Kind == List {
			sources = m.Children
		}
		for _, source := range sources {
			for _, c := range source.Children {
				if n.Child(c.Key) == nil {
					copied := *c
					n.put(c.Key, &copied)
				}
			}
		}
	}
	return n, nil
}

func (r *yamlReader) scalar(y *yaml.Node) *Node {
	n := &Node{Text: y.Value, Offset: r.offset(y)}
	switch {
	case y.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) != 0:
		n.quoted = true
		n.Written = r.quotedSize(n.Offset)
		n.Offset++
	case y.Style&(yaml.LiteralStyle|yaml.FoldedStyle) != 0:
		n.quoted = true
		n.Written = -1
	case y.Tag == "!!null":
		n.Kind = Null
	case y.Tag == "!!float":
		var f float64
		if y.Decode(&f) == nil {
			if text := strconv.FormatFloat(f, 'f', -1, 64); text != y.Value {
				n.Number = text
			}
		}
	}
	return n
}

// quotedSize is what stands between a quote and the one that closes it; -1 where there is none.
func (r *yamlReader) quotedSize(at int) int {
	if at >= len(r.Data) {
		return -1
	}
	quote := r.Data[at]
	for i := at + 1; i < len(r.Data); i++ {
		switch c := r.Data[i]; {
		case c == '\\' && quote == '"':
			i++
		case c != quote:
		case quote == '\'' && i+1 < len(r.Data) && r.Data[i+1] == quote:
			i++
		default:
			return i - at - 1
		}
	}
	return -1
}

// offset is a node's place in bytes; the library counts columns in characters.
func (r *yamlReader) offset(y *yaml.Node) int { return r.places.offset(y.Line, y.Column) }
