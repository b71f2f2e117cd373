package document

import (
	"bytes"
	"errors"
	"regexp"
	"strconv"
	"unicode/utf8"

	"github.com/tailscale/hujson"
)

var hujsonPlace = regexp.MustCompile(`line (\d+), column (\d+): (.*)`)

// parseJSON reads JSON, also with comments and trailing commas.
func parseJSON(s Source) (Document, error) {
	tree, err := hujson.Parse(s.Data)
	if err != nil {
		return nil, jsonError(err)
	}
	return &Tree{Root: jsonNode(tree), Source: s}, nil
}

func jsonNode(v hujson.Value) *Node {
	n := &Node{Offset: v.StartOffset}
	switch v := v.Value.(type) {
	case *hujson.Object:
		n.Kind = Mapping
		n.Children = make([]*Node, 0, len(v.Members))
		for _, m := range v.Members {
			name, _ := m.Name.Value.(hujson.Literal)
			n.put(unquoted(name), jsonNode(m.Value))
		}
	case *hujson.Array:
		n.Kind = List
		n.Children = make([]*Node, 0, len(v.Elements))
		for _, e := range v.Elements {
			n.Children = append(n.Children, jsonNode(e))
		}
	case hujson.Literal:
		switch v.Kind() {
		case 'n':
			n.Kind = Null
		case '"':
			n.Text, n.quoted = unquoted(v), true
			n.Offset++
			n.Written = len(v) - 2
		default:
			n.Text = string(v)
		}
	}
	return n
}

// unquoted is a string's text. Most hold no escape, and need no decoder.
func unquoted(v hujson.Literal) string {
	if len(v) < 2 || bytes.IndexByte(v, '\\') >= 0 || !utf8.Valid(v) {
		return v.String()
	}
	return string(v[1 : len(v)-1])
}

func jsonError(err error) error {
	m := hujsonPlace.FindStringSubmatch(err.Error())
	if m == nil {
		return &SyntaxError{1, 1, err.Error()}
	}
	line, lineErr := strconv.Atoi(m[1])
	column, columnErr := strconv.Atoi(m[2])
	if errors.Join(lineErr, columnErr) != nil {
		return &SyntaxError{1, 1, err.Error()}
	}
	return &SyntaxError{line, column, "broken JSON: " + plainly(m[3])}
}
