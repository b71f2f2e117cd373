// Package rule is what must go together: rules between tools and components, baselines of
// target platforms, and the joint answer over all tools of a folder. Rules and baselines
// are data, shipped with the catalogue or written by the user; the joint answer is found
// exactly, or said not to be decided.
package rule

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
)

// Rule is what must go together. In each of its rows, where all of When holds, each of Need
// must too. A rule written by itself has one row, one written as a table many.
type Rule struct {
	Name     string
	Rows     []Row
	Severity string // error, warning or note
	Brings   bool   // what is needed is not chosen beside what needs it, but comes with it
	Fixed    bool   // and nothing else can stand in for what comes with it
	Builds   bool   // it is about what runs the build, and not what the code is made for
	Table    bool
	Ends     []End // all that it speaks of, in the order in which it does
	At       Place

	once     sync.Once
	relation *relation
}

// Row is one line of a rule.
type Row struct {
	When, Need []Term
	Because    string
	Source     string
	Date       string
	At         Place
	Implied    bool // nobody wrote it: it follows from the row before it
}

// Term is a range of something that a rule speaks of.
type Term struct {
	End  int         // place among the rule's ends
	Text string      // as written
	Set  version.Set // of what has versions
	Word string      // of what has none: what it is to be
}

// End is something that a rule speaks of: a tool or component, or of a tool's installation
// its vendor, variant, package kind or processor, or the machine's system or processor.
type End struct {
	Name  string // as written: node, java.vendor, machine.os
	Of    string // the tool or component, or "machine"
	Label string // vendor, variant, package, arch, os; empty where versions are meant
}

// labels are what may be asked of an installation or a machine beside a version.
var labels = map[string][]string{"machine": {"os", "arch"}, "": {"vendor", "variant", "package", "arch"}}

// Place is where something stands in a file.
type Place struct {
	File string
	Line int
}

func (p Place) String() string {
	if p.Line == 0 {
		return p.File
	}
	return fmt.Sprintf("%s:%d", p.File, p.Line)
}

// endNamed finds out what a name in a rule means.
func endNamed(c *catalogue.Catalogue, name string) (End, error) {
	of, label, labelled := strings.Cut(name, ".")
	if labelled && of == "machine" && slices.Contains(labels[of], label) {
		return End{name, of, label}, nil
	}
	if t, known := c.Tool(of); labelled && known && slices.Contains(labels[""], label) {
		return End{t.Name + "." + label, t.Name, label}, nil
	}
	if t, known := c.Tool(name); known {
		return End{t.Name, t.Name, ""}, nil
	}
	if _, known := c.SchemeOf(name); known {
		return End{name, name, ""}, nil
	}
	if c.Worded(name) {
		return End{name, name, "word"}, nil
	}
	return End{}, unknown(c, name)
}

// unknown says that a name is neither of a tool nor of a component.
func unknown(c *catalogue.Catalogue, name string) error {
	return fmt.Errorf("%q is no tool or component that the catalogue knows; %s", name, nearest.Hint(name, append(c.Names(), c.Frameworks()...)))
}

// end is the place of an end among the rule's, which is added where it is new.
func (r *Rule) end(e End) int {
	if at := slices.Index(r.Ends, e); at >= 0 {
		return at
	}
	r.Ends = append(r.Ends, e)
	return len(r.Ends) - 1
}

// Speaks is the place of a name among the rule's ends; -1 where it is none.
func (r *Rule) Speaks(name string) int {
	return slices.IndexFunc(r.Ends, func(e End) bool { return e.Name == name })
}

// Value is what is known of an end: the versions that it may be of, or a word. The zero
// value is not known.
type Value struct {
	Set  version.Set
	Word string
}

// IsZero reports whether nothing is known.
func (v Value) IsZero() bool { return v.Word == "" && v.Set.Scheme() == version.NoScheme }

// holds reports whether all that a value may be is in the term.
func (t *Term) holds(v Value) bool {
	if t.Word != "" {
		return strings.EqualFold(t.Word, v.Word)
	}
	return !v.Set.IsEmpty() && v.Set.SubsetOf(t.Set)
}

// meets reports whether something that a value may be is in the term.
func (t *Term) meets(v Value) bool {
	if t.Word != "" {
		return strings.EqualFold(t.Word, v.Word)
	}
	return t.Set.Meets(v.Set)
}

// Applying are the rows whose conditions meet what is known, or about which too little is.
func (r *Rule) Applying(values []Value) []*Row {
	var out []*Row
	for i := range r.Rows {
		row := &r.Rows[i]
		if !slices.ContainsFunc(row.When, func(t Term) bool { return !values[t.End].IsZero() && !t.meets(values[t.End]) }) {
			out = append(out, row)
		}
	}
	return out
}

// Undecidable reports whether a rule has more choices than are written out, so that more than
// what is sure of each end alone is not known.
func (r *Rule) Undecidable() bool { return r.related().too }

// Distinct tells values of an end apart as far as the rule does.
func (r *Rule) Distinct(end int, v Value) string {
	rel := r.related()
	if rel.too {
		return v.Word + v.Set.Canonical()
	}
	var out []byte
	for _, met := range rel.meeting(end, v) {
		out = strconv.AppendBool(out, met)
	}
	return string(out)
}

// Moved sets where a rule stands, for one that was read apart from its file.
func (r *Rule) Moved(at Place) {
	line := r.At.Line
	r.At = at
	for i := range r.Rows {
		r.Rows[i].At = Place{at.File, at.Line + r.Rows[i].At.Line - line}
	}
}
