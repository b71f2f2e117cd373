package resolve

import (
	"fmt"
	"iter"
	"slices"
	"strings"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// Fleet is machines together. It may be used from several goroutines.
type Fleet struct {
	Machines []*inventory.Machine
	wants    *Wants
	before   *Fleet // whose tooling is taken over where it is the same
	mu       sync.Mutex
	tools    map[*catalogue.Tool]*Tooling
	names    sync.Map // of choices among the first 64 machines, by their bits
	whole    *Fleet   // of which this is a part; nil where it is none
	among    Machines // those that are in the part
	parts    map[string]*Fleet
	seen     map[*catalogue.Tool][]string // how all machines look, once it was asked for
}

// NewFleet puts machines together, sorted by name. Before is a fleet that is to be
// replaced, or nil: what it knows of tools for which nothing has changed is taken over.
func NewFleet(machines []*inventory.Machine, wants *Wants, before *Fleet) *Fleet {
	before.forget()
	machines = slices.Clone(machines)
	slices.SortFunc(machines, func(a, b *inventory.Machine) int { return strings.Compare(a.Name(), b.Name()) })
	return &Fleet{Machines: machines, wants: wants, before: before, tools: map[*catalogue.Tool]*Tooling{}}
}

// forget lets go of what a fleet has taken over: two generations are enough.
func (f *Fleet) forget() {
	if f == nil {
		return
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	f.before = nil
	for _, t := range f.tools {
		t.mu.Lock()
		t.before = nil
		t.mu.Unlock()
	}
	for _, p := range f.parts {
		p.forget()
	}
}

// Among is the part of the fleet that some of its machines are. Places of machines are the
// same in it as in the whole.
func (f *Fleet) Among(some Machines) *Fleet {
	if f.whole != nil {
		return f.whole.Among(some)
	}
	if some.Len() == len(f.Machines) {
		return f
	}
	key := some.key()
	f.mu.Lock()
	defer f.mu.Unlock()
	if known := f.parts[key]; known != nil {
		return known
	}
	if f.parts == nil {
		f.parts = map[string]*Fleet{}
	}
	part := &Fleet{Machines: f.Machines, wants: f.wants, tools: map[*catalogue.Tool]*Tooling{}, whole: f, among: some}
	if f.before != nil && len(f.before.Machines) == len(f.Machines) {
		part.before = f.before.Among(some)
	}
	f.parts[key] = part
	return part
}

// has reports whether the machine at a place belongs to the fleet.
func (f *Fleet) has(i int) bool { return f.whole == nil || f.among.Has(i) }

// All are the fleet's machines by their places.
func (f *Fleet) All() iter.Seq2[int, *inventory.Machine] {
	return func(yield func(int, *inventory.Machine) bool) {
		for i, m := range f.Machines {
			if f.has(i) && !yield(i, m) {
				return
			}
		}
	}
}

// Names are the names of the machines chosen, in the fleet's order. Thousands of findings
// are of the same few choices: the list is shared, and nobody may change it.
func (f *Fleet) Names(m Machines) []string {
	if len(m.more) == 0 {
		if known, ok := f.names.Load(m.first); ok {
			return known.([]string)
		}
	}
	out := make([]string, 0, m.Len())
	for i := range m.All() {
		out = append(out, f.Machines[i].Name())
	}
	if len(m.more) == 0 {
		f.names.Store(m.first, out)
	}
	return out
}

// Everyone is all machines.
func (f *Fleet) Everyone() Machines {
	if f.whole != nil {
		return f.among
	}
	var out Machines
	for i := range f.Machines {
		out = out.With(i)
	}
	return out
}

// Of is what the fleet has of a tool.
func (f *Fleet) Of(t *catalogue.Tool) *Tooling {
	f.mu.Lock()
	defer f.mu.Unlock()
	if known := f.tools[t]; known != nil {
		return known
	}
	looks, old, changed := f.looks(t)
	made := old
	if old == nil || len(changed) > 0 {
		made = f.tooling(t, looks)
	}
	if old != nil && len(changed) > 0 && len(changed) <= mostChanged {
		made.before = &before{old, changed}
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

// looks are how the machines look to a tool, with the tooling of the fleet before and the
// places at which something looks different; no tooling where its machines were others.
func (f *Fleet) looks(t *catalogue.Tool) (looks []string, old *Tooling, changed []int) {
	if f.before != nil && len(f.before.Machines) == len(f.Machines) {
		f.before.mu.Lock()
		old = f.before.tools[t]
		f.before.mu.Unlock()
	}
	seen := f.lookedAt(t)
	for i, m := range f.Machines {
		if !f.has(i) {
			looks = append(looks, "")
			continue
		}
		if old != nil && f.before.Machines[i] == m {
			looks = append(looks, old.looks[i])
			continue
		}
		if seen != nil {
			looks = append(looks, seen[i])
		} else {
			looks = append(looks, lookOf(m, t))
		}
		if old != nil && (looks[i] != old.looks[i] || f.before.Machines[i].Name() != m.Name()) {
			changed = append(changed, i)
		}
	}
	return looks, old, changed
}

// lookedAt is how all machines look to a tool, for a part of a fleet, of which there are many;
// nil for the whole.
func (f *Fleet) lookedAt(t *catalogue.Tool) []string {
	if f.whole == nil {
		return nil
	}
	f.whole.mu.Lock()
	defer f.whole.mu.Unlock()
	if known := f.whole.seen[t]; known != nil {
		return known
	}
	if f.whole.seen == nil {
		f.whole.seen = map[*catalogue.Tool][]string{}
	}
	out := make([]string, len(f.Machines))
	for i, m := range f.Machines {
		out[i] = lookOf(m, t)
	}
	f.whole.seen[t] = out
	return out
}

// lookOf is all that a machine shows to a tool. A machine on which paths were followed
// looks like no other.
func lookOf(m *inventory.Machine, t *catalogue.Tool) string {
	b := strings.Builder{}
	if m.Followed != nil {
		fmt.Fprintf(&b, "%q", m.Name())
	}
	info := m.Inventory.Machine
	fmt.Fprintf(&b, "%s %t %t\n", info.Kind, info.Home != "", m.IgnoresCase())
	if m.AtHome(t.Name) {
		fmt.Fprintf(&b, "%q\n", info.Home)
	}
	for _, in := range m.Installed(t.Name) {
		fmt.Fprintf(&b, "%q %q %q %q %q %q %q %q %q %q\n", in.Fetching, in.Version, in.Vendor, in.Variant, in.Package, in.Arch, in.Health, in.Path, in.Home, in.Origin)
	}
	fmt.Fprintf(&b, "%q\n", m.FetchesNothing(t.Name))
	if len(t.RunsOn) > 0 || m.Stubbed(t) {
		fmt.Fprintf(&b, "%q\n", info.OS)
	}
	o, _ := m.Override(t.Name)
	d, _ := m.Default(t.Name)
	p, _ := m.FirstOnPath(t.Name)
	fmt.Fprintf(&b, "%q %q %q %q %q %q %q %t", o.Variable, o.Raw, d.Raw, d.Source, d.Path, p.Path, p.Version, p.Shim)
	if in := m.Leading(t.Name, p); in != nil {
		fmt.Fprintf(&b, " %q", in.Path)
	}
	if x, ok := m.Proxy(t.Name, p.Path); ok {
		fmt.Fprintf(&b, " %q %q", x.Picks, x.Because)
	}
	for _, w := range m.Inventory.Editors {
		if w.Kind == inventory.WiredName && w.Tool == t.Name {
			fmt.Fprintf(&b, " %q %q %q %q", w.Editor, w.Name, w.Path, w.Version)
		} else if w.Kind == inventory.WiredName {
			fmt.Fprintf(&b, " %q", w.Editor)
		}
	}
	return b.String()
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
