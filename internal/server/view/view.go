// Package view is what the service shows: the newest readings judged against the newest
// inventories, through a lens of date and machines. What is judged is shared between
// lenses as far as it is the same, and taken over where the data changes.
package view

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/nearest"
	"wexo/internal/core/resolve"
	"wexo/internal/report"
	"wexo/internal/server/store"
	pass "wexo/internal/survey"
)

// Lens is what a view is seen through. No machines means all.
type Lens struct {
	Day      time.Time
	Machines []string
}

// View is everything judged through one lens. It is read-only.
type View struct {
	*pass.Judgement
	report.Wording
	Machines  []*inventory.Machine
	Readings  []store.Reading // same order as Reads
	FirstSeen map[store.FindingKey]string
	once      struct{ matrix, overview, listing, needed, causes sync.Once }
	causes    []*assess.Caused
	listed    []listed
	needed    []listed
	rows      []Row
	summary   Overview
	encoded   Encoded
}

// Views judges what the store holds, and keeps what is asked for again.
type Views struct {
	Store  *store.Store
	Estate *pass.Estate
	Warm   func(*View) // makes what is asked of a view first, before anybody asks; may be nil

	loading sync.Mutex // one at a time
	noted   noted      // of whoever holds loading
	mu      sync.Mutex
	now     *data
	fleets  []*seen // from the one asked for last to the one asked for first
}

// noted is the view whose findings the store has, unless repositories were removed since.
type noted struct {
	view     *View
	removals int64
}

// seen is the estate from some machines.
type seen struct {
	key   string
	fleet *resolve.Fleet
	all   []*inventory.Machine
	views []*View // of the same data, from the one asked for last
	was   *View   // of earlier data, to be taken over from
}

// How much is kept: each view is small beside what they share.
const (
	mostFleets = 4
	mostViews  = 12
)

// ErrNoMachine is a lens that names a machine the service does not know.
type ErrNoMachine struct {
	Name  string
	Known []string
}

func (e ErrNoMachine) Error() string {
	return fmt.Sprintf("no machine is called %q; %s", e.Name, nearest.Hint(e.Name, e.Known))
}

// At gives the view through a lens.
func (v *Views) At(ctx context.Context, lens Lens) (*View, error) {
	lens.Machines = slices.Compact(slices.Sorted(slices.Values(lens.Machines)))
	if found := v.held(lens); found != nil {
		return found, nil
	}
	v.loading.Lock()
	defer v.loading.Unlock()
	if found := v.held(lens); found != nil { // somebody else was faster
		return found, nil
	}
	if err := ctx.Err(); err != nil { // who asked went away while others were served
		return nil, err
	}
	return v.compute(ctx, lens)
}

// held gives the view through a lens where it is there.
func (v *Views) held(lens Lens) *View {
	v.mu.Lock()
	defer v.mu.Unlock()
	if v.now == nil || v.now.generation != v.Store.Generation() {
		return nil
	}
	for _, s := range v.fleets {
		if s.key != strings.Join(lens.Machines, "\x00") {
			continue
		}
		for i, view := range s.views {
			if view.Day.Equal(lens.Day) {
				s.views = append([]*View{view}, slices.Delete(slices.Clone(s.views), i, i+1)...)
				return view
			}
		}
	}
	return nil
}

// compute makes a view. The caller holds loading.
func (v *Views) compute(ctx context.Context, lens Lens) (*View, error) {
	now, err := v.current(ctx)
	if err != nil {
		return nil, err
	}
	at, err := v.from(now, lens.Machines)
	if err != nil {
		return nil, err
	}
	out, err := v.judge(ctx, now, at, lens.Day)
	if err != nil {
		return nil, err
	}
	v.keep(at, out)
	return out, nil
}

// current is what the store holds, which is loaded where it has changed.
func (v *Views) current(ctx context.Context) (*data, error) {
	v.mu.Lock()
	now := v.now
	v.mu.Unlock()
	if now != nil && now.generation == v.Store.Generation() {
		return now, nil
	}
	now, err := v.load(ctx)
	if err == nil {
		v.install(now)
	}
	return now, err
}

// judge makes the view of some data on a day.
func (v *Views) judge(ctx context.Context, now *data, at *seen, day time.Time) (*View, error) {
	var before *pass.Judgement
	v.mu.Lock()
	if was := v.noted.view; was != nil && was.Judgement.Fleet == at.fleet && was.Day.Equal(day) {
		before = was.Judgement
	} else if len(at.views) > 0 {
		before = at.views[0].Judgement
	} else if at.was != nil {
		before = at.was.Judgement
	}
	v.mu.Unlock()
	judged, err := v.Estate.Judge(ctx, now.entries, at.fleet, day, before)
	if err != nil {
		return nil, err
	}
	for _, m := range now.machines {
		judged.Everyone = append(judged.Everyone, m.Name())
	}
	return &View{Judgement: judged, Wording: judged.Wording(), Machines: at.all, Readings: now.readings, FirstSeen: now.firstSeen}, nil
}

// keep holds a view for those who ask for it again.
func (v *Views) keep(at *seen, out *View) {
	v.mu.Lock()
	defer v.mu.Unlock()
	at.was = nil
	at.views = append([]*View{out}, at.views...)
	if len(at.views) > mostViews {
		at.views = at.views[:mostViews]
	}
}

// Renew takes up what a survey stored, has it noted by sight which findings are there, and
// counts them, but for those that count apart. Whoever asks meanwhile is shown what was there before, and does not wait.
func (v *Views) Renew(ctx context.Context, day time.Time, sight func(store.Sightings) error) (findings int, err error) {
	v.loading.Lock()
	defer v.loading.Unlock()
	generation := v.Store.Generation()
	now, err := v.load(ctx)
	if err != nil {
		return 0, err
	}
	at, err := v.from(now, nil)
	if err != nil {
		return 0, err
	}
	out, err := v.judge(ctx, now, at, day)
	if err != nil {
		return 0, err
	}
	if err := v.note(ctx, now, out, sight); err != nil {
		return 0, err
	}
	if v.Warm != nil {
		v.Warm(out)
	}
	if v.Store.Generation() == generation { // nobody else changed anything
		now.generation = v.Store.Changed()
	}
	v.install(now)
	v.keep(at, out)
	for _, n := range out.Overview().Bad {
		findings += n
	}
	return findings, nil
}

// note has the findings of a view noted, as far as they are not those of the last one that
// was. The caller holds loading.
func (v *Views) note(ctx context.Context, now *data, out *View, sight func(store.Sightings) error) error {
	removals := v.Store.Removals()
	if v.noted.removals != removals { // one of them may be there again
		v.noted.view = nil
	}
	was := v.noted.view
	seen, err := out.sightings(was)
	if err != nil {
		return err
	}
	v.noted = noted{} // in doubt all are noted again
	changed := len(seen.Same) < len(out.Reads) || len(seen.Machines) > 0 || len(out.Reads) == 0
	if changed || was == nil || len(was.Machinery()) > 0 { // what is wrong with machines may be over
		if err := sight(seen); err != nil {
			return err
		}
		if now.firstSeen, err = v.Store.FirstSeen(ctx); err != nil {
			return err
		}
	}
	v.noted, out.FirstSeen = noted{out, removals}, now.firstSeen
	return nil
}

// install makes data what is shown.
func (v *Views) install(now *data) {
	v.mu.Lock()
	defer v.mu.Unlock()
	if v.now == now {
		return
	}
	for _, s := range v.fleets {
		if len(s.views) > 0 {
			s.was, s.views = s.views[0], nil
		}
	}
	v.now = now
}

// from is the estate seen from some machines, or all. What is known of tools for which
// nothing has changed on them is taken over.
func (v *Views) from(now *data, names []string) (*seen, error) {
	var machines []*inventory.Machine
	for _, m := range now.machines {
		if len(names) == 0 || slices.Contains(names, m.Name()) {
			machines = append(machines, m)
		}
	}
	for _, name := range names {
		if !slices.ContainsFunc(machines, func(m *inventory.Machine) bool { return m.Name() == name }) {
			known := make([]string, len(now.machines))
			for i, m := range now.machines {
				known[i] = m.Name()
			}
			return nil, ErrNoMachine{name, known}
		}
	}
	key := strings.Join(names, "\x00")
	v.mu.Lock()
	defer v.mu.Unlock()
	at := slices.IndexFunc(v.fleets, func(s *seen) bool { return s.key == key })
	var s *seen
	if at >= 0 {
		s = v.fleets[at]
		v.fleets = slices.Delete(v.fleets, at, at+1)
	} else {
		s = &seen{key: key}
	}
	if v.fleets = append([]*seen{s}, v.fleets...); len(v.fleets) > mostFleets {
		v.fleets = v.fleets[:mostFleets]
	}
	if s.fleet == nil || !slices.Equal(s.all, machines) {
		s.fleet, s.all = v.Estate.Fleet(machines, s.fleet), machines
	}
	return s, nil
}

// FirstSeenOf is the day since when a finding is open; empty where no survey saw it.
func (v *View) FirstSeenOf(f *assess.Finding) string {
	return v.FirstSeen[store.FindingKey{Repository: f.Repository.Name, Fingerprint: f.Fingerprint}]
}

// Age is how many days before the view's day a finding was first seen; 0 where it is new.
func (v *View) Age(f *assess.Finding) int {
	day, err := time.Parse(time.DateOnly, v.FirstSeenOf(f))
	if err != nil {
		return 0
	}
	return max(0, int(v.Day.Sub(day).Hours()/24))
}

// Repository finds one repository of the view.
func (v *View) Repository(name string) (report.Read, store.Reading, bool) {
	at, found := slices.BinarySearchFunc(v.Readings, name, func(r store.Reading, name string) int { return strings.Compare(r.Repository, name) })
	if !found {
		return report.Read{}, store.Reading{}, false
	}
	return v.Reads[at], v.Readings[at], true
}
