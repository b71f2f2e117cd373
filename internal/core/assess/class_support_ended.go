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

// support reports lines in use for which something holds. The line is the pin's where the
// pin decides and names one, otherwise that of what would run.
func (k *check) support(holds func(*catalogue.Line) bool) {
	pinned := pinnedLine(k.Resolved)
	using := map[*catalogue.Line][]resolve.Outcome{}
	for _, o := range k.Outcomes {
		l := pinned
		if pinned == nil || o.DecidedBy == resolve.ByOverride && !o.Number.IsZero() {
			if len(k.Pins) == 0 && !k.Case.Used {
				continue
			}
			l = lineOf(k.Tool, &o, k.on)
		}
		if l != nil {
			using[l] = append(using[l], o)
		}
	}
	for _, l := range k.Tool.Lines {
		list, used := using[l]
		if (!used && l != pinned) || !holds(l) {
			continue
		}
		now := slices.DeleteFunc(slices.Clone(list), func(o resolve.Outcome) bool { return !o.Runs() })
		v := Verdict{Evidence: k.proof(), Cause: l.Line, Machines: machinesOf(list), Runs: runs(now), Line: l, Move: k.recommended()}
		if k.first() != nil {
			v.Stands, v.Evidence = Ref{Of: AtPin}, []Ref{{Of: AtPin}}
		}
		k.report(v)
	}
}
