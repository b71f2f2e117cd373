package assess

import "wexo/internal/core/resolve"

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
	}
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
