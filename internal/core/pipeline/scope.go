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
	whole *scope            // what the file defines anywhere, or for all of it
	inner []*scope          // the innermost last
	blind bool              // names are not the file's own: whoever runs it gives them
	given map[string]string // what a blind file's names are given as, where that is known
	used  map[string]bool   // names, in lower case, that were found
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
// as a whole. A definition is not looked up in itself; one that refers to its own name means what
// the name stands for outside.
func (s *scopes) lookup(name string, itself int) []document.Value {
	if text, ok := s.given[name]; s.blind && ok {
		return []document.Value{{Text: text, Given: &document.Given{Name: name}}}
	}
	if s.blind {
		return nil
	}
	return s.from(len(s.inner)-1, strings.ToLower(name), itself)
}

// from looks a name up in an inner part and those outside it; -1 is the file as a whole.
func (s *scopes) from(part int, name string, itself int) []document.Value {
	for ; part >= -1; part-- {
		of := s.whole
		if part >= 0 {
			of = s.inner[part]
		}
		var out []document.Value
		for _, v := range of.values(name) {
			if v.Offset != itself {
				out = append(out, s.outside(v, name, part))
			}
		}
		if len(out) > 0 {
			s.used[name] = true
			return out
		}
	}
	return nil
}

// outside is a value with what it says of its own name put in, as that stands outside its part.
func (s *scopes) outside(v document.Value, name string, part int) document.Value {
	if part < 0 || !document.Refers(v.Text) {
		return v
	}
	own := func(asked string) bool { return bare(asked) == bare(name) }
	list := document.Compose(v.Text, func(asked string) []document.Value {
		if !own(asked) {
			return nil
		}
		return s.from(part-1, strings.ToLower(asked), v.Offset)
	})
	if len(list) != 1 || list[0].Open != "" || list[0].From == nil {
		return v
	}
	if whole := list[0].Whole; whole != nil { // nothing stands around it
		return *whole
	}
	return document.Value{Key: v.Key, Text: list[0].Text, Offset: list[0].From.Offset, Given: list[0].From, Size: -1}
}

// bare is a name without what says of what kind it is.
func bare(name string) string {
	return strings.ToLower(name[strings.LastIndexByte(name, '.')+1:])
}

// compose puts what names stand for into the text that stands at an offset.
func (s *scopes) compose(text string, offset int) []document.Composed {
	return document.Compose(text, func(name string) []document.Value { return s.lookup(name, offset) })
}
