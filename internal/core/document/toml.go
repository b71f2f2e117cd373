package document

import (
	"cmp"
	"errors"
	"fmt"
	"strings"

	"github.com/pelletier/go-toml/v2"
	"github.com/pelletier/go-toml/v2/unstable"
)

// parseTOML reads TOML.
func parseTOML(s Source) (Document, error) {
	root, err := tomlTree(s)
	var tooMany *SyntaxError
	if errors.As(err, &tooMany) {
		return nil, err
	}
	if brokenErr := checkTOML(s.Data); brokenErr != nil {
		return nil, brokenErr
	}
	return &Tree{Root: root, Source: s}, err
}

// checkTOML finds what is wrong with a text, also where every line by itself is right.
func checkTOML(data []byte) error {
	var whole map[string]any
	err := toml.Unmarshal(data, &whole)
	var broken *toml.DecodeError
	if errors.As(err, &broken) {
		line, column := broken.Position()
		return &SyntaxError{line, column, "broken TOML: " + plainly(strings.TrimPrefix(broken.Error(), "toml: "))}
	}
	if err != nil {
		return &SyntaxError{1, 1, err.Error()}
	}
	return nil
}

// tomlReader builds a tree of an expression at a time.
type tomlReader struct {
	Source
	parser unstable.Parser
	at     int // offset of the expression
	err    error
}

func tomlTree(s Source) (*Node, error) {
	r := &tomlReader{Source: s}
	r.parser.Reset(s.Data)
	root := &Node{Kind: Mapping}
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

func (r *tomlReader) put(in *Node, key string, value *Node) {
	in.put(key, value)
	if len(in.Children) > maxKeys && r.err == nil {
		line, column := position(r.Data, r.at)
		r.err = &SyntaxError{line, column, fmt.Sprintf("one table holds more than %d keys", maxKeys)}
	}
}

// table goes down the keys and makes the tables that are not there yet.
func (r *tomlReader) table(at *Node, keys []string) *Node {
	r.Budget.Spend(len(keys))
	for _, key := range keys {
		next := at.Child(key)
		if next == nil {
			next = &Node{Kind: Mapping}
			r.put(at, key, next)
		}
		if next.Kind == List && len(next.Children) > 0 {
			next = next.Children[len(next.Children)-1]
		}
		at = next
	}
	return at
}

func (r *tomlReader) append(at *Node, key string) *Node {
	list := at.Child(key)
	if list == nil {
		list = &Node{Kind: List}
		r.put(at, key, list)
	}
	table := &Node{Kind: Mapping}
	list.Children = append(list.Children, table)
	return table
}

func (r *tomlReader) node(v *unstable.Node) *Node {
	n := &Node{Offset: int(v.Raw.Offset)}
	switch v.Kind {
	case unstable.InlineTable:
		n.Kind = Mapping
		for i := v.Children(); i.Next(); {
			if child := i.Node(); child.Kind == unstable.KeyValue {
				keys := tomlKeys(child.Key())
				r.put(r.table(n, keys[:len(keys)-1]), keys[len(keys)-1], r.node(child.Value()))
			}
		}
	case unstable.Array:
		n.Kind = List
		for i := v.Children(); i.Next(); {
			if child := i.Node(); child.Kind != unstable.Comment {
				n.Children = append(n.Children, r.node(child))
			}
		}
	case unstable.String:
		n.quoted = true
		n.Text = string(v.Data)
		raw := string(r.parser.Raw(v.Raw))
		for _, quote := range []string{`"""`, `'''`, `"`, `'`} {
			if strings.HasPrefix(raw, quote) {
				n.Offset += len(quote)
				n.Written = len(raw) - 2*len(quote)
				break
			}
		}
	default:
		n.Text = string(v.Data)
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
