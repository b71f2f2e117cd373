package claim

import (
	"strconv"
	"strings"
)

// node is a value of a JSON, YAML or TOML document with its place.
type node struct {
	key      string // in the mapping above
	kind     nodeKind
	text     string // of a scalar
	offset   int    // of the value itself, behind an opening quote
	written  int    // what it takes in the file; 0 where it stands there as it is, -1 where that is not known
	quoted   bool
	number   string // what an unquoted scalar is as a number, where that is written otherwise
	children []*node
	index    map[string]*node // of a mapping of many keys, once one was looked for
}

// manyKeys is from how many keys on a mapping is worth an index.
const manyKeys = 32

type nodeKind uint8

const (
	scalarNode nodeKind = iota
	nullNode
	listNode
	mappingNode
)

// child is the value of a key; nil where there is none. The last of several wins.
func (n *node) child(key string) *node {
	if n == nil || n.kind != mappingNode {
		return nil
	}
	if len(n.children) > manyKeys {
		return n.indexed()[key]
	}
	for i := len(n.children) - 1; i >= 0; i-- {
		if n.children[i].key == key {
			return n.children[i]
		}
	}
	return nil
}

func (n *node) indexed() map[string]*node {
	if n.index == nil {
		n.index = make(map[string]*node, len(n.children))
		for _, c := range n.children {
			n.index[c.key] = c
		}
	}
	return n.index
}

// below follows keys parted by slashes.
func (n *node) below(keys string) *node {
	for key := range strings.SplitSeq(keys, "/") {
		n = n.child(key)
	}
	return n
}

// put sets the value of a key.
func (n *node) put(key string, value *node) {
	value.key = key
	n.children = append(n.children, value)
	if n.index != nil {
		n.index[key] = value
	}
}

// treeDocument is a document of mappings, lists and scalars.
type treeDocument struct {
	source
	root *node
	more []*node // further YAML documents of the same file
}

func (d *treeDocument) find(text string) []value {
	var out []value
	for _, n := range d.nodes(text) {
		if n.kind == scalarNode {
			out = append(out, n.value())
		}
	}
	return out
}

// value is a scalar with its place.
func (n *node) value() value {
	return value{text: n.text, offset: n.offset, size: n.written, key: n.key, number: n.number}
}

// leaves calls do for every scalar below a node, with the keys that lead to it.
func (n *node) leaves(path []string, do func(path []string, leaf *node)) {
	for i, c := range n.children {
		key := c.key
		if n.kind == listNode {
			key = strconv.Itoa(i)
		}
		if c.kind == scalarNode {
			do(append(path, key), c)
			continue
		}
		c.leaves(append(path, key), do)
	}
}

// view is a part of the document as a document of its own; nil where it is not there.
func (d *treeDocument) view(below string) *treeDocument {
	at := d.root
	for key := range strings.SplitSeq(strings.TrimPrefix(below, "."), ".") {
		if key != "" {
			at = at.child(key)
		}
	}
	if at == nil {
		return nil
	}
	return &treeDocument{root: at, source: d.source}
}
