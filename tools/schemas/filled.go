package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
	"wexo/internal/core/version"
)

// words are the words that there are of each kind.
type words map[string][]string

func known() (words, error) {
	c, err := catalogue.Embedded()
	if err != nil {
		return nil, err
	}
	return words{"tool": c.Names(), "dialect": version.DialectNames(), "format": document.Formats(), "class": assess.ClassNames(), "scheme": version.SchemeNames(),
		"severity": {"error", "warning", "note"}, "role": {"pin", "bound", "wiring", "setup", "tested", "component", "residue"},
		"state": {"met", "missing", "unpinned", "conflict", "absent", "unknown"}, "recognised": {"standard", "shape", "rule"}, "certainty": {"high", "medium", "low"},
		"decidedBy": {"", "override", "pin", "inherited-pin", "baseline", "default", "path"}}, nil
}

// of are the words that a key of a format can hold; nil where it can be any.
func (w words) of(tag, key string) []string {
	switch {
	case tag == "yaml" && slices.Contains([]string{"scheme", "dialect", "setup-dialect", "role", "certainty"}, key):
		return w[strings.TrimPrefix(key, "setup-")]
	case tag == "json" && slices.Contains([]string{"class", "severity", "role", "state", "decidedBy"}, key):
		return w[key]
	}
	return nil
}

// fill puts the words into a schema that is written by hand: the tools as examples, since a
// catalogue folder may add some, and dialects, formats and classes as all that there are.
func (w words) fill(file string) error {
	data, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	var doc yaml.Node // JSON is YAML, and a node keeps the order of the keys
	if err := yaml.Unmarshal(data, &doc); err != nil {
		return fmt.Errorf("%s: %w", file, err)
	}
	w.filled(doc.Content[0], "")
	var out bytes.Buffer
	if err := json.Indent(&out, asJSON(doc.Content[0]), "", "  "); err != nil {
		return err
	}
	out.WriteByte('\n')
	return os.WriteFile(file, out.Bytes(), 0o644)
}

// filled goes through a schema; key is the one under which it stands.
func (w words) filled(n *yaml.Node, key string) {
	if n.Kind == yaml.MappingNode {
		switch {
		case get(n, "x-tool") != nil:
			set(n, "examples", w["tool"])
		case (key == "dialect" || key == "format") && get(n, "enum") != nil:
			set(n, "enum", w[key])
		case key == "propertyNames" && get(n, "enum") != nil:
			set(n, "enum", w["class"])
		}
		for i := 0; i+1 < len(n.Content); i += 2 {
			w.filled(n.Content[i+1], n.Content[i].Value)
		}
		return
	}
	for _, item := range n.Content {
		w.filled(item, "")
	}
}

func get(n *yaml.Node, key string) *yaml.Node {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return n.Content[i+1]
		}
	}
	return nil
}

func set(n *yaml.Node, key string, list []string) {
	value := get(n, key)
	if value == nil {
		value = &yaml.Node{}
		n.Content = append(n.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: key, Tag: "!!str", Style: yaml.DoubleQuotedStyle}, value)
	}
	*value = yaml.Node{Kind: yaml.SequenceNode}
	for _, word := range list {
		value.Content = append(value.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: word, Tag: "!!str", Style: yaml.DoubleQuotedStyle})
	}
}

// asJSON writes a node as JSON, its keys in their order.
func asJSON(n *yaml.Node) []byte {
	var b bytes.Buffer
	switch n.Kind {
	case yaml.MappingNode:
		b.WriteByte('{')
		for i := 0; i+1 < len(n.Content); i += 2 {
			if i > 0 {
				b.WriteByte(',')
			}
			b.Write(quoted(n.Content[i].Value))
			b.WriteByte(':')
			b.Write(asJSON(n.Content[i+1]))
		}
		b.WriteByte('}')
	case yaml.SequenceNode:
		b.WriteByte('[')
		for i, item := range n.Content {
			if i > 0 {
				b.WriteByte(',')
			}
			b.Write(asJSON(item))
		}
		b.WriteByte(']')
	default:
		if n.Tag == "!!str" {
			return quoted(n.Value)
		}
		return []byte(n.Value)
	}
	return b.Bytes()
}

func quoted(text string) []byte {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if e.Encode(text) != nil { // a text can always be written
		return []byte(`""`)
	}
	return bytes.TrimSpace(b.Bytes())
}
