package document

import "strings"

// Node is a value of a JSON, YAML or TOML document with its place.
type Node struct {
	Key      string // in the mapping above
	Kind     NodeKind
	Text     string // of a scalar
	Offset   int    // of the value itself, behind an opening quote
	Written  int    // what it takes in the file; 0 where it stands there as it is, -1 where that is not known
	quoted   bool
	Number   string // what an unquoted scalar is as a number, where that is written otherwise
	Children []*Node
	index    map[string]*Node // of a mapping of many keys, once one was looked for
}

// manyKeys is from how many keys on a mapping is worth an index.
const manyKeys = 32

// NodeKind is what a node is.
type NodeKind uint8

// The kinds of nodes.
const (
	Scalar NodeKind = iota
	Null
	List
	Mapping
)

// Child is the value of a key; nil where there is none. The last of several wins.
func (n *Node) Child(key string) *Node {
	if n == nil || n.Kind != Mapping {
		return nil
	}
	if len(n.Children) > manyKeys {
		return n.indexed()[key]
	}
	for i := len(n.Children) - 1; i >= 0; i-- {
		if n.Children[i].Key == key {
			return n.Children[i]
		}
	}
	return nil
}

func (n *Node) indexed() map[string]*Node {
	if n.index == nil {
		n.index = make(map[string]*Node, len(n.Children))
		for _, c := range n.Children {
			n.index[c.Key] = c
		}
	}
	return n.index
}

// Below follows keys parted by slashes.
func (n *Node) Below(keys string) *Node {
	for key := range strings.SplitSeq(keys, "/") {
		n = n.Child(key)
	}
	return n
}

// put sets the value of a key.
func (n *Node) put(key string, value *Node) {
	value.Key = key
	n.Children = append(n.Children, value)
	if n.index != nil {
		n.index[key] = value
	}
}

// Tree is a document of mappings, lists and scalars.
type Tree struct {
	Source
	Root *Node
	More []*Node // further YAML documents of the same file
}

// Find gives the scalars that a selector leads to.
func (d *Tree) Find(text string) []Value {
	var out []Value
	for _, n := range d.Nodes(text) {
		if n.Kind == Scalar {
			out = append(out, n.Value())
		}
	}
	return out
}

// Value is a scalar with its place.
func (n *Node) Value() Value {
	return Value{Text: n.Text, Offset: n.Offset, Size: n.Written, Key: n.Key, Number: n.Number}
}

// View is a part of the document as a document of its own; nil where it is not there.
func (d *Tree) View(below string) *Tree {
	at := d.Root
	for key := range strings.SplitSeq(strings.TrimPrefix(below, "."), ".") {
		if key != "" {
			at = at.Child(key)
		}
	}
	if at == nil {
		return nil
	}
	return &Tree{Root: at, Source: d.Source}
}
