package document

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/antchfx/xpath"
	"github.com/theory/jsonpath"
	"github.com/theory/jsonpath/spec"
)

// Selectors are the compiled selectors of a catalogue, by their text.
type Selectors map[string]*selector

// Add compiles a selector of a format; one of a format without selectors needs no compiling.
func (s Selectors) Add(format, text string) error {
	compile := formats[format].compile
	if compile == nil || text == "" || s[text] != nil {
		return nil
	}
	if len(text) > maxSelector {
		return fmt.Errorf("it is longer than %d characters", maxSelector)
	}
	compiled, err := compile(text)
	switch {
	case errors.Is(err, errFilter):
		return err
	case err != nil && format == "xml":
		return amissXPath(err)
	case err != nil:
		return amissJSONPath(text, err)
	}
	s[text] = compiled
	return nil
}

// selector is an XPath, or a JSONPath as the segments it is made of.
type selector struct {
	segments []*spec.Segment
	xpath    *xpath.Expr
}

// compileJSONPath reads a JSONPath (RFC 9535). The library understands it; it is followed
// here, since following one needs a budget: "$..*..*" alone makes a list with the square
// of a document's length. Filters are the library's; one that could go far by itself is
// refused.
func compileJSONPath(text string) (*selector, error) {
	path, err := jsonpath.Parse(text)
	if err != nil {
		return nil, err
	}
	s := &selector{segments: path.Query().Segments()}
	for _, segment := range s.segments {
		for _, one := range segment.Selectors() {
			if filter, ok := one.(*spec.FilterSelector); ok {
				if err := checkFilter(filter.String()); err != nil {
					return nil, err
				}
			}
		}
	}
	return s, nil
}

var errFilter = errors.New("a filter may compare and look at keys below @; it may hold no \"..\", \"*\", \":\", \"$\", match() or search()")

// checkFilter refuses what a filter may not hold: each of its queries leads to at most
// one value below the one it is asked of.
func checkFilter(text string) error {
	outside := outsideQuotes(text)
	for _, part := range []string{"..", "*", "match(", "search(", "$", ":"} {
		if strings.Contains(outside, part) {
			return errFilter
		}
	}
	return nil
}

// outsideQuotes is a text without what stands in double or single quotes.
func outsideQuotes(text string) string {
	var b strings.Builder
	var quote byte
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case quote != 0 && c == '\\':
			i++
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case c == '"' || c == '\'':
			quote = c
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

// compileXPath reads an XPath. The library goes through a document by our cursor, which
// counts; what it makes without it is a text, so what builds texts is refused.
func compileXPath(text string) (*selector, error) {
	outside := outsideQuotes(text)
	for _, part := range []string{"concat(", "replace(", "matches(", "string-join("} {
		if strings.Contains(outside, part) {
			return nil, errors.New("an XPath that selects may hold no " + part + ")")
		}
	}
	expr, err := xpath.Compile(text)
	return &selector{xpath: expr}, err
}

// Nodes are what a selector leads to, in the order of the document.
func (d *Tree) Nodes(text string) []*Node {
	s := d.Selectors[text]
	if s == nil {
		return nil
	}
	at, sorted := []*Node{d.Root}, true
	for _, segment := range s.segments {
		var next []*Node
		for _, n := range at {
			next = d.follow(next, n, segment)
		}
		// Parts of one list or mapping stand in order; those of several selectors, or of
		// several depths, may not.
		sorted = sorted && !segment.IsDescendant() && len(segment.Selectors()) == 1
		at = next
	}
	if !sorted {
		slices.SortStableFunc(at, func(a, b *Node) int { return a.Offset - b.Offset })
	}
	return at
}

// follow appends what one segment leads to from a node.
func (d *Tree) follow(to []*Node, n *Node, segment *spec.Segment) []*Node {
	for _, one := range segment.Selectors() {
		to = d.choose(to, n, one)
	}
	if segment.IsDescendant() {
		for _, c := range n.Children {
			to = d.follow(to, c, segment)
		}
	}
	return to
}

// choose appends the children of a node that a selector picks.
func (d *Tree) choose(to []*Node, n *Node, one spec.Selector) []*Node {
	d.Budget.Spend(StepCost)
	switch one := one.(type) {
	case spec.Name:
		if c := n.Child(string(one)); c != nil {
			return append(to, c)
		}
	case spec.Index:
		i := int(one)
		if i < 0 {
			i += len(n.Children)
		}
		if n.Kind == List && i >= 0 && i < len(n.Children) {
			return append(to, n.Children[i])
		}
	case spec.WildcardSelector:
		d.Budget.Spend(StepCost * len(n.Children))
		return append(to, n.current()...)
	case spec.SliceSelector:
		if n.Kind == List {
			return d.slice(to, n, one)
		}
	case *spec.FilterSelector:
		for _, c := range n.current() {
			d.Budget.Spend(StepCost * c.size())
			if one.Eval(c.standard(), nil) {
				to = append(to, c)
			}
		}
	}
	return to
}

func (d *Tree) slice(to []*Node, n *Node, s spec.SliceSelector) []*Node {
	from, end := s.Bounds(len(n.Children))
	d.Budget.Spend(StepCost * len(n.Children))
	for i := from; s.Step() > 0 && i < end; i += s.Step() {
		to = append(to, n.Children[i])
	}
	for i := end; s.Step() < 0 && from < i; i += s.Step() {
		to = append(to, n.Children[i])
	}
	return to
}

// current are the children that count: where a mapping has a key twice, the last.
func (n *Node) current() []*Node {
	if n.Kind != Mapping || len(n.Children) < 2 {
		return n.Children
	}
	out := make([]*Node, 0, len(n.Children))
	for _, c := range n.Children {
		if n.Child(c.Key) == c {
			out = append(out, c)
		}
	}
	return out
}

// size is how many values a node holds, itself included.
func (n *Node) size() int {
	total := 1
	for _, c := range n.Children {
		total += c.size()
	}
	return total
}

// standard is the value in the standard library's form, which filters look at.
func (n *Node) standard() any {
	switch n.Kind {
	case Mapping:
		out := make(map[string]any, len(n.Children))
		for _, c := range n.Children {
			out[c.Key] = c.standard()
		}
		return out
	case List:
		out := make([]any, 0, len(n.Children))
		for _, c := range n.Children {
			out = append(out, c.standard())
		}
		return out
	case Null:
		return nil
	}
	if n.quoted {
		return n.Text
	}
	switch n.Text {
	case "true":
		return true
	case "false":
		return false
	}
	if f, err := strconv.ParseFloat(n.Text, 64); err == nil {
		return f
	}
	return n.Text
}
