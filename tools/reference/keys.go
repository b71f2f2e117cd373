package main

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
)

// schema is what is read of a JSON Schema, in its order.
type schema struct {
	Type        string
	Description string
	Enum        []string
	Required    []string
	Properties  json.RawMessage
	Items       *schema
	Values      json.RawMessage `json:"additionalProperties"`
}

// keys writes the tables of the keys of a tool's file, one a mapping, from its JSON Schema,
// which is written from the types that read the file.
func keys(file string) error {
	data, err := os.ReadFile("docs/schemas/tool.schema.json")
	if err != nil {
		return err
	}
	var top schema
	if err := json.Unmarshal(data, &top); err != nil {
		return err
	}
	var b strings.Builder
	seen := map[string]bool{}
	if err := mapping(&b, "", top, seen); err != nil {
		return err
	}
	return between(file, "keys", b.String())
}

type entry struct {
	key string
	schema
}

func mapping(b *strings.Builder, name string, s schema, seen map[string]bool) error {
	list, err := inOrder(s.Properties)
	if err != nil {
		return err
	}
	if name != "" {
		fmt.Fprintf(b, "\n### `%s`\n\n", name)
	}
	b.WriteString("| key | kind | what it says |\n| --- | --- | --- |\n")
	var below []entry
	for _, e := range list {
		if e.Description == "" {
			return fmt.Errorf("the key %s of %s has no comment where it is read", e.key, name)
		}
		inner, kind := e.schema, kindOf(e.schema)
		if inner.Items != nil {
			inner = *inner.Items
		}
		if values := inner.mapped(); values != nil {
			inner = *values
		}
		if len(inner.Properties) > 0 && !seen[string(inner.Properties)] {
			seen[string(inner.Properties)] = true
			below = append(below, entry{strings.TrimPrefix(name+"."+e.key, "."), inner})
		}
		fmt.Fprintf(b, "| `%s` | %s | %s |\n", e.key, kind, strings.ReplaceAll(e.Description, "|", `\|`))
	}
	for _, e := range below {
		if err := mapping(b, e.key, e.schema, seen); err != nil {
			return err
		}
	}
	return nil
}

// mapped is what the values of a mapping are; nil where it has keys of its own, or is none.
func (s schema) mapped() *schema {
	var out schema
	if len(s.Values) == 0 || s.Values[0] != '{' || json.Unmarshal(s.Values, &out) != nil {
		return nil
	}
	return &out
}

func kindOf(s schema) string {
	switch {
	case s.Items != nil:
		return "list"
	case s.Type == "object":
		return "mapping"
	case s.Type == "boolean":
		return "true or false"
	case s.Type == "integer":
		return "number"
	}
	return "text"
}

// inOrder are the properties in the order in which they stand.
func inOrder(data json.RawMessage) ([]entry, error) {
	d := json.NewDecoder(strings.NewReader(string(data)))
	if _, err := d.Token(); err != nil {
		return nil, err
	}
	var out []entry
	for d.More() {
		key, err := d.Token()
		if err != nil {
			return nil, err
		}
		var s schema
		if err := d.Decode(&s); err != nil {
			return nil, err
		}
		out = append(out, entry{fmt.Sprint(key), s})
	}
	return out, nil
}
