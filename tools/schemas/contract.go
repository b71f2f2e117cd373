package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"strings"

	"go.yaml.in/yaml/v3"
)

// contract is what is read of the API's contract.
type contract struct {
	Components struct {
		Schemas map[string]*object
	}
}

// object is a schema in the contract's form. The order of keys is that of the schema's text.
type object struct {
	Ref         string    `yaml:"$ref" json:"$ref,omitempty"`
	Type        string    `yaml:"type" json:"-"`
	Types       any       `yaml:"-" json:"type,omitempty"`
	Description string    `yaml:"description" json:"description,omitempty"`
	Format      string    `yaml:"format" json:"format,omitempty"`
	Enum        []string  `yaml:"enum" json:"enum,omitempty"`
	Pattern     string    `yaml:"pattern" json:"pattern,omitempty"`
	Not         *object   `yaml:"-" json:"not,omitempty"`
	MinLength   int       `yaml:"minLength" json:"minLength,omitempty"`
	MaxLength   int       `yaml:"maxLength" json:"maxLength,omitempty"`
	Minimum     *int      `yaml:"minimum" json:"minimum,omitempty"`
	Nullable    bool      `yaml:"nullable" json:"-"`
	Required    []string  `yaml:"required" json:"required,omitempty"`
	Given       []string  `yaml:"x-given" json:"-"` // what has to be given, where that is less than what is always answered
	Properties  yaml.Node `yaml:"properties" json:"-"`
	Members     members   `yaml:"-" json:"properties,omitempty"`
	Most        int       `yaml:"maxProperties" json:"maxProperties,omitempty"`
	Additional  *object   `yaml:"additionalProperties" json:"additionalProperties,omitempty"`
	Names       *object   `yaml:"-" json:"propertyNames,omitempty"`
	MaxItems    int       `yaml:"maxItems" json:"maxItems,omitempty"`
	Items       *object   `yaml:"items" json:"items,omitempty"`
}

// members are properties in the order in which they are written.
type members []member

type member struct {
	name   string
	schema *object
}

// MarshalJSON keeps the order.
func (m members) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	b.WriteByte('{')
	for i, one := range m {
		data, err := json.Marshal(one.schema)
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&b, "%s%q:%s", map[bool]string{i > 0: ","}[true], one.name, data)
	}
	b.WriteByte('}')
	return b.Bytes(), nil
}

// A text has so many characters at most where the contract says nothing else, and none that
// controls a terminal or turns the direction of writing.
const (
	mostText = 200
	controls = `[\x00-\x1f\x7f-\x9f` + "\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]"
	aText    = "#/$defs/text"
)

// contracted writes the JSON Schema of the inventory from the API's contract: the two say the
// same, and one of them is written by hand.
func contracted(from, to string) error {
	data, err := os.ReadFile(from)
	if err != nil {
		return err
	}
	var c contract
	if err := yaml.Unmarshal(data, &c); err != nil {
		return fmt.Errorf("%s: %w", from, err)
	}
	top, ok := c.Components.Schemas["Inventory"]
	if !ok {
		return fmt.Errorf("%s has no Inventory", from)
	}
	if err := c.complete(top); err != nil {
		return fmt.Errorf("%s: %w", from, err)
	}
	out, err := json.MarshalIndent(struct {
		Schema string `json:"$schema"`
		Title  string `json:"title"`
		*object
		Defs map[string]*object `json:"$defs"`
	}{"https://json-schema.org/draft/2020-12/schema", "wexo.inventory/1", top,
		map[string]*object{"text": {Types: "string", Description: "A text without controls", Not: &object{Pattern: controls}}}}, "", "  ")
	if err != nil {
		return err
	}
	return os.WriteFile(to, append(ascii(out), '\n'), 0o644)
}

// ascii writes other characters by their numbers: those that matter here cannot be seen.
func ascii(text []byte) []byte {
	var out []byte
	for _, r := range string(text) {
		if r < 0x80 {
			out = append(out, byte(r))
		} else {
			out = fmt.Appendf(out, "\\u%04x", r)
		}
	}
	return out
}

// complete puts what is referred to in its place and says in the schema's words what the
// contract says in its own.
func (c contract) complete(o *object) error {
	if name, ok := strings.CutPrefix(o.Ref, "#/components/schemas/"); ok {
		known := c.Components.Schemas[name]
		if known == nil {
			return fmt.Errorf("there is no %s", name)
		}
		*o = *known
	}
	o.Types = o.Type
	if o.Nullable {
		o.Types = []string{o.Type, "null"}
	}
	if o.Given != nil {
		o.Required = o.Given
	}
	if o.Type == "string" && o.Format == "" && o.Enum == nil {
		o.limit()
	}
	for i := 0; i+1 < len(o.Properties.Content); i += 2 {
		var property object
		if err := o.Properties.Content[i+1].Decode(&property); err != nil {
			return err
		}
		if err := c.complete(&property); err != nil {
			return err
		}
		o.Members = append(o.Members, member{o.Properties.Content[i].Value, &property})
	}
	if o.Items != nil {
		return c.complete(o.Items)
	}
	if o.Additional != nil {
		o.Names = &object{Ref: aText, MaxLength: mostText}
		return c.complete(o.Additional)
	}
	return nil
}

func (o *object) limit() {
	if o.MaxLength == 0 {
		o.MaxLength = mostText
	}
	o.Ref, o.Types = aText, nil
}
