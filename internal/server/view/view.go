// Package view is what the service shows: the newest readings assessed against the
// newest inventories, through a lens of date and machines. A view is computed once for
// each lens and state of the data, and then shared.
package view

import (
	"context"
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

// Views computes and keeps views.
type Views struct {
	Store     *store.Store
	Catalogue *catalogue.Catalogue
	Policy    assess.Policy

	mu   sync.Mutex
	kept []kept
}

type kept struct {
	key  string
	view *View
}

// keep is how many views are kept.
const keep = 8

// ErrNoMachine is a lens that names a machine the service does not know.
type ErrNoMachine string

func (e ErrNoMachine) Error() string { return fmt.Sprintf("no machine is called %q", string(e)) }

// At gives the view through a lens.
func (v *Views) At(ctx context.Context, lens Lens) (*View, error) {
	lens.Machines = slices.Sorted(slices.Values(lens.Machines))
	key := fmt.Sprint(v.Store.Generation(), lens.Day.Format(time.DateOnly), strings.Join(lens.Machines, "\x00"))
	v.mu.Lock()
	defer v.mu.Unlock()
	for i, k := range v.kept {
		if k.key == key {
			v.kept = append(append(slices.Clone(v.kept[:i]), v.kept[i+1:]...), k)
			return k.view, nil
		}
	}
	view, err := v.compute(ctx, lens)
	if err != nil {
		return nil, err
	}
	v.kept = append(v.kept, kept{key, view})
	if len(v.kept) > keep {
		v.kept = v.kept[1:]
	}
	return view, nil
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
