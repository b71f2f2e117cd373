package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

var boundViolated = Class{
	"bound-violated", 3, Error, "Bound violated", "Out of bounds", "outside",
	"what would run is outside a manifest's bound, or the pin can never meet it",
	(*check).bounds,
}

// The ways in which a bound is violated.
const (
	BoundNever    Kind = "never"    // the pin can never meet it
	BoundPinned   Kind = "pinned"   // what runs by the pin does not
	BoundUnpinned Kind = "unpinned" // nothing is pinned
	BoundText     Kind = "text"     // it cannot be read
	BoundSetup    Kind = "set-up"   // what a pipeline or container sets up does not, and nothing is pinned
)

// bounds reports chosen versions outside a bound, bounds that the pin cannot meet, and
// bounds that cannot be read.
func (k *check) bounds() {
	for i := range k.Bounds {
		at := Ref{Of: AtBound, N: i}
		if err := k.Bounds[i].Err; err != nil {
			k.report(Verdict{Class: &fileUnreadable, Kind: BoundText, Stands: at, Evidence: []Ref{at}, Cause: "range", Reason: err.Error()})
			continue
		}
		k.bound(at, &k.Bounds[i])
		k.setUpAgainst(at, &k.Bounds[i])
	}
}

// setUpAgainst reports pipelines and containers that set up nothing a bound admits, where no pin
// says what is meant. What sets up an older version that fetches the one asked for is a warning:
// whether it does there is not known.
func (k *check) setUpAgainst(at Ref, b *resolve.Said) {
	if k.first() != nil || unreadable(b) {
		return
	}
	for _, refs := range k.misfits(func(s *resolve.Said) bool { return s.Set.Overlaps(b.Set) }) {
		if k.toldOf(refs[0]) { // one change mends both
			continue
		}
		v := Verdict{Kind: BoundSetup, Evidence: append([]Ref{at}, refs[:min(len(refs), mostValues)]...), Cause: "setup", Near: k.setUp(refs), Allowed: k.bounded(), Advice: k.advice()}
		if b.Fetched && k.fetchesThere(refs) {
			v.Severity = Warning
		}
		if ended := k.endedThere(refs); ended != nil { // one change mends both
			v.Follows, v.Line = &supportEnded, ended
		}
		k.report(v)
	}
}

// toldOf reports whether it was said of something that is set up that another bound does not admit it.
func (k *check) toldOf(setup Ref) bool {
	return slices.ContainsFunc(k.verdicts, func(v Verdict) bool {
		return v.Class == k.class && v.Kind == BoundSetup && slices.Contains(v.Evidence, setup)
	})
}

// fetchesThere reports whether all that is set up is new enough to fetch what is asked for.
func (k *check) fetchesThere(refs []Ref) bool {
	return k.Tool.Fetches != nil && !slices.ContainsFunc(refs, func(r Ref) bool {
		s := resolve.SaidOn(k.Case.Setups[r.N].Wants[r.Value], k.on)
		return !k.Tool.Fetches.All(s.Set)
	})
}

// endedThere is the line out of support that is reported of the place where something is set up;
// nil where none is.
func (k *check) endedThere(refs []Ref) *catalogue.Line {
	for n, l := range k.setUpLines() {
		if l != nil && l.EndedOn(k.on) && slices.ContainsFunc(refs, func(r Ref) bool { return k.Case.Setups[r.N].With == k.Case.Setups[n].With }) {
			return l
		}
	}
	return nil
}

// keptFrom is what keeps tools on machines from fetching what a bound asks for; empty where nothing
// is known to.
func (k *check) keptFrom(where resolve.Machines, b *resolve.Said) string {
	if !b.Fetched {
		return ""
	}
	for _, c := range k.Tooling.Classes {
		if why := c.FetchesNothing(k.Tool.Name); why != "" && where.Has(c.Machines.First()) {
			return why
		}
	}
	return ""
}

func (k *check) bound(at Ref, b *resolve.Said) {
	outside := k.those(func(o *resolve.Outcome) bool { return !o.Number.IsZero() && !b.Set.Contains(o.Number) })
	pin := k.first()
	never := pin != nil && !unreadable(pin) && !pin.Set.Overlaps(b.Set)
	if k.Case.Brought { // what runs by itself is not what the folder runs
		outside = nil
	}
	if len(outside) == 0 && !never {
		return
	}
	v := Verdict{Kind: BoundUnpinned, Evidence: []Ref{at}, Machines: machinesOf(outside), Runs: runs(outside), Allowed: k.bounded()}
	if pin != nil {
		v.Kind, v.Evidence, v.Allowed = BoundPinned, append(v.Evidence, Ref{Of: AtPin}), k.Feasible
	}
	v.Reason = k.keptFrom(v.Machines, b)
	if never {
		v.Kind, v.Machines = BoundNever, k.everyone()
	}
	v.Advice = k.advice()
	k.report(v)
}
