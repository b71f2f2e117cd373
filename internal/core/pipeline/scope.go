package pipeline

import (
	"strings"

	"wexo/internal/core/document"
)

// scope is what names stand for in one part of a file, by lower-case name: one value, or
// several of a matrix.
type scope struct {
	names map[string][]document.Value
	known map[string][]document.Value // what was looked up before
}

func newScope() *scope {
	return &scope{names: map[string][]document.Value{}, known: map[string][]document.Value{}}
}

func (s *scope) put(v document.Value, names ...string) {
	for _, name := range names {
		name = strings.ToLower(name)
		s.names[name] = append(s.names[name], v)
	}
}

// replace lets a name stand for a value from here on.
func (s *scope) replace(v document.Value, name string) {
	name = strings.ToLower(name)
	s.names[name] = []document.Value{v}
	delete(s.known, name)
}

// kinds are what stands before a name that says of what kind it is.
var kinds = []string{"", "env.", "variables.", "parameters.", "inputs.", "matrix."}

func (s *scope) values(name string) []document.Value {
	if out, asked := s.known[name]; asked {
		return out
	}
	out := s.find(name)
	s.known[name] = out
	return out
}

func (s *scope) find(name string) []document.Value {
	base, given := strings.CutPrefix(name, "parameters.")
	for _, kind := range kinds {
		list := s.names[kind+name]
		if given && kind == "" { // what a matrix of callers passes on
			list = append(list[:len(list):len(list)], s.names[base]...)
		}
		var out []document.Value
		seen := map[int]bool{}
		for _, v := range list {
			if v.Text != "" && !seen[v.Offset] {
				seen[v.Offset] = true
				out = append(out, v)
			}
		}
		if len(out) > 0 {
			return out
		}
	}
	return nil
}

// scopes are the parts of a file that enclose the place where its reading is: a workflow, a job,
// a step, a matrix; the build of a container and one of its stages. Names are looked up here and
// nowhere else.
type scopes struct {
	whole *scope          // what the file defines anywhere, or for all of it
	inner []*scope        // the innermost last
	blind bool            // names are not the file's own: whoever runs it gives them
	used  map[string]bool // names, in lower case, that were found
}

func newScopes() *scopes { return &scopes{whole: newScope(), used: map[string]bool{}} }

// enter adds an inner part, until leave is called; one that is nil defines nothing.
func (s *scopes) enter(part *scope) (leave func()) {
	if part == nil {
		return func() {}
	}
	s.inner = append(s.inner, part)
	return func() { s.inner = s.inner[:len(s.inner)-1] }
}

// lookup is what a name stands for: the innermost part that defines it counts, then the file
// as a whole. A definition is not looked up in itself.
func (s *scopes) lookup(name string, itself int) []document.Value {
	if s.blind {
		return nil
	}
	name = strings.ToLower(name)
	for i := len(s.inner) - 1; i >= -1; i-- {
		part := s.whole
		if i >= 0 {
			part = s.inner[i]
		}
		var out []document.Value
		for _, v := range part.values(name) {
			if v.Offset != itself {
				out = append(out, v)
			}
		}
		if len(out) > 0 {
			s.used[name] = true
			return out
		}
	}
	return nil
}

// compose puts what names stand for into the text that stands at an offset.
func (s *scopes) compose(text string, offset int) []document.Composed {
	return document.Compose(text, func(name string) []document.Value { return s.lookup(name, offset) })
}
