package assess

import "wexo/internal/core/resolve"

var claimsDisagree = Class{
	"claims-disagree", 2, Error, "Claims disagree", "Disagree", "conflict",
	"two pins of one folder admit no common version, or lead to different installations; or a pipeline or container sets up no version that the pin asks for",
	(*check).disagree,
}

// The ways in which claims disagree.
const (
	DisagreeApart Kind = "apart" // no version is both
	DisagreePicks Kind = "picks" // they lead to different installations
	DisagreeSetup Kind = "setup" // a pipeline sets up another version
)

// disagree reports each pin beside the first that it disagrees with, and setups of which
// none is what the pin asks for.
func (k *check) disagree() {
	for n := range k.Pins {
		for i := range n {
			if !unreadable(&k.Pins[i]) && !unreadable(&k.Pins[n]) && k.disagreeing(i, n) {
				break
			}
		}
	}
	k.setups()
}

func (k *check) disagreeing(first, second int) bool {
	a, b := &k.Pins[first], &k.Pins[second]
	v := Verdict{Stands: Ref{Of: AtPin}, Evidence: []Ref{{Of: AtPin, N: first}, {Of: AtPin, N: second}}}
	if !a.Set.Overlaps(b.Set) || a.Vendor != b.Vendor && a.Vendor != "" && b.Vendor != "" {
		v.Kind, v.Machines, v.Runs = DisagreeApart, k.everyone(), runs(k.those(running))
		k.report(v)
		return true
	}
	return k.picksDiffer(v, a, b)
}

// picksDiffer reports two pins that share versions, where the newest installed one of each
// is not the same.
func (k *check) picksDiffer(v Verdict, a, b *resolve.Said) bool {
	first, second := k.Tooling.Among(a.Set), k.Tooling.Among(b.Set)
	for _, c := range k.Tooling.Classes {
		x, y := c.NewestAmong(first, a.Build()), c.NewestAmong(second, b.Build())
		if x != nil && y != nil && x != y {
			v.Runs = addRun(v.Runs, Run{Release: Release{x.Version, x.Vendor}, Other: Release{y.Version, y.Vendor}}, c.Machines)
			v.Machines = v.Machines.And(c.Machines)
		}
	}
	if len(v.Runs) == 0 {
		return false
	}
	v.Kind = DisagreePicks
	k.report(v)
	return true
}

// mostValues is how many values of a matrix a finding shows.
const mostValues = 8

// setups reports pipelines and containers that set up nothing the pin asks for. Of all that one
// file sets up it is enough that one fits: the others stand beside it on purpose.
func (k *check) setups() {
	pin := k.first()
	if pin == nil || unreadable(pin) {
		return
	}
	fits := func(s *resolve.Said) bool {
		return s.Set.Overlaps(pin.Set) && (s.Vendor == "" || pin.Vendor == "" || s.Vendor == pin.Vendor)
	}
	for _, refs := range k.misfits(fits) {
		shown := refs[:min(len(refs), mostValues)]
		k.report(Verdict{Kind: DisagreeSetup, Evidence: append([]Ref{{Of: AtPin}}, shown...), Cause: "setup", Near: k.setUp(refs)})
	}
}

// misfits are of each file that sets the tool up, and of which nothing fits, the values that it
// does not set up on purpose beside the project's own.
func (k *check) misfits(fits func(*resolve.Said) bool) [][]Ref {
	said := make([][]Ref, len(k.Case.Setups))
	fit := make([]bool, len(k.Case.Setups))
	for n, m := range k.Case.Setups {
		for i, w := range m.Wants {
			s := resolve.SaidOn(w, k.on)
			switch {
			case unreadable(&s):
			case fits(&s):
				fit[m.File] = true
			case !m.Old && !m.Vague:
				said[m.File] = append(said[m.File], Ref{Of: AtSetup, N: n, Value: i})
			}
		}
	}
	var out [][]Ref
	for file, refs := range said {
		if len(refs) > 0 && !fit[file] {
			out = append(out, refs)
		}
	}
	return out
}

// setUp are the texts of values that are set up.
func (k *check) setUp(refs []Ref) []Run {
	var out []Run
	for _, r := range refs {
		out = append(out, Run{Release: Release{Version: k.Case.Setups[r.N].Texts[r.Value]}})
	}
	return out
}
