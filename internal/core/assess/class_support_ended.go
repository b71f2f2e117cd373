package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

var supportEnded = Class{
	"end-of-life", 6, Error, "End of life", "End of life", "ended",
	"the pinned line, or the line that would run, is out of support on the day",
	func(k *check) {
		k.support(func(l *catalogue.Line) bool { return l.EndedOn(k.on) })
	},
}

// support reports lines in use for which something holds.
func (k *check) support(holds func(*catalogue.Line) bool) {
	pinned, used := pinnedLine(k.Resolved), k.inUse()
	for _, l := range k.Tool.Lines {
		if l != pinned && !slices.Contains(used, l) || !holds(l) {
			continue
		}
		v := Verdict{Evidence: k.proof(), Cause: l.Line, Line: l, Move: k.recommended()}
		var now []*resolve.Outcome
		for i, of := range used {
			o := &k.Outcomes[i]
			if of != l {
				continue
			}
			if v.Machines = v.Machines.And(o.Machines); o.Runs() {
				now = append(now, o)
			}
		}
		v.Runs = runs(now)
		if k.first() != nil {
			v.Stands, v.Evidence = Ref{Of: AtPin}, []Ref{{Of: AtPin}}
		}
		k.report(v)
	}
}

// inUse are the lines of the outcomes, nil where one is of none: the pin's where the pin
// decides and names one, otherwise that of what would run.
func (k *check) inUse() []*catalogue.Line {
	if k.lines != nil {
		return k.lines
	}
	k.lines = make([]*catalogue.Line, len(k.Outcomes))
	pinned := pinnedLine(k.Resolved)
	for i := range k.Outcomes {
		o := &k.Outcomes[i]
		switch {
		case pinned != nil && (o.DecidedBy != resolve.ByOverride || o.Number.IsZero()):
			k.lines[i] = pinned
		case len(k.Pins) > 0 || k.Case.Used || k.Case.Needed:
			k.lines[i] = k.lineOf(o)
		}
	}
	return k.lines
}
