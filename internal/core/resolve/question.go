package resolve

import (
	"slices"
	"strconv"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Question is a tool with the different wants that are in force. Thousands of subjects ask
// few questions; equal ones are one value.
type Question struct {
	Tool   *catalogue.Tool
	Pins   []*Want // the first decides, the others narrow it
	Bounds []*Want
	Own    bool // the pins stand in the folder itself
	// Baselines are what adopted baselines demand: it chooses where nothing is pinned.
	Baselines []*Want
	key       string
}

// Key tells questions apart.
func (q *Question) Key() string { return q.key }

// Questions holds every question once. It may be used from several goroutines.
type Questions struct {
	mu  sync.Mutex
	all map[string]*Question
}

// Of is the question that a subject asks, with the places among the subject's claims of
// its pins and of its bounds. Pins that ask the same are one; so are bounds of one file.
func (q *Questions) Of(s *Subject) (asked *Question, pins, bounds []int) {
	found := &Question{Tool: s.Tool, Own: s.PinFolder == s.Folder, Baselines: s.Baselines}
	for i, a := range s.Claims {
		switch {
		case a.Role == claim.Pin && !slices.Contains(found.Pins, a.Asks):
			found.Pins, pins = append(found.Pins, a.Asks), append(pins, i)
		case a.Role == claim.Bound && !sameBound(s, bounds, a):
			found.Bounds, bounds = append(found.Bounds, a.Asks), append(bounds, i)
		}
	}
	key := append([]byte(s.Tool.Name), strconv.FormatBool(found.Own)...)
	for _, w := range found.Pins {
		key = strconv.AppendUint(append(key, 'p'), uint64(w.id), 36)
	}
	for _, w := range found.Bounds {
		key = strconv.AppendUint(append(key, 'B'), uint64(w.id), 36)
	}
	for _, w := range found.Baselines {
		key = strconv.AppendUint(append(key, 'L'), uint64(w.id), 36)
	}
	found.key = string(key)
	q.mu.Lock()
	defer q.mu.Unlock()
	if known := q.all[found.key]; known != nil {
		return known, pins, bounds
	}
	if q.all == nil {
		q.all = map[string]*Question{}
	}
	q.all[found.key] = found
	return found, pins, bounds
}

func sameBound(s *Subject, bounds []int, a Asked) bool {
	return slices.ContainsFunc(bounds, func(i int) bool { return s.Claims[i].Asks == a.Asks && s.Claims[i].File == a.File })
}

// Len is how many different questions there are.
func (q *Questions) Len() int {
	q.mu.Lock()
	defer q.mu.Unlock()
	return len(q.all)
}

// Said is a want as it stands on a day.
type Said struct {
	*Want
	Set      version.Set // on the day
	Floating bool
}

// Build is what is asked of an installation beside its number.
func (s *Said) Build() inventory.Build {
	return inventory.Build{Vendor: s.Vendor, Variant: s.Variant, Package: s.Package, Arch: s.Arch}
}

// Judges reports whether the set limits what may run.
func (s *Said) Judges() bool { return s.Err == nil && !s.Kept }

// Silent reports whether the text says nothing that could be compared.
func (s *Said) Silent() bool { return s.Err != nil || s.Unknown != "" || s.Kept }

// SaidOn is a want as it stands on a day.
func SaidOn(w *Want, on *day.Day) Said {
	set, floating := w.On(on)
	return Said{w, set, floating}
}

// Answer is a question as it stands on a day, whatever the machine.
type Answer struct {
	*Question
	Pins     []Said
	Bounds   []Said
	Feasible version.Set // what every readable pin and bound allows
	Conflict bool        // no version is allowed by all
}

// On looks a question up on a day.
func (q *Question) On(on *day.Day) *Answer {
	a := &Answer{Question: q, Feasible: version.All(q.Tool.Scheme())}
	for _, w := range q.Pins {
		a.Pins = append(a.Pins, SaidOn(w, on))
	}
	for _, w := range q.Bounds {
		a.Bounds = append(a.Bounds, SaidOn(w, on))
	}
	judging := 0
	for _, list := range [][]Said{a.Pins, a.Bounds} {
		for i := range list {
			if list[i].Judges() {
				a.Feasible = a.Feasible.Intersect(list[i].Set)
				judging++
			}
		}
	}
	a.Conflict = judging > 0 && a.Feasible.IsEmpty()
	return a
}

// Contradiction is a smallest choice of pins and bounds that cannot hold together, as
// places among the pins and behind them the bounds; nil where all can.
func (a *Answer) Contradiction() []int {
	if !a.Conflict {
		return nil
	}
	var sets []version.Set
	var places []int
	for i := range len(a.Pins) + len(a.Bounds) {
		if s := a.At(i); s.Judges() {
			sets, places = append(sets, s.Set), append(places, i)
		}
	}
	var out []int
	for _, i := range version.Contradiction(sets) {
		out = append(out, places[i])
	}
	return out
}

// At is the pin, or behind the pins the bound, at a place.
func (a *Answer) At(i int) *Said {
	if i < len(a.Pins) {
		return &a.Pins[i]
	}
	return &a.Bounds[i-len(a.Pins)]
}
