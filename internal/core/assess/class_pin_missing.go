package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
)

var pinMissing = Class{
	"pin-missing", 2, Warning, "Pin missing", "No pin", "unpinned",
	"the repository uses the tool, and nothing pins it; told once for all its folders, with what comes of it",
	(*check).unpinned,
}

// The ways in which a pin is missing.
const (
	UnpinnedUse   Kind = ""      // a file shows that the tool is used
	UnpinnedBound Kind = "bound" // a manifest bounds it, and what runs is out of support or soon will be
)

// unpinned reports a tool that is used and pinned nowhere, once for all folders where that
// is so, with all that comes of it: what runs may be out of support.
func (k *check) unpinned() {
	v := Verdict{Wide: true}
	switch {
	case k.Case.Unpinned:
		v.Evidence, v.Ended = []Ref{{Of: AtUse}}, k.leaving()
	case k.Case.Needed && !k.Case.Used && !k.Case.Free:
		if v.Ended = k.leaving(); len(v.Ended) == 0 {
			return
		}
		v.Kind, v.Evidence = UnpinnedBound, k.proof()
	default:
		return
	}
	now := k.those(running)
	v.Machines, v.Runs, v.Advice = machinesOf(now), runs(now), k.advice()
	k.report(v)
}

// leaving are the lines of what would run that are out of support or soon will be.
func (k *check) leaving() []*catalogue.Line {
	var out []*catalogue.Line
	for i := range k.Outcomes {
		if l := k.lineOf(&k.Outcomes[i]); l != nil && (l.EndedOn(k.on) || k.ending(l)) && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}
