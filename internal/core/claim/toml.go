package claim

import (
	"cmp"
	"errors"
	"fmt"
	"strings"

	"github.com/pelletier/go-toml/v2"
	"github.com/pelletier/go-toml/v2/unstable"
)

// parseTOML reads TOML.
func parseTOML(s source) (document, error) {
	root, err := tomlTree(s)
	var tooMany *syntaxError
	if errors.As(err, &tooMany) {
		return nil, err
	}
	if brokenErr := checkTOML(s.data); brokenErr != nil {
		return nil, brokenErr
	}
	return &treeDocument{root: root, source: s}, err
}

// checkTOML finds what is wrong with a text, also where every line by itself is right.
func checkTOML(data []byte) error {
	var whole map[string]any
	err := toml.Unmarshal(data, &whole)
	var broken *toml.DecodeError
	if errors.As(err, &broken) {
		line, column := broken.Position()
		return &syntaxError{line, column, "broken TOML: " + strings.TrimPrefix(broken.Error(), "toml: ")}
	}
	if err != nil {
		return &syntaxError{1, 1, err.Error()}
	}
	return nil
}

// tomlReader builds a tree of an expression at a time.
type tomlReader struct {
	source
	parser unstable.Parser
	at     int // offset of the expression
	err    error
}

func tomlTree(s source) (*node, error) {
	r := &tomlReader{source: s}
	r.parser.Reset(s.data)
	root := &node{kind: mappingNode}
	table := root
	for r.err == nil && r.parser.NextExpression() {
		e := r.parser.Expression()
		keys := tomlKeys(e.Key())
		last := len(keys) - 1
		r.at = int(e.Raw.Offset)
		switch e.Kind {
		case unstable.Table:
			table = r.table(root, keys)
		case unstable.ArrayTable:
			table = r.append(r.table(root, keys[:last]), keys[last])
		case unstable.KeyValue:
			r.put(r.table(table, keys[:last]), keys[last], r.node(e.Value()))
		}
	}
	return root, cmp.Or(r.err, r.parser.Error())
}

func (r *tomlReader) put(in *node, key string, value *node) {
	in.put(key, value)
	if len(in.children) > maxKeys && r.err == nil {
		line, column := position(r.data, r.at)
		r.err = &syntaxError{line, column, fmt.Sprintf("one table holds more than %d keys", maxKeys)}
	}
}

// table goes down the keys and makes the tables that are not there yet.
func (r *tomlReader) table(at *node, keys []string) *node {
	r.budget.spend(len(keys))
	for _, key := range keys {
		next := at.child(key)
		if next == nil {
			next = &node{kind: mappingNode}
			r.put(at, key, next)
		}
		if next.kind == listNode && len(next.children) > 0 {
			next = next.children[len(next.children)-1]
		}
		at = next
	}
	return at
}

func (r *tomlReader) append(at *node, key string) *node {
	list := at.child(key)
	if list == nil {
		list = &node{kind: listNode}
		r.put(at, key, list)
	}
	table := &node{kind: mappingNode}
	list.children = append(list.children, table)
	return table
}

func (r *tomlReader) node(v *unstable.Node) *node {
	n := &node{offset: int(v.Raw.Offset)}
	switch v.Kind {
	case unstable.InlineTable:
		n.kind = mappingNode
		for i := v.Children(); i.Next(); {
			if child := i.Node(); child.Kind == unstable.KeyValue {
				keys := tomlKeys(child.Key())
				r.put(r.table(n, keys[:len(keys)-1]), keys[len(keys)-1], r.node(child.Value()))
			}
		}
	case unstable.Array:
		n.kind = listNode
		for i := v.Children(); i.Next(); {
			if child := i.Node(); child.Kind != unstable.Comment {
				n.children = append(n.children, r.node(child))
			}
		}
	case unstable.String:
		n.quoted = true
		n.text = string(v.Data)
		raw := string(r.parser.Raw(v.Raw))
		for _, quote := range []string{`"""`, `'''`, `"`, `'`} {
			if strings.HasPrefix(raw, quote) {
				n.offset += len(quote)
				n.written = len(raw) - 2*len(quote)
				break
			}
		}
	default:
		n.text = string(v.Data)
	}
	return n
}

func tomlKeys(i unstable.Iterator) []string {
	var parts []string
	for i.Next() {
		parts = append(parts, string(i.Node().Data))
	}
	return parts
}
