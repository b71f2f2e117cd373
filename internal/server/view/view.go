// Package view is what the service shows: the newest readings assessed against the
// newest inventories, through a lens of date and machines. A view is computed once for
// each lens and state of the data, and then shared.
package view

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/report"
	"wexo/internal/server/store"
	pass "wexo/internal/survey"
)

// Lens is what a view is seen through. No machines means all.
type Lens struct {
	Day      time.Time
	Machines []string
}

// View is everything assessed through one lens. It is read-only.
type View struct {
	Lens      Lens
	Inputs    assess.Inputs
	Reads     []report.Read
	Readings  []store.Reading   // same order as Reads
	FirstSeen map[string]string // fingerprint to day
}

// Views computes views and keeps some of them.
type Views struct {
	Store     *store.Store
	Catalogue *catalogue.Catalogue
	Policy    assess.Policy

	mu    sync.Mutex
	kept  []*held
	turns chan struct{} // one computation at a time: each holds the whole estate
}

// held is a view, or one that is being computed.
type held struct {
	key        string
	generation int64
	ready      chan struct{} // closed when view and err are there
	view       *View
	err        error
}

// keep is how many views are kept. They are large, and computed again where they are asked
// for again.
const keep = 2

// ErrNoMachine is a lens that names a machine the service does not know.
type ErrNoMachine string

func (e ErrNoMachine) Error() string { return fmt.Sprintf("no machine is called %q", string(e)) }

// At gives the view through a lens. Those who ask for one that is being computed wait for
// it; those who ask for one that is kept do not.
func (v *Views) At(ctx context.Context, lens Lens) (*View, error) {
	lens.Machines = slices.Compact(slices.Sorted(slices.Values(lens.Machines)))
	for {
		h, mine := v.hold(lens)
		if mine {
			v.fill(ctx, h, lens)
		}
		select {
		case <-h.ready:
		case <-ctx.Done():
			return nil, ctx.Err()
		}
		switch {
		case h.err == nil:
			return h.view, nil
		case !mine && errors.Is(h.err, context.Canceled): // who computed it went away
			continue
		}
		return nil, h.err
	}
}

// hold gives what is kept for a lens, or a place for it that the caller has to fill. What
// belongs to earlier data is let go: nobody can ask for it again.
func (v *Views) hold(lens Lens) (h *held, mine bool) {
	v.mu.Lock()
	defer v.mu.Unlock()
	now := v.Store.Generation()
	v.kept = slices.DeleteFunc(v.kept, func(h *held) bool { return h.generation != now })
	key := fmt.Sprint(now, lens.Day.Format(time.DateOnly), strings.Join(lens.Machines, "\x00"))
	for i, k := range v.kept {
		if k.key == key {
			v.kept = append(slices.Delete(v.kept, i, i+1), k)
			return k, false
		}
	}
	h = &held{key: key, generation: now, ready: make(chan struct{})}
	if v.kept = append(v.kept, h); len(v.kept) > keep {
		v.kept = slices.Delete(v.kept, 0, 1)
	}
	return h, true
}

// fill computes a view, and lets its place go where that fails.
func (v *Views) fill(ctx context.Context, h *held, lens Lens) {
	defer close(h.ready)
	v.mu.Lock()
	if v.turns == nil {
		v.turns = make(chan struct{}, 1)
	}
	turns := v.turns
	v.mu.Unlock()
	select {
	case turns <- struct{}{}:
		h.view, h.err = v.compute(ctx, lens)
		<-turns
	case <-ctx.Done():
		h.err = ctx.Err()
	}
	if h.err != nil {
		v.mu.Lock()
		defer v.mu.Unlock()
		v.kept = slices.DeleteFunc(v.kept, func(k *held) bool { return k == h })
	}
}

func (v *Views) compute(ctx context.Context, lens Lens) (*View, error) {
	machines, err := v.machines(ctx, lens.Machines)
	if err != nil {
		return nil, err
	}
	readings, err := v.Store.Readings(ctx)
	if err != nil {
		return nil, err
	}
	seen, err := v.Store.FirstSeen(ctx)
	if err != nil {
		return nil, err
	}
	repositories := make([]pass.ReadRepository, 0, len(readings))
	for _, r := range readings {
		claims, err := r.Claims()
		if err != nil {
			return nil, err
		}
		repositories = append(repositories, pass.ReadRepository{
			Repository: assess.Repository{Name: r.Repository, Path: r.Path, Ref: r.Ref, Commit: r.Commit, Reading: claims}, Notice: r.Notice})
	}
	in := assess.Inputs{Catalogue: v.Catalogue, Machines: machines, Policy: v.Policy, Day: lens.Day}
	reads := pass.Assess(ctx, repositories, in)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	return &View{Lens: lens, Inputs: in, Reads: reads, Readings: readings, FirstSeen: seen}, nil
}

func (v *Views) machines(ctx context.Context, wanted []string) ([]*inventory.Machine, error) {
	all, err := v.Store.Inventories(ctx)
	if err != nil {
		return nil, err
	}
	var out []*inventory.Machine
	for _, inv := range all {
		if len(wanted) == 0 || slices.Contains(wanted, inv.Machine.Name) {
			out = append(out, inventory.NewMachine(inv, v.Catalogue))
		}
	}
	for _, name := range wanted {
		if !slices.ContainsFunc(out, func(m *inventory.Machine) bool { return m.Name() == name }) {
			return nil, ErrNoMachine(name)
		}
	}
	return out, nil
}

// Findings are all findings of the view.
func (v *View) Findings() []assess.Finding {
	var out []assess.Finding
	for _, r := range v.Reads {
		out = append(out, r.Findings...)
	}
	return out
}

// Age is how many days before the view's day a finding was first seen; 0 where it is new.
func (v *View) Age(f assess.Finding) int {
	day, err := time.Parse(time.DateOnly, v.FirstSeen[f.Fingerprint])
	if err != nil {
		return 0
	}
	return max(0, int(v.Lens.Day.Sub(day).Hours()/24))
}

// Repository finds one repository of the view.
func (v *View) Repository(name string) (report.Read, store.Reading, bool) {
	for i, r := range v.Readings {
		if r.Repository == name {
			return v.Reads[i], r, true
		}
	}
	return report.Read{}, store.Reading{}, false
}
