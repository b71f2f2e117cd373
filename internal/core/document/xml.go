package document

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"strings"

	"github.com/antchfx/xpath"
)

// element is an element, attribute or text of an XML document with its place.
type element struct {
	kind       xpath.NodeType
	name       string
	text       string // of an attribute or a text, trimmed
	offset     int
	size       int // of an attribute or a text, in the file; -1 where it is not written as one
	parent     *element
	index      int // among its parent's children or attributes
	children   []*element
	attributes []*element
}

// XML is an XML document.
type XML struct {
	root *element
	Source
}

// parseXML reads XML; a selector is an XPath in which names stand without prefixes. An
// entity that the document defines is left as it is written.
func parseXML(s Source) (Document, error) {
	data := s.Data
	root := &element{kind: xpath.RootNode}
	decoder := xml.NewDecoder(bytes.NewReader(data))
	decoder.CharsetReader = func(_ string, input io.Reader) (io.Reader, error) { return input, nil }
	at, depth := root, 0
	for {
		start := int(decoder.InputOffset())
		token, err := decoder.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, xmlError(decoder, err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			if depth++; depth > maxNesting {
				return nil, xmlError(decoder, errors.New("elements are nested too deep"))
			}
			at = at.add(&element{kind: xpath.ElementNode, name: t.Name.Local, offset: start})
			at.addAttributes(t.Attr, data[start:decoder.InputOffset()], start)
		case xml.EndElement:
			depth--
			at = at.parent
		case xml.CharData:
			if trimmed := strings.TrimSpace(string(t)); trimmed != "" && at != root {
				written := data[start:decoder.InputOffset()]
				text := &element{kind: xpath.TextNode, text: trimmed, offset: start + max(bytes.Index(written, []byte(trimmed[:1])), 0), size: -1}
				if bytes.IndexByte(written, '<') < 0 {
					text.size = len(bytes.TrimSpace(written))
					text.offset = start + bytes.Index(written, bytes.TrimSpace(written))
				}
				at.add(text)
			}
		}
	}
	return &XML{root, s}, nil
}

func (e *element) add(child *element) *element {
	child.parent, child.index = e, len(e.children)
	e.children = append(e.children, child)
	return child
}

var attributePlace = regexp.MustCompile(`([\w:.-]+)\s*=\s*["']`)

func (e *element) addAttributes(list []xml.Attr, tag []byte, start int) {
	if len(list) == 0 {
		return
	}
	places := map[string]int{}
	for _, m := range attributePlace.FindAllSubmatchIndex(tag, -1) {
		name := string(tag[m[2]:m[3]])
		name = name[strings.LastIndexByte(name, ':')+1:]
		if _, seen := places[name]; !seen {
			places[name] = start + m[1]
		}
	}
	for _, a := range list {
		e.attributes = append(e.attributes, &element{kind: xpath.AttributeNode, name: a.Name.Local, text: a.Value, offset: places[a.Name.Local], size: quotedText(tag, places[a.Name.Local]-start), parent: e, index: len(e.attributes)})
	}
}

// quotedText is how long a text is that begins behind a quote; -1 where it does not.
func quotedText(tag []byte, at int) int {
	if at < 1 || at > len(tag) {
		return -1
	}
	return bytes.IndexByte(tag[at:], tag[at-1])
}

func xmlError(d *xml.Decoder, err error) error {
	line, column := d.InputPos()
	reason := err.Error()
	var syntax *xml.SyntaxError
	if errors.As(err, &syntax) {
		reason = syntax.Msg
	}
	return &SyntaxError{line, column, "broken XML: " + plainly(reason)}
}

// Find gives the texts and attributes that a selector leads to.
func (d *XML) Find(text string) []Value {
	s := d.Selectors[text]
	if s == nil {
		return nil
	}
	var out []Value
	for i := s.xpath.Select(&cursor{d.root, d.Budget}); i.MoveNext(); {
		at := i.Current().(*cursor).at
		v := Value{Text: at.text, Offset: at.offset, Size: at.size, Key: at.name}
		if at.kind == xpath.ElementNode {
			if len(at.children) != 1 || at.children[0].kind != xpath.TextNode {
				continue
			}
			v.Text, v.Offset, v.Size = at.children[0].text, at.children[0].offset, at.children[0].size
		}
		out = append(out, v)
	}
	return out
}

// cursor walks a document for the XPath library, which has no limits of its own: it goes
// nowhere, and reads nothing, but by these calls.
type cursor struct {
	at     *element
	budget *Budget
}

// xpathStep is what one call costs: the library makes and keeps something for most.
const xpathStep = 16

func (c *cursor) NodeType() xpath.NodeType  { return c.at.kind }
func (c *cursor) LocalName() string         { return c.at.name }
func (c *cursor) Prefix() string            { return "" }
func (c *cursor) Copy() xpath.NodeNavigator { return &cursor{c.at, c.budget} }
func (c *cursor) MoveToFirst() bool         { return c.sibling(-c.at.index) }
func (c *cursor) MoveToNext() bool          { return c.at.kind != xpath.AttributeNode && c.sibling(1) }
func (c *cursor) MoveToPrevious() bool      { return c.at.kind != xpath.AttributeNode && c.sibling(-1) }
func (c *cursor) MoveTo(o xpath.NodeNavigator) bool {
	other, ok := o.(*cursor)
	if ok {
		c.at = other.at
	}
	return ok
}

func (c *cursor) Value() string {
	c.budget.Spend(xpathStep)
	if c.at.kind == xpath.AttributeNode || c.at.kind == xpath.TextNode {
		return c.at.text
	}
	var b strings.Builder
	c.at.write(&b, c.budget)
	return b.String()
}

func (e *element) write(b *strings.Builder, budget *Budget) {
	budget.Spend(xpathStep + len(e.text))
	b.WriteString(e.text)
	for _, c := range e.children {
		c.write(b, budget)
	}
}

func (c *cursor) MoveToRoot() {
	c.budget.Spend(xpathStep)
	for c.at.parent != nil {
		c.at = c.at.parent
	}
}

func (c *cursor) MoveToParent() bool {
	c.budget.Spend(xpathStep)
	if c.at.parent == nil {
		return false
	}
	c.at = c.at.parent
	return true
}

func (c *cursor) MoveToChild() bool {
	c.budget.Spend(xpathStep)
	if len(c.at.children) == 0 {
		return false
	}
	c.at = c.at.children[0]
	return true
}

func (c *cursor) MoveToNextAttribute() bool {
	c.budget.Spend(xpathStep)
	from, next := c.at, 0
	if c.at.kind == xpath.AttributeNode {
		from, next = c.at.parent, c.at.index+1
	}
	if next >= len(from.attributes) {
		return false
	}
	c.at = from.attributes[next]
	return true
}

func (c *cursor) sibling(by int) bool {
	c.budget.Spend(xpathStep)
	if c.at.parent == nil || c.at.kind == xpath.AttributeNode {
		return false
	}
	to := c.at.index + by
	if to < 0 || to >= len(c.at.parent.children) {
		return false
	}
	c.at = c.at.parent.children[to]
	return true
}

// Has tells whether a selector leads anywhere.
func (d *XML) Has(text string) bool {
	s := d.Selectors[text]
	return s != nil && s.xpath.Select(&cursor{d.root, d.Budget}).MoveNext()
}
