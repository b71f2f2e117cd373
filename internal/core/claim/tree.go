package claim

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/antchfx/xpath"
	"github.com/theory/jsonpath"
	"github.com/theory/jsonpath/spec"
)

// node is a value of a JSON, YAML or TOML document with its place.
type node struct {
	key      string // in the mapping above
	kind     nodeKind
	text     string // of a scalar
	offset   int    // of the value itself, behind an opening quote
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
	root      *node
	more      []*node // further YAML documents of the same file
	plain     any     // made when a selector needs it
	selectors selectors
}

// selectors are the compiled selectors of a catalogue, by their text.
type selectors map[string]*selector

// selector is an XPath, or a JSONPath, as steps of its own where it only names keys and
// wildcards.
type selector struct {
	path  *jsonpath.Path
	steps []step
	plain bool
	xpath *xpath.Expr
}

// step goes to a key, to a place in a list, or with neither to every child.
type step struct {
	key   string
	index int
	all   bool
}

func compileJSONPath(text string) (*selector, error) {
	path, err := jsonpath.Parse(text)
	if err != nil {
		return nil, err
	}
	s := &selector{path: path, plain: true}
	for _, segment := range path.Query().Segments() {
		all := segment.Selectors()
		if segment.IsDescendant() || len(all) != 1 {
			s.plain = false
			break
		}
		switch one := all[0].(type) {
		case spec.Name:
			s.steps = append(s.steps, step{key: string(one), index: -1})
		case spec.Index:
			s.steps = append(s.steps, step{index: int(one)})
		case spec.WildcardSelector:
			s.steps = append(s.steps, step{all: true, index: -1})
		default:
			s.plain = false
		}
	}
	return s, nil
}

func (d *treeDocument) find(text string) []value {
	var out []value
	for _, n := range d.nodes(text) {
		if n.kind == scalarNode {
			out = append(out, value{text: n.text, offset: n.offset, key: n.key, number: n.number})
		}
	}
	return out
}

// nodes are what a selector leads to, in the order of the document.
func (d *treeDocument) nodes(text string) []*node {
	s := d.selectors[text]
	if s == nil {
		return nil
	}
	if s.plain {
		return follow([]*node{d.root}, s.steps)
	}
	if d.plain == nil {
		d.plain = d.root.standard()
	}
	var out []*node
	for _, found := range s.path.SelectLocated(d.plain) {
		at := d.root
		for _, element := range found.Path {
			switch e := element.(type) {
			case spec.Name:
				at = at.child(string(e))
			case spec.Index:
				at = at.children[int(e)]
			}
		}
		out = append(out, at)
	}
	slices.SortStableFunc(out, func(a, b *node) int { return a.offset - b.offset })
	return out
}

func follow(from []*node, steps []step) []*node {
	for _, s := range steps {
		var next []*node
		for _, n := range from {
			switch {
			case s.all && n.kind != scalarNode:
				next = append(next, n.children...)
			case s.all:
			case s.index >= 0:
				if n.kind == listNode && s.index < len(n.children) {
					next = append(next, n.children[s.index])
				}
			default:
				if c := n.child(s.key); c != nil {
					next = append(next, c)
				}
			}
		}
		from = next
	}
	return from
}

// standard is the value in the standard library's form, for selectors that need it.
func (n *node) standard() any {
	switch n.kind {
	case mappingNode:
		out := make(map[string]any, len(n.children))
		for _, c := range n.children {
			out[c.key] = c.standard()
		}
		return out
	case listNode:
		out := make([]any, 0, len(n.children))
		for _, c := range n.children {
			out = append(out, c.standard())
		}
		return out
	case nullNode:
		return nil
	}
	if n.quoted {
		return n.text
	}
	switch n.text {
	case "true":
		return true
	case "false":
		return false
	}
	if f, err := strconv.ParseFloat(n.text, 64); err == nil {
		return f
	}
	return n.text
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
	return &treeDocument{root: at, selectors: d.selectors}
}

// maxNodes is how many values one document may hold, aliases followed.
const maxNodes = 2_000_000

var errTooMany = fmt.Errorf("it holds more than %d values when its aliases are followed", maxNodes)
