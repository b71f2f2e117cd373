package resolve

import (
	"fmt"
	"strings"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
)

// Fleet is machines together. It may be used from several goroutines.
type Fleet struct {
	Machines []*inventory.Machine
	wants    *Wants
	before   *Fleet // whose tooling is taken over where it is the same
	mu       sync.Mutex
	tools    map[*catalogue.Tool]*Tooling
}

// NewFleet puts machines together, in the order given. Before is a fleet that is to be
// replaced, or nil: what it knows of tools for which nothing has changed is taken over.
func NewFleet(machines []*inventory.Machine, wants *Wants, before *Fleet) *Fleet {
	if before != nil {
		before.mu.Lock()
		before.before = nil // two generations are enough
		before.mu.Unlock()
	}
	return &Fleet{Machines: machines, wants: wants, before: before, tools: map[*catalogue.Tool]*Tooling{}}
}

// Names are the names of the machines chosen, in the fleet's order.
func (f *Fleet) Names(m Machines) []string {
	out := make([]string, 0, m.Len())
	for i := range m.All() {
		out = append(out, f.Machines[i].Name())
	}
	return out
}

// Everyone is all machines.
func (f *Fleet) Everyone() Machines {
	var out Machines
	for i := range f.Machines {
		out = out.With(i)
	}
	return out
}

// Tooling is what a fleet has of one tool: machines that look the same to it are one class.
type Tooling struct {
	Tool    *catalogue.Tool
	Classes []*Class // in the order of their first machines
	Of      []*Class // the class of each machine
	key     string

	mu       sync.Mutex
	answered map[*Question][]*Resolved
	notes    any
}

// Remember is what others keep beside the tooling, and what goes when it does. It is made
// when it is first asked for.
func (t *Tooling) Remember(first func() any) any {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.notes == nil {
		t.notes = first()
	}
	return t.notes
}

// Class is machines that look the same to a tool: the same installations, default,
// overriding variable and first one on PATH.
type Class struct {
	*inventory.Machine          // the first of them, which stands for all
	Machines           Machines // their places in the fleet
	override           *Want    // what the overriding variable asks for; nil where it names a path, or there is none
	byDefault          *Want
}

// Of is what the fleet has of a tool.
func (f *Fleet) Of(t *catalogue.Tool) *Tooling {
	f.mu.Lock()
	defer f.mu.Unlock()
	if known := f.tools[t]; known != nil {
		return known
	}
	made := f.tooling(t)
	if f.before != nil {
		f.before.mu.Lock()
		if old := f.before.tools[t]; old != nil && old.key == made.key {
			made = old
		}
		f.before.mu.Unlock()
	}
	f.tools[t] = made
	return made
}

func (f *Fleet) tooling(t *catalogue.Tool) *Tooling {
	out := &Tooling{Tool: t, answered: map[*Question][]*Resolved{}}
	byLook := map[string]*Class{}
	whole := strings.Builder{}
	for i, m := range f.Machines {
		look := lookOf(m, t)
		fmt.Fprintf(&whole, "%q %q\n", m.Name(), look)
		c := byLook[look]
		if c == nil {
			c = &Class{Machine: m}
			f.readClass(c, t)
			byLook[look] = c
			out.Classes = append(out.Classes, c)
		}
		c.Machines = c.Machines.With(i)
		out.Of = append(out.Of, c)
	}
	out.key = whole.String()
	return out
}

// readClass reads what the overriding variable and the default ask for.
func (f *Fleet) readClass(c *Class, t *catalogue.Tool) {
	if o, ok := c.Override(t.Name); ok && !isPath(o.Raw) {
		c.override = f.wants.Of(&claim.Claim{Raw: o.Raw, Dialect: "plain", Role: claim.Pin}, t)
	}
	if d, ok := c.Default(t.Name); ok {
		c.byDefault = f.wants.Of(&claim.Claim{Raw: d.Raw, Dialect: "plain", Role: claim.Pin}, t)
	}
}

func isPath(raw string) bool { return raw != "" && (raw[0] == '/' || raw[0] == '~') }

// lookOf is all that a machine shows to a tool. A machine on which paths were followed
// looks like no other.
func lookOf(m *inventory.Machine, t *catalogue.Tool) string {
	b := strings.Builder{}
	if m.Followed != nil {
		fmt.Fprintf(&b, "%q", m.Name())
	}
	info := m.Inventory.Machine
	fmt.Fprintf(&b, "%s %s\n", info.Kind, info.Home)
	for _, in := range m.Installed(t.Name) {
		fmt.Fprintf(&b, "%q %q %q %q %q %q %q %q %q\n", in.Version, in.Vendor, in.Variant, in.Package, in.Arch, in.Health, in.Path, in.Home, in.Origin)
	}
	o, _ := m.Override(t.Name)
	d, _ := m.Default(t.Name)
	p, _ := m.FirstOnPath(t.Name)
	fmt.Fprintf(&b, "%q %q %q %q %q %q %t", o.Variable, o.Raw, d.Raw, d.Source, p.Path, p.Version, p.Shim)
	return b.String()
}

// Resolved is a question resolved on every class of machines, for as long as it holds.
type Resolved struct {
	*Answer
	Outcomes []Outcome // in the order of the classes
	Span     day.Span
}

// Resolve resolves a question on a day, once for every class of machines.
func (t *Tooling) Resolve(q *Question, on *day.Day) *Resolved {
	t.mu.Lock()
	for _, known := range t.answered[q] {
		if known.Span.Holds(on.Time()) {
			t.mu.Unlock()
			on.Note(known.Span)
			return known
		}
	}
	t.mu.Unlock()
	asked := day.On(on.Time())
	out := &Resolved{Answer: q.On(asked)}
	for _, c := range t.Classes {
		out.Outcomes = append(out.Outcomes, climb(out.Answer, c, asked, nil))
	}
	out.Span = asked.Span()
	on.Note(out.Span)
	t.mu.Lock()
	defer t.mu.Unlock()
	list := t.answered[q]
	if len(list) == mostSpans {
		list = list[1:]
	}
	t.answered[q] = append(list[:len(list):len(list)], out)
	return out
}

// mostSpans is for how many spans of days an answer is kept.
const mostSpans = 12
