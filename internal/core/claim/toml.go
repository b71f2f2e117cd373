package claim

import (
	"errors"
	"strings"

	"github.com/pelletier/go-toml/v2"
	"github.com/pelletier/go-toml/v2/unstable"
)

// tomlDocument maps dotted keys to values.
type tomlDocument map[string][]value

// parseTOML reads TOML; a selector is a dotted key (project.requires-python).
func parseTOML(data []byte, _ selectors) (document, error) {
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
	d := tomlDocument{}
	p := unstable.Parser{}
	p.Reset(data)
	table := ""
	for p.NextExpression() {
		e := p.Expression()
		switch e.Kind {
		case unstable.Table, unstable.ArrayTable:
			table = tomlKey(e.Key())
		case unstable.KeyValue:
			d.add(&p, data, join(table, tomlKey(e.Key())), e.Value())
		}
	}
	return d, nil
}

func (d tomlDocument) add(p *unstable.Parser, data []byte, key string, n *unstable.Node) {
	switch n.Kind {
	case unstable.InlineTable:
		for i := n.Children(); i.Next(); {
			if child := i.Node(); child.Kind == unstable.KeyValue {
				d.add(p, data, join(key, tomlKey(child.Key())), child.Value())
			}
		}
	case unstable.String, unstable.Integer, unstable.Float, unstable.Bool:
		offset := int(n.Raw.Offset)
		if n.Kind == unstable.String {
			offset++
		}
		line, column := position(data, offset)
		d[key] = append(d[key], value{string(n.Data), line, column})
	}
}

func (d tomlDocument) find(selector string) []value { return d[selector] }

func tomlKey(i unstable.Iterator) string {
	var parts []string
	for i.Next() {
		parts = append(parts, string(i.Node().Data))
	}
	return strings.Join(parts, ".")
}

func join(table, key string) string {
	if table == "" {
		return key
	}
	return table + "." + key
}
