package resolve

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Fleet is machines together. It may be used from several goroutines.
type Fleet struct {
	Machines []*inventory.Machine
	wants    *Wants
	before   *Fleet // whose tooling is taken over where it is the same
	mu       sync.Mutex
	tools    map[*catalogue.Tool]*Tooling
}

// NewFleet puts machines together, sorted by name. Before is a fleet that is to be
// replaced, or nil: what it knows of tools for which nothing has changed is taken over.
func NewFleet(machines []*inventory.Machine, wants *Wants, before *Fleet) *Fleet {
	if before != nil {
		before.mu.Lock()
		before.before = nil // two generations are enough
		for _, t := range before.tools {
			t.mu.Lock()
			t.before = nil
			t.mu.Unlock()
		}
		before.mu.Unlock()
	}
	machines = slices.Clone(machines)
	slices.SortFunc(machines, func(a, b *inventory.Machine) int { return strings.Compare(a.Name(), b.Name()) })
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
	Tool     *catalogue.Tool
	Classes  []*Class          // in the order of their first machines
	Of       []*Class          // the class of each machine
	Versions []version.Version // the different ones that are installed, newest first
	Everyone Machines
	lines    []*catalogue.Line // of each of the versions
	places   map[string]int    // of each of the versions, by its text
	looks    []string          // of each machine, with its name
	before   *before           // nil where it takes nothing over

	mu       sync.Mutex
	answered map[*Question][]*Resolved
	works    *string // what working gives, once it was asked for
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
	tooling            *Tooling
	held               []Held // newest first
	override           *Want  // what the overriding variable asks for; nil where it names a path, or there is none
	overriding         *inventory.Installed
	byDefault          *Want
	path               *first   // the first one on PATH; nil where there is none
	led                sync.Map // what paths lead to, by path
}

// lead is what a path leads to.
type lead struct {
	to    *inventory.Installed
	there bool
}

// LeadsTo is the installation that a path on the machines leads to, as Machine.At gives it.
func (c *Class) LeadsTo(raw string) (found *inventory.Installed, there bool) {
	if known, ok := c.led.Load(raw); ok {
		l := known.(lead)
		return l.to, l.there
	}
	found, there = c.At(c.tooling.Tool.Name, raw)
	c.led.Store(raw, lead{found, there})
	return found, there
}

// Held is an installation with the place of its version among the tooling's; -1 where the
// version cannot be told.
type Held struct {
	*inventory.Installed
	At int
}

// first is the first executable on PATH, and the installation that it leads to.
type first struct {
	inventory.OnPath
	leads  *inventory.Installed // nil where none is known
	number version.Version      // that it tells of itself; zero where none can be read
	note   string
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
		made = f.before.carry(made)
	}
	f.tools[t] = made
	return made
}

// before is the tooling that another one replaces, on the same machines of which few have
// changed.
type before struct {
	*Tooling
	changed []int // places of the machines that have
}

// mostChanged is how many machines may have changed for what was found out to be compared.
const mostChanged = 4

// carry gives the fleet's own tooling where nothing of it has changed, and lets the new one
// look at it where little has.
func (f *Fleet) carry(made *Tooling) *Tooling {
	f.mu.Lock()
	defer f.mu.Unlock()
	old := f.tools[made.Tool]
	if old == nil || len(f.Machines) != len(made.looks) {
		return made
	}
	var changed []int
	for i, look := range made.looks {
		if look != old.looks[i] {
			changed = append(changed, i)
		}
	}
	if len(changed) == 0 {
		return old
	}
	if len(changed) <= mostChanged {
		made.before = &before{old, changed}
	}
	return made
}

func (f *Fleet) tooling(t *catalogue.Tool) *Tooling {
	out := &Tooling{Tool: t, answered: map[*Question][]*Resolved{}}
	byLook := map[string]*Class{}
	for i, m := range f.Machines {
		look := lookOf(m, t)
		out.looks = append(out.looks, m.Name()+"\n"+look)
		c := byLook[look]
		if c == nil {
			c = &Class{Machine: m}
			byLook[look] = c
			out.Classes = append(out.Classes, c)
		}
		c.Machines = c.Machines.With(i)
		out.Of = append(out.Of, c)
	}
	out.index()
	for _, c := range out.Classes {
		f.readClass(c, out)
	}
	return out
}

// index finds the different versions, so that a set is compared with each once.
func (t *Tooling) index() {
	for _, c := range t.Classes {
		t.Everyone = t.Everyone.And(c.Machines)
		for _, in := range c.Installed(t.Tool.Name) {
			if !in.Number.IsZero() {
				t.Versions = append(t.Versions, in.Number)
			}
		}
	}
	slices.SortFunc(t.Versions, func(a, b version.Version) int { return cmp.Or(b.Compare(a), strings.Compare(a.String(), b.String())) })
	t.Versions = slices.CompactFunc(t.Versions, func(a, b version.Version) bool { return a.String() == b.String() })
	t.places = make(map[string]int, len(t.Versions))
	for i, v := range t.Versions {
		t.places[v.String()] = i
		t.lines = append(t.lines, t.Tool.LineOf(v))
	}
	for _, c := range t.Classes {
		for _, in := range c.Installed(t.Tool.Name) {
			at, known := t.places[in.Number.String()]
			if in.Number.IsZero() || !known {
				at = -1
			}
			c.held = append(c.held, Held{in, at})
		}
	}
}

// readClass reads what the overriding variable, the default and PATH lead to.
func (f *Fleet) readClass(c *Class, t *Tooling) {
	c.tooling = t
	if o, ok := c.Override(t.Tool.Name); ok && isPath(o.Raw) {
		c.overriding, _ = c.At(t.Tool.Name, o.Raw)
	} else if ok {
		c.override = f.wants.Of(&claim.Claim{Raw: o.Raw, Dialect: "plain", Role: claim.Pin}, t.Tool)
	}
	if d, ok := c.Default(t.Tool.Name); ok {
		c.byDefault = f.wants.Of(&claim.Claim{Raw: d.Raw, Dialect: "plain", Role: claim.Pin}, t.Tool)
	}
	p, ok := c.FirstOnPath(t.Tool.Name)
	if !ok {
		return
	}
	c.path = &first{OnPath: p}
	c.path.leads, _ = c.At(t.Tool.Name, p.Path)
	number, err := t.Tool.Scheme().Parse(p.Version)
	if err == nil {
		c.path.number = number
	}
	if p.Shim {
		c.path.note = "a shim: it passes the call on"
		if c.path.leads == nil && err == nil {
			c.path.leads = c.Newest(t.Tool.Name, version.Exactly(number), inventory.Build{})
		}
	}
}

// Among tells which of the tooling's versions are in a set.
func (t *Tooling) Among(set version.Set) []bool {
	out := make([]bool, len(t.Versions))
	for i, v := range t.Versions {
		out[i] = set.Contains(v)
	}
	return out
}

// Has tells whether a version of a line that is among others works anywhere.
func (t *Tooling) Has(l *catalogue.Line, among []bool) bool {
	for i, line := range t.lines {
		if line != l || !among[i] {
			continue
		}
		if t.worksAnywhere(i) {
			return true
		}
	}
	return false
}

func (t *Tooling) worksAnywhere(version int) bool {
	return slices.ContainsFunc(t.Classes, func(c *Class) bool {
		return slices.ContainsFunc(c.held, func(h Held) bool { return h.At == version && h.Health != "broken" })
	})
}

// Side is where a version stands beside a set.
type Side int8

// The sides.
const (
	Inside Side = iota
	Below
	Above
)

// Beside tells where each of the tooling's versions stands beside a set.
func (t *Tooling) Beside(set version.Set) []Side {
	out := make([]Side, len(t.Versions))
	for i, v := range t.Versions {
		switch {
		case set.Contains(v):
		case set.NoneBelow(v):
			out[i] = Below
		default:
			out[i] = Above
		}
	}
	return out
}

// Nearest gives the installations next to a set: the newest in it, which is of another
// build than asked for or broken, the newest below it and the oldest above it.
func (c *Class) Nearest(beside []Side) []Held {
	var found [3]*Held
	for i := range c.held {
		h := &c.held[i]
		if h.At < 0 {
			continue
		}
		if side := beside[h.At]; found[side] == nil || side == Above {
			found[side] = h
		}
	}
	out := make([]Held, 0, len(found))
	for _, h := range found {
		if h != nil {
			out = append(out, *h)
		}
	}
	return out
}

// LineOf is the line of one of the tooling's versions, or of another one.
func (t *Tooling) LineOf(v version.Version) *catalogue.Line {
	if at, known := t.places[v.String()]; known {
		return t.lines[at]
	}
	return t.Tool.LineOf(v)
}

// NewestAmong is the newest working installation of such a build whose version is among
// some; nil where none is.
func (c *Class) NewestAmong(among []bool, build inventory.Build) *inventory.Installed {
	for i := range c.held {
		h := &c.held[i]
		if h.At >= 0 && among[h.At] && h.Health != "broken" && build.Fits(h.Installation) {
			return h.Installed
		}
	}
	return nil
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

// Resolved is a question resolved for a fleet, for as long as it holds. Machines that come
// to the same are together.
type Resolved struct {
	*Answer
	Outcomes []Outcome
	Span     day.Span
}

// Resolve resolves a question on a day, once for every class of machines. Where little has
// changed since an earlier fleet and nothing comes of it, the earlier answer is given.
func (t *Tooling) Resolve(q *Question, on *day.Day) *Resolved {
	known, was := t.known(q, on)
	if known != nil {
		on.Note(known.Span)
		return known
	}
	asked := day.On(on.Time())
	var out *Resolved
	if earlier := was.resolved(q, on); earlier != nil && t.same(earlier, was.changed, asked) {
		out = earlier
	} else {
		out = t.resolve(q, asked)
	}
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

func (t *Tooling) resolve(q *Question, on *day.Day) *Resolved {
	out := &Resolved{Answer: q.On(on)}
	narrowed := t.narrow(out.Answer, on)
	for _, c := range t.Classes {
		out.Outcomes = together(out.Outcomes, c.Machines, climb(out.Answer, narrowed, c, on, nil))
	}
	out.Span = on.Span()
	return out
}

// known is the answer for a day, where it was found before; otherwise the tooling before.
func (t *Tooling) known(q *Question, on *day.Day) (*Resolved, *before) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, known := range t.answered[q] {
		if known.Span.Holds(on.Time()) {
			return known, nil
		}
	}
	return nil, t.before
}

func (b *before) resolved(q *Question, on *day.Day) *Resolved {
	if b == nil {
		return nil
	}
	known, _ := b.known(q, on)
	return known
}

// same reports whether the machines that have changed come to the same as in an earlier answer.
func (t *Tooling) same(r *Resolved, changed []int, on *day.Day) bool {
	narrowed := t.narrow(r.Answer, on)
	for _, i := range changed {
		now := climb(r.Answer, narrowed, t.Of[i], on, nil)
		if was := r.Comes(i); was == nil || !was.like(&now) || was.Path != "" && was.Path != now.Path {
			return false
		}
	}
	return true
}

// OutcomeOf is what a class of machines comes to, with the path that is its own.
func (t *Tooling) OutcomeOf(r *Resolved, c *Class, on *day.Day) Outcome {
	return climb(r.Answer, t.narrow(r.Answer, on), c, on, nil)
}

// Comes is what the machine at a place comes to.
func (r *Resolved) Comes(machine int) *Outcome {
	for i := range r.Outcomes {
		if r.Outcomes[i].Machines.Has(machine) {
			return &r.Outcomes[i]
		}
	}
	return nil
}

// Changed are the machines that have changed since the tooling before, and what was
// remembered beside it; nil where there was none.
func (t *Tooling) Changed() (machines []int, was *Tooling) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.before == nil {
		return nil, nil
	}
	return t.before.changed, t.before.Tooling
}

// SameLines reports whether the versions of known lines that work somewhere are the same
// as in another tooling.
func (t *Tooling) SameLines(o *Tooling) bool { return t.working() == o.working() }

// working are the versions of known lines that work somewhere.
func (t *Tooling) working() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.works == nil {
		b := strings.Builder{}
		for i, l := range t.lines {
			if l != nil && t.worksAnywhere(i) {
				b.WriteString(t.Versions[i].String())
				b.WriteByte(0)
			}
		}
		text := b.String()
		t.works = &text
	}
	return *t.works
}

// mostSpans is for how many spans of days an answer is kept.
const mostSpans = 12
