package claim

import (
	"errors"
	"strings"

	"github.com/pelletier/go-toml/v2"
	"github.com/pelletier/go-toml/v2/unstable"
)

// parseTOML reads TOML.
func parseTOML(data []byte, s selectors) (document, error) {
	if err := checkNesting(data); err != nil {
		return nil, err
	}
	var whole map[string]any
	if err := toml.Unmarshal(data, &whole); err != nil {
		var broken *toml.DecodeError
		if errors.As(err, &broken) {
			line, column := broken.Position()
			return nil, &syntaxError{line, column, "broken TOML: " + strings.TrimPrefix(broken.Error(), "toml: ")}
		}
		return nil, &syntaxError{1, 1, err.Error()}
	}
	root := &node{kind: mappingNode}
	p := unstable.Parser{}
	p.Reset(data)
	table := root
	for p.NextExpression() {
		e := p.Expression()
		keys := tomlKeys(e.Key())
		switch e.Kind {
		case unstable.Table:
			table = tomlTable(root, keys)
		case unstable.ArrayTable:
			last := len(keys) - 1
			table = tomlAppend(tomlTable(root, keys[:last]), keys[last])
		case unstable.KeyValue:
			last := len(keys) - 1
			tomlTable(table, keys[:last]).put(keys[last], tomlNode(&p, e.Value()))
		}
	}
	return &treeDocument{root: root, selectors: s}, p.Error()
}

// tomlTable goes down the keys and makes the tables that are not there yet.
func tomlTable(at *node, keys []string) *node {
	for _, key := range keys {
		next := at.child(key)
		if next == nil {
			next = &node{kind: mappingNode}
			at.put(key, next)
		}
		if next.kind == listNode && len(next.children) > 0 {
			next = next.children[len(next.children)-1]
		}
		at = next
	}
	return at
}

func tomlAppend(at *node, key string) *node {
	list := at.child(key)
	if list == nil {
		list = &node{kind: listNode}
		at.put(key, list)
	}
	table := &node{kind: mappingNode}
	list.children = append(list.children, table)
	return table
}

func tomlNode(p *unstable.Parser, v *unstable.Node) *node {
	n := &node{offset: int(v.Raw.Offset)}
	switch v.Kind {
	case unstable.InlineTable:
		n.kind = mappingNode
		for i := v.Children(); i.Next(); {
			if child := i.Node(); child.Kind == unstable.KeyValue {
				keys := tomlKeys(child.Key())
				tomlTable(n, keys[:len(keys)-1]).put(keys[len(keys)-1], tomlNode(p, child.Value()))
			}
		}
	case unstable.Array:
		n.kind = listNode
		for i := v.Children(); i.Next(); {
			if child := i.Node(); child.Kind != unstable.Comment {
				n.children = append(n.children, tomlNode(p, child))
			}
		}
	case unstable.String:
		n.quoted = true
		n.text = string(v.Data)
		raw := string(p.Raw(v.Raw))
		for _, quote := range []string{`"""`, `'''`, `"`, `'`} {
			if strings.HasPrefix(raw, quote) {
				n.offset += len(quote)
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
