package resolve

import (
	"cmp"
	"slices"
	"strings"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Tooling is what a fleet has of one tool: machines that look the same to it are one class.
type Tooling struct {
	Tool     *catalogue.Tool
	Classes  []*Class          // in the order of their first machines
	Of       []*Class          // the class of each machine; nil where it is not in the fleet
	Versions []version.Version // the different ones that are installed, newest first
	Everyone Machines
	lines    []*catalogue.Line // of each of the versions
	working  []bool            // of each of the versions, whether it works anywhere
	places   map[string]int    // of each of the versions, by its text
	looks    []string          // of each machine
	before   *before           // nil where it takes nothing over

	mu       sync.Mutex
	answered map[*Question][]*Resolved
	ofLines  []string // what lined gives, once it was asked for
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

func (f *Fleet) tooling(t *catalogue.Tool, looks []string) *Tooling {
	out := &Tooling{Tool: t, looks: looks, answered: map[*Question][]*Resolved{}}
	byLook := map[string]*Class{}
	for i, m := range f.Machines {
		if !f.has(i) {
			out.Of = append(out.Of, nil)
			continue
		}
		look := looks[i]
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
			if !in.Number.IsZero() && !in.Private {
				t.Versions = append(t.Versions, in.Number)
			}
		}
	}
	slices.SortFunc(t.Versions, func(a, b version.Version) int { return cmp.Or(b.Compare(a), strings.Compare(a.String(), b.String())) })
	t.Versions = slices.CompactFunc(t.Versions, func(a, b version.Version) bool { return a.String() == b.String() })
	t.places = make(map[string]int, len(t.Versions))
	t.working = make([]bool, len(t.Versions))
	for i, v := range t.Versions {
		t.places[v.String()] = i
		t.lines = append(t.lines, t.Tool.LineOf(v))
	}
	for _, c := range t.Classes {
		for _, in := range c.Installed(t.Tool.Name) {
			at, known := t.places[in.Number.String()]
			if in.Number.IsZero() || in.Private || !known {
				at = -1
			}
			c.held = append(c.held, Held{in, at})
			if at >= 0 && in.Health != "broken" {
				t.working[at] = true
			}
		}
	}
}

// readClass reads what the overriding variable, the default and PATH lead to.
func (f *Fleet) readClass(c *Class, t *Tooling) {
	c.tooling = t
	if o, ok := c.Override(t.Tool.Name); ok && inventory.IsPath(o.Raw) {
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
	c.path.leads = c.Leading(t.Tool.Name, p)
	number, err := t.Tool.Scheme().Parse(p.Version)
	if err == nil {
		c.path.number = number
	}
	if p.Shim {
		c.path.note = "a proxy: it passes the call on"
		if x, ok := c.Proxy(t.Tool.Name, p.Path); ok && x.Because != "" {
			c.path.note += " (" + x.Because + ")"
			if x.Picks != "" {
				c.path.leads, _ = c.At(t.Tool.Name, x.Picks)
			}
		}
		if c.path.leads == nil && err == nil {
			c.path.leads = c.Newest(t.Tool.Name, version.Exactly(number), inventory.Build{})
		}
	}
}

// OnPath is the version of what a terminal finds first; direct is false where that passes
// calls on, or where nothing is found.
func (c *Class) OnPath() (number version.Version, text string, direct bool) {
	if c.path == nil || c.path.Shim {
		return version.Version{}, "", false
	}
	if c.path.leads != nil {
		return c.path.leads.Number, c.path.leads.Version, true
	}
	return c.path.number, c.path.Version, true
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
		if line == l && among[i] && t.working[i] {
			return true
		}
	}
	return false
}

// SameLines reports whether the versions of known lines that work somewhere are the same as
// in another tooling.
func (t *Tooling) SameLines(o *Tooling) bool { return slices.Equal(t.lined(), o.lined()) }

// lined are the versions of known lines that work somewhere.
func (t *Tooling) lined() []string {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ofLines == nil {
		t.ofLines = []string{}
		for i, l := range t.lines {
			if l != nil && t.working[i] {
				t.ofLines = append(t.ofLines, t.Versions[i].String())
			}
		}
	}
	return t.ofLines
}

// Lacking are the machines that have no working installation of such a build in a set.
func (t *Tooling) Lacking(set version.Set, build inventory.Build) Machines {
	var out Machines
	among := t.Among(set)
	for _, c := range t.Classes {
		if c.NewestAmong(among, build) == nil {
			out = out.And(c.Machines)
		}
	}
	return out
}

// Usual is of the versions among some the one that is the newest on the most machines, the
// newest of several; empty where no machine has one.
func (t *Tooling) Usual(among []bool, build inventory.Build) string {
	machines := make([]int, len(t.Versions))
	for _, c := range t.Classes {
		if in := c.NewestAmong(among, build); in != nil {
			machines[t.places[in.Number.String()]] += c.Machines.Len()
		}
	}
	best, most := "", 0
	for i, n := range machines {
		if n > most {
			best, most = t.Versions[i].String(), n
		}
	}
	return best
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

// Unusable are the installations that nobody can count on: those that do not work, whose
// versions cannot be told, or that serve another program alone.
func (c *Class) Unusable() (out []*inventory.Installed) {
	for _, h := range c.held {
		if h.At < 0 || h.Health == "broken" {
			out = append(out, h.Installed)
		}
	}
	return out
}

// Nearest gives the working installations next to a set: the newest in it, which is of
// another build than asked for, the newest below it and the oldest above it.
func (c *Class) Nearest(beside []Side) []Held {
	var found [3]*Held
	for i := range c.held {
		h := &c.held[i]
		if h.At < 0 || h.Health == "broken" {
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
