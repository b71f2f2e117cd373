package claim

import (
	"encoding/json"
	"errors"
	"regexp"
	"strconv"

	"github.com/tailscale/hujson"
	"github.com/theory/jsonpath"
)

// selectors are the compiled JSONPath expressions of a catalogue.
type selectors map[string]*jsonpath.Path

type jsonDocument struct {
	data      []byte
	tree      hujson.Value
	plain     any
	selectors selectors
}

var hujsonPlace = regexp.MustCompile(`line (\d+), column (\d+): (.*)`)

// parseJSON reads JSON, also with comments and trailing commas.
func parseJSON(data []byte, s selectors) (document, error) {
	if err := checkNesting(data); err != nil {
		return nil, err
	}
	tree, err := hujson.Parse(data)
	if err != nil {
		return nil, jsonError(err)
	}
	standard := tree.Clone()
	standard.Standardize()
	var plain any
	if err := json.Unmarshal(standard.Pack(), &plain); err != nil {
		return nil, &syntaxError{1, 1, err.Error()}
	}
	return &jsonDocument{data, tree, plain, s}, nil
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

// checkNesting refuses brackets nested so deep that parsing them could exhaust the stack.
func checkNesting(data []byte) error {
	depth, quoted := 0, false
	for i := 0; i < len(data); i++ {
		switch c := data[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '[' || c == '{':
			if depth++; depth > maxNesting {
				line, column := position(data, i)
				return &syntaxError{line, column, "brackets are nested more than " + strconv.Itoa(maxNesting) + " deep"}
			}
		case c == ']' || c == '}':
			depth--
		}
	}
	return nil
}

func (d *jsonDocument) find(selector string) []value {
	path := d.selectors[selector]
	if path == nil {
		return nil
	}
	var out []value
	for _, node := range path.SelectLocated(d.plain) {
		text, ok := scalar(node.Node)
		if !ok {
			continue
		}
		at := d.tree.Find(node.Path.Pointer())
		if at == nil {
			continue
		}
		offset := at.StartOffset
		if d.data[offset] == '"' {
			offset++ // the value itself, not its quote
		}
		line, column := position(d.data, offset)
		out = append(out, value{text, line, column})
	}
	return out
}

// scalar is a JSON value as text; objects, lists and null have none.
func scalar(node any) (string, bool) {
	switch n := node.(type) {
	case string:
		return n, true
	case float64:
		return strconv.FormatFloat(n, 'f', -1, 64), true
	case bool:
		return strconv.FormatBool(n), true
	}
	return "", false
}
