// Package contract is the API's contract as the service itself obeys it: which roles may
// call what, how large a request may be, and what its parameters may hold, as
// openapi.yaml says. Code is generated from the same file.
package contract

import (
	_ "embed"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/nearest"
)

//go:embed openapi.yaml
var text []byte

// Text is the contract as it is written, in YAML.
func Text() []byte { return text }

// Operation is one call.
type Operation struct {
	ID        string
	Method    string
	Path      string // with parameters in braces
	Open      bool   // needs no caller
	Roles     []string
	MostBytes int64 // of a request's body; 0 where it has none
	Query     []Parameter
}

// Parameter is one of a request's parameters.
type Parameter struct {
	Name     string `yaml:"name"`
	In       string `yaml:"in"`
	Required bool   `yaml:"required"`
	Schema   Schema `yaml:"schema"`
	Ref      string `yaml:"$ref"`
}

// Schema is what a parameter may hold.
type Schema struct {
	Type      string   `yaml:"type"`
	Format    string   `yaml:"format"`
	Enum      []string `yaml:"enum"`
	Minimum   *int64   `yaml:"minimum"`
	Maximum   *int64   `yaml:"maximum"`
	MaxLength int      `yaml:"maxLength"`
	MaxItems  int      `yaml:"maxItems"`
	Items     *Schema  `yaml:"items"`
}

// usualBody is how large a body may be of which nothing else is said, in bytes.
const usualBody = 64 << 10

// Operations reads the contract.
func Operations() ([]Operation, error) {
	var doc struct {
		Paths      map[string]map[string]yaml.Node `yaml:"paths"`
		Components struct {
			Parameters map[string]Parameter `yaml:"parameters"`
		} `yaml:"components"`
	}
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, fmt.Errorf("the API's contract: %w", err)
	}
	var out []Operation
	for path, methods := range doc.Paths {
		for method, node := range methods {
			if method == "parameters" {
				continue
			}
			var o struct {
				ID         string         `yaml:"operationId"`
				Security   *[]any         `yaml:"security"`
				Roles      []string       `yaml:"x-roles"`
				MostBytes  int64          `yaml:"x-most-bytes"`
				Parameters []Parameter    `yaml:"parameters"`
				Body       map[string]any `yaml:"requestBody"`
			}
			if err := node.Decode(&o); err != nil {
				return nil, fmt.Errorf("the API's contract, %s %s: %w", method, path, err)
			}
			op := Operation{ID: o.ID, Method: strings.ToUpper(method), Path: path, Open: o.Security != nil && len(*o.Security) == 0, Roles: o.Roles, MostBytes: o.MostBytes}
			if !op.Open && len(op.Roles) == 0 {
				return nil, fmt.Errorf("the API's contract, %s %s: no role may call it", method, path)
			}
			if op.MostBytes == 0 && o.Body != nil {
				op.MostBytes = usualBody
			}
			for _, p := range o.Parameters {
				if name, ok := strings.CutPrefix(p.Ref, "#/components/parameters/"); ok {
					p = doc.Components.Parameters[name]
				}
				if p.In == "query" {
					op.Query = append(op.Query, p)
				}
			}
			out = append(out, op)
		}
	}
	slices.SortFunc(out, func(a, b Operation) int { return strings.Compare(a.Path+a.Method, b.Path+b.Method) })
	return out, nil
}

// Check tells what is wrong with a request's parameters, in words that name the parameter.
func (o Operation) Check(query url.Values) error {
	if err := o.unknown(query); err != nil {
		return err
	}
	for _, p := range o.Query {
		values, given := query[p.Name]
		switch {
		case !given && p.Required:
			return fmt.Errorf("the parameter %s is missing", p.Name)
		case !given:
			continue
		}
		if p.Schema.Type != "array" && len(values) > 1 {
			return fmt.Errorf("the parameter %s is given %d times; it may be given once", p.Name, len(values))
		}
		schema := p.Schema
		if schema.Type == "array" {
			if schema.MaxItems > 0 && len(values) > schema.MaxItems {
				return fmt.Errorf("the parameter %s is given %d times; it may be given %d times", p.Name, len(values), schema.MaxItems)
			}
			schema = *schema.Items
		}
		for _, value := range values {
			if should := schema.refuses(value); should != "" {
				return fmt.Errorf("the parameter %s should be %s, and it is %s", p.Name, should, shown(value))
			}
		}
	}
	return nil
}

// unknown refuses a parameter that the call does not have: who misspells a filter is not to
// take everything for the answer.
func (o Operation) unknown(query url.Values) error {
	var known []string
	for _, p := range o.Query {
		known = append(known, p.Name)
	}
	for _, name := range slices.Sorted(maps.Keys(query)) {
		switch {
		case slices.Contains(known, name):
		case len(known) == 0:
			return fmt.Errorf("this call takes no parameters, and %s is given", shown(name))
		default:
			return fmt.Errorf("this call has no parameter %s; %s", shown(name), nearest.Hint(name, known))
		}
	}
	return nil
}

// refuses says what a value should be; "" where it is that.
func (s Schema) refuses(value string) string {
	switch {
	case !utf8.ValidString(value) || strings.ContainsRune(value, 0):
		return "text in UTF-8"
	case s.Type == "integer":
		n, err := strconv.ParseInt(value, 10, 32)
		if err != nil || s.Minimum != nil && n < *s.Minimum || s.Maximum != nil && n > *s.Maximum {
			return s.span()
		}
	case s.Format == "date":
		if _, err := time.Parse(time.DateOnly, value); err != nil {
			return "a date such as 2026-11-16"
		}
	case len(s.Enum) > 0 && !slices.Contains(s.Enum, value):
		return strings.Join(s.Enum[:len(s.Enum)-1], ", ") + " or " + s.Enum[len(s.Enum)-1]
	case s.MaxLength > 0 && utf8.RuneCountInString(value) > s.MaxLength:
		return fmt.Sprintf("at most %d characters long", s.MaxLength)
	}
	return ""
}

func (s Schema) span() string {
	switch {
	case s.Minimum != nil && s.Maximum != nil:
		return fmt.Sprintf("a whole number from %d to %d", *s.Minimum, *s.Maximum)
	case s.Minimum != nil:
		return fmt.Sprintf("a whole number not below %d", *s.Minimum)
	}
	return "a whole number"
}

// shown is a value for a message, cut short.
func shown(value string) string {
	const most = 40
	if runes := []rune(value); len(runes) > most {
		return fmt.Sprintf("%q… (%d characters)", string(runes[:most]), len(runes))
	}
	return fmt.Sprintf("%q", value)
}
