package catalogue

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/nearest"
)

// Problem is a mistake in a file of a catalogue folder.
type Problem struct {
	File   string // with its folder's name, where the folder has one
	Line   int    // 0 where it is about all of the file
	Reason string
}

func (p Problem) Error() string {
	if p.Line == 0 {
		return p.File + ": " + p.Reason
	}
	return fmt.Sprintf("%s:%d: %s", p.File, p.Line, p.Reason)
}

// Folder is a catalogue folder with the name that messages call it by.
type Folder struct {
	fs.FS
	Name    string
	Trusted bool // its tools may be asked for their versions with any arguments
}

// Called is how messages call a file of a catalogue folder.
func Called(dir fs.FS, file string) string {
	if f, ok := dir.(Folder); ok {
		return path.Join(f.Name, file)
	}
	return file
}

// brokenAt finds the place in what the library says of YAML that it cannot read.
var brokenAt = regexp.MustCompile(`(?s)^yaml: (?:line (\d+): )?(.*)$`)

// Document is the root of a YAML file's one document; nil where the file is empty. What
// cannot be read is a Problem of the file that is named.
func Document(data []byte, file string) (*yaml.Node, error) {
	var doc yaml.Node
	err := yaml.NewDecoder(bytes.NewReader(data)).Decode(&doc)
	switch {
	case errors.Is(err, io.EOF):
		return nil, nil
	case err != nil:
		p := Problem{File: file, Line: 1, Reason: "broken YAML: " + err.Error()}
		if m := brokenAt.FindStringSubmatch(err.Error()); m != nil {
			p.Reason = "broken YAML: " + m[2]
			if n, err := strconv.Atoi(m[1]); err == nil {
				p.Line = n
			}
		}
		return nil, p
	case len(doc.Content) == 0 || doc.Content[0].Tag == "!!null":
		return nil, nil
	}
	return doc.Content[0], nil
}

// form compares YAML with the type that it is read into, and says what does not fit in the
// words of the file.
type form struct {
	fail func(line int, format string, args ...any)
	// deep is true where values whose types read themselves are tried too. It costs compiling
	// every pattern, and is only needed where one of them is known to be wrong.
	deep bool
}

var own = reflect.TypeFor[yaml.Unmarshaler]()

// value compares one value; what is the key above it.
func (f form) value(n *yaml.Node, t reflect.Type, what string) {
	for n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	switch {
	case reflect.PointerTo(t).Implements(own):
		if f.deep || n.Kind != yaml.ScalarNode {
			f.read(n, t, what)
		}
	case t.Kind() == reflect.Struct:
		f.mapping(n, t, what)
	case t.Kind() == reflect.Map:
		f.pairs(n, t.Elem(), what)
	case t.Kind() == reflect.Slice:
		f.list(n, t.Elem(), what)
	case n.Kind != yaml.ScalarNode || n.Tag == "!!null":
		f.fail(n.Line, "%s should be %s, and it is %s", what, kinds[t.Kind()], KindOf(n))
	case t.Kind() == reflect.Bool && n.Tag != "!!bool", t.Kind() == reflect.Int && n.Tag != "!!int":
		f.fail(n.Line, "%s should be %s, and it is %q", what, kinds[t.Kind()], n.Value)
	}
}

var kinds = map[reflect.Kind]string{reflect.String: "a text", reflect.Bool: "true or false", reflect.Int: "a number"}

// read tries a value whose type reads itself.
func (f form) read(n *yaml.Node, t reflect.Type, what string) {
	if n.Kind != yaml.ScalarNode {
		f.fail(n.Line, "%s should be a text, and it is %s", what, KindOf(n))
		return
	}
	if err := reflect.New(t).Interface().(yaml.Unmarshaler).UnmarshalYAML(n); err != nil {
		f.fail(n.Line, "%s: %v", what, err)
	}
}

func (f form) list(n *yaml.Node, of reflect.Type, what string) {
	if n.Kind != yaml.SequenceNode {
		f.fail(n.Line, "%s should be a list, and it is %s", what, KindOf(n))
		return
	}
	for _, item := range n.Content {
		f.value(item, of, "an entry of "+what)
	}
}

func (f form) pairs(n *yaml.Node, of reflect.Type, what string) {
	if n.Kind != yaml.MappingNode {
		f.fail(n.Line, "%s should be a mapping, and it is %s", what, KindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		f.value(n.Content[i+1], of, what+"."+n.Content[i].Value)
	}
}

func (f form) mapping(n *yaml.Node, t reflect.Type, what string) {
	fields := Keys(t)
	if n.Kind != yaml.MappingNode {
		f.fail(n.Line, "%s should be a mapping, and it is %s", what, KindOf(n))
		return
	}
	var keys []string
	for _, field := range fields {
		keys = append(keys, field.Key)
	}
	seen := map[string]bool{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key := n.Content[i]
		at := slices.Index(keys, key.Value)
		switch {
		case at < 0:
			f.fail(key.Line, "unknown key %q in %s; %s", key.Value, what, nearest.Hint(key.Value, keys))
		case seen[key.Value]:
			f.fail(key.Line, "%q stands twice in %s", key.Value, what)
		default:
			seen[key.Value] = true
			f.value(n.Content[i+1], fields[at].Type, key.Value)
		}
	}
}

// Key is a key of a mapping in a catalogue file, with the field that it is read into.
type Key struct {
	Key string
	reflect.StructField
}

// Keys are those of a type that is read from YAML, in order.
func Keys(t reflect.Type) []Key {
	var out []Key
	for i := range t.NumField() {
		name, _, _ := strings.Cut(t.Field(i).Tag.Get("yaml"), ",")
		if name != "" && name != "-" {
			out = append(out, Key{name, t.Field(i)})
		}
	}
	return out
}

// KindOf says what a value is, for messages: "a list", or its text in quotes.
func KindOf(n *yaml.Node) string {
	switch {
	case n.Kind == yaml.SequenceNode:
		return "a list"
	case n.Kind == yaml.MappingNode && len(n.Content) == 0:
		return "an empty mapping"
	case n.Kind == yaml.MappingNode:
		return "a mapping"
	case n.Tag == "!!null":
		return "empty"
	}
	return fmt.Sprintf("%q", n.Value)
}
