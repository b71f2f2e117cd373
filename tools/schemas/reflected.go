package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"reflect"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/unseen"
)

// reflected makes schemas of Go types.
type reflected struct {
	tag      string // json or yaml
	comments map[string]string
	words    words
	// open schemas allow further fields, which a later version may write; those of files that
	// are read by hand do not, so that a misspelt key shows in an editor.
	open bool
}

func (r reflected) write(file, title string, t reflect.Type) error {
	top := r.of(t, "")
	top.Schema, top.Title = "https://json-schema.org/draft/2020-12/schema", title
	for _, p := range top.Properties {
		if p.name == "format" {
			p.Const = title
		}
	}
	out, err := json.MarshalIndent(top, "", "  ")
	if err != nil {
		return err
	}
	return os.WriteFile(file, append(ascii(out), '\n'), 0o644)
}

// shape is a schema; its fields are in the order in which they are written.
type shape struct {
	Schema      string   `json:"$schema,omitempty"`
	Title       string   `json:"title,omitempty"`
	Type        string   `json:"type,omitempty"`
	Description string   `json:"description,omitempty"`
	Format      string   `json:"format,omitempty"`
	Const       string   `json:"const,omitempty"`
	Enum        []string `json:"enum,omitempty"`
	Pattern     string   `json:"pattern,omitempty"`
	Required    []string `json:"required,omitempty"`
	Closed      *bool    `json:"additionalProperties,omitempty"`
	Values      *shape   `json:"-"`
	Properties  ordered  `json:"properties,omitempty"`
	Items       *shape   `json:"items,omitempty"`
}

// ordered are properties in the order of the fields.
type ordered []property

type property struct {
	name string
	*shape
}

// MarshalJSON keeps the order.
func (o ordered) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	for i, p := range o {
		data, err := json.Marshal(p.shape)
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&b, "%s%q:%s", map[bool]string{true: "{", false: ","}[i == 0], p.name, data)
	}
	b.WriteByte('}')
	return b.Bytes(), nil
}

// MarshalJSON writes what the values of a mapping are in place of whether there may be others.
func (s *shape) MarshalJSON() ([]byte, error) {
	type plain shape
	data, err := json.Marshal((*plain)(s))
	if err != nil || s.Values == nil {
		return data, err
	}
	values, err := json.Marshal(s.Values)
	if err != nil {
		return nil, err
	}
	comma := ","
	if string(data) == "{}" {
		comma = ""
	}
	return fmt.Appendf(data[:len(data)-1], `%s"additionalProperties":%s}`, comma, values), nil
}

var scalars = map[reflect.Type]*shape{
	reflect.TypeFor[catalogue.Pattern](): {Type: "string", Format: "regex"},
	reflect.TypeFor[catalogue.Date]():    {Type: "string", Format: "date"},
	reflect.TypeFor[unseen.Weight]():     {Type: "string", Enum: []string{"told", "open", "lost"}},
	reflect.TypeFor[unseen.Kind]():       {Type: "string", Enum: []string{"missing", "unread", "unmatched", "undecided"}},
	reflect.TypeFor[catalogue.Span]():    {Type: "string", Pattern: `^[1-9][0-9]{0,3}(d|mo)$`},
}

// of is the schema of a type; key is the one that it stands under.
func (r reflected) of(t reflect.Type, key string) *shape {
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if known := scalars[t]; known != nil {
		one := *known
		return &one
	}
	switch t.Kind() {
	case reflect.Struct:
		return r.object(t)
	case reflect.Slice:
		return &shape{Type: "array", Items: r.of(t.Elem(), key)}
	case reflect.Map:
		return &shape{Type: "object", Values: r.of(t.Elem(), "")}
	case reflect.Bool:
		return &shape{Type: "boolean"}
	case reflect.Int, reflect.Int64:
		return &shape{Type: "integer"}
	}
	return &shape{Type: "string", Enum: r.words.of(r.tag, key)}
}

func (r reflected) object(t reflect.Type) *shape {
	out := &shape{Type: "object"}
	if !r.open {
		out.Closed = new(bool)
	}
	r.add(out, t)
	return out
}

// add puts a type's fields into an object, those of embedded types too.
func (r reflected) add(out *shape, t reflect.Type) {
	for i := range t.NumField() {
		f := t.Field(i)
		tag, set := f.Tag.Lookup(r.tag)
		name, options, _ := strings.Cut(tag, ",")
		if f.Anonymous && !set {
			r.add(out, f.Type)
			continue
		}
		if name == "" || name == "-" {
			continue
		}
		s := r.of(f.Type, name)
		s.Description = r.comments[t.String()+"."+f.Name]
		out.Properties = append(out.Properties, property{name, s})
		needed := r.tag == "json" && !strings.Contains(options, "omit")
		if needed || r.tag == "yaml" && slices.Contains(required[t.Name()], name) {
			out.Required = append(out.Required, name)
		}
	}
}

// required are the keys without which a part of a tool's file means nothing.
var required = map[string][]string{
	"Tool": {"tool", "title", "scheme", "dialect"}, "ClaimRule": {"files", "format", "role"}, "Line": {"line", "released"}, "Framework": {"name"}, "Override": {"variable"}, "Step": {"uses"}, "VersionSource": {"pattern"},
}
