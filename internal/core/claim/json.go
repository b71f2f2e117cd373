package claim

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
func parseJSON(s source) (document, error) {
	tree, err := hujson.Parse(s.data)
	if err != nil {
		return nil, jsonError(err)
	}
	return &treeDocument{root: jsonNode(tree), source: s}, nil
}

func jsonNode(v hujson.Value) *node {
	n := &node{offset: v.StartOffset}
	switch v := v.Value.(type) {
	case *hujson.Object:
		n.kind = mappingNode
		n.children = make([]*node, 0, len(v.Members))
		for _, m := range v.Members {
			name, _ := m.Name.Value.(hujson.Literal)
			n.put(unquoted(name), jsonNode(m.Value))
		}
	case *hujson.Array:
		n.kind = listNode
		n.children = make([]*node, 0, len(v.Elements))
		for _, e := range v.Elements {
			n.children = append(n.children, jsonNode(e))
		}
	case hujson.Literal:
		switch v.Kind() {
		case 'n':
			n.kind = nullNode
		case '"':
			n.text, n.quoted = unquoted(v), true
			n.offset++
			n.written = len(v) - 2
		default:
			n.text = string(v)
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
		return &syntaxError{1, 1, err.Error()}
	}
	line, lineErr := strconv.Atoi(m[1])
	column, columnErr := strconv.Atoi(m[2])
	if errors.Join(lineErr, columnErr) != nil {
		return &syntaxError{1, 1, err.Error()}
	}
	return &syntaxError{line, column, "broken JSON: " + m[3]}
}
