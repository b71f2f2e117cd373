package view

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/inventory"
	"wexo/internal/server/store"
	pass "wexo/internal/survey"
)

// data is what the store holds, ready for judging.
type data struct {
	generation int64
	readings   []store.Reading // by name
	entries    []pass.Entry    // same order
	machines   []*inventory.Machine
	firstSeen  map[store.FindingKey]string
}

// load reads what the store holds: what has not changed is taken over from what is shown.
// The caller holds loading.
func (v *Views) load(ctx context.Context) (*data, error) {
	v.mu.Lock()
	was := v.now
	v.mu.Unlock()
	now := &data{generation: v.Store.Generation()}
	if was == nil {
		was = &data{}
		var err error
		if now.firstSeen, err = v.Store.FirstSeen(ctx); err != nil {
			return nil, err
		}
	} else {
		now.firstSeen = was.firstSeen
	}
	if err := v.loadReadings(ctx, now, was); err != nil {
		return nil, err
	}
	return now, v.loadMachines(ctx, now, was)
}

func (v *Views) loadReadings(ctx context.Context, now, was *data) error {
	readings, err := v.Store.Readings(ctx)
	if err != nil {
		return err
	}
	before := make(map[string]int, len(was.readings))
	for i, r := range was.readings {
		before[r.Repository] = i
	}
	now.readings, now.entries = readings, make([]pass.Entry, len(readings))
	wanted := map[string][]int{}
	var digests []string
	for i, r := range readings {
		if n, known := before[r.Repository]; known && was.readings[n].Says(r) {
			now.entries[i] = was.entries[n]
			continue
		}
		if r.Digest == "" {
			now.entries[i] = v.entry(r, fact.Reading{})
			continue
		}
		if wanted[r.Digest] == nil {
			digests = append(digests, r.Digest)
		}
		wanted[r.Digest] = append(wanted[r.Digest], i)
	}
	return v.Store.Contents(ctx, digests, func(digest string, said fact.Reading) error {
		for _, i := range wanted[digest] {
			now.entries[i] = v.entry(readings[i], said)
		}
		return nil
	})
}

// entry makes a repository ready for judging. Where its latest reading failed, the last
// that succeeded counts, and a finding says so.
func (v *Views) entry(r store.Reading, said fact.Reading) pass.Entry {
	read := pass.ReadRepository{Notice: r.Notice}
	read.Repository = assess.Repository{Name: r.Repository, Identity: r.Identity, Path: r.Path, Ref: r.Ref, Commit: r.Commit, Reading: said}
	if r.Failure != "" {
		kind := claim.Stale
		if r.ReadAt == "" {
			kind = claim.Unreadable
		}
		read.Problems = append(slices.Clone(read.Problems), claim.Problem{Kind: kind, Reason: r.Failure, Lost: true})
		read.Notice = fmt.Sprintf("It could not be read on %s (%s)", dayOf(r.FailedAt), r.Failure)
		if r.ReadAt == "" {
			read.Unread = r.Failure
			read.Notice += "."
		} else {
			read.Notice += fmt.Sprintf("; what it said on %s is shown.", dayOf(r.ReadAt))
		}
	}
	return v.Estate.Prepare(read)
}

func dayOf(stamp string) string {
	t, err := time.Parse(time.RFC3339, stamp)
	if err != nil {
		return stamp
	}
	return t.Format("2 Jan 2006")
}

func (v *Views) loadMachines(ctx context.Context, now, was *data) error {
	all, err := v.Store.Inventories(ctx)
	if err != nil {
		return err
	}
	now.machines = nil
	for _, inv := range all {
		same := slices.IndexFunc(was.machines, func(m *inventory.Machine) bool {
			return m.Name() == inv.Machine.Name && m.Is(inv)
		})
		if same >= 0 {
			now.machines = append(now.machines, was.machines[same])
			continue
		}
		now.machines = append(now.machines, v.Estate.Machine(inv))
	}
	return nil
}

// sightings are the findings of the view as they are to be kept, but for those of
// repositories that are as they were in an earlier view of the day, or nil. Former is
// filled in so that what was noted before repositories had identities is not lost.
func (v *View) sightings(earlier *View) (store.Sightings, error) {
	out := store.Sightings{Same: map[string]bool{}}
	for _, read := range v.Reads {
		if earlier != nil && earlier.Day.Equal(v.Day) {
			if was, known := earlier.Of(read.Name); known && was.Result == read.Result {
				out.Same[read.Name] = true
				continue
			}
		}
		for _, f := range read.Findings {
			said := v.Finding(f)
			payload, err := json.Marshal(said)
			if err != nil {
				return out, err
			}
			out.Findings = append(out.Findings, store.Sighting{Repository: read.Name, Fingerprint: f.Fingerprint, Former: f.Former(), Class: f.Class.Name, Payload: string(payload), Apart: f.Standing() == assess.Apart})
		}
	}
	for _, f := range v.Machinery() {
		payload, err := json.Marshal(v.Finding(f))
		if err != nil {
			return out, err
		}
		out.Machines = append(out.Machines, store.Sighting{Fingerprint: f.Fingerprint, Class: f.Class.Name, Payload: string(payload)})
	}
	return out, nil
}
