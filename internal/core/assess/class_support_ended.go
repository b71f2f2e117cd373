package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

var supportEnded = Class{
	"end-of-life", 9, Error, "End of life", "End of life", "ended",
	"the pinned line, or what a pipeline or container sets up, is out of support on the day; or nothing has to be pinned, and what would run is",
	func(k *check) {
		k.support(func(l *catalogue.Line) bool { return l.EndedOn(k.on) })
	},
}

// The ways in which what is out of support is come by.
const (
	SupportPinned  Kind = ""        // by a pin
	SupportDefault Kind = "default" // nothing pins it and nothing has to: by what the machine has
	SupportSetup   Kind = "setup"   // a pipeline or container sets it up
)

// support reports lines in use for which something holds: that a pin leads to, and that are
// set up. What runs for want of a pin is said where the pin is missed.
func (k *check) support(holds func(*catalogue.Line) bool) {
	setUp := k.setUpLines()
	for _, l := range k.Tool.Lines {
		if !holds(l) {
			continue
		}
		var at []Ref
		for n, of := range setUp {
			if of == l {
				at = append(at, Ref{Of: AtSetup, N: n})
			}
		}
		if !k.supportOfChoice(l, at) && len(at) > 0 {
			k.report(Verdict{Kind: SupportSetup, Stands: at[0], Evidence: at[:1], Also: at[1:], Cause: l.Line, Line: l, Advice: k.advice()})
		}
	}
}

// supportOfChoice reports a line that the choice leads to; also are places that set up the
// same line.
func (k *check) supportOfChoice(l *catalogue.Line, also []Ref) bool {
	pinned, used := k.pinnedLine(), k.inUse()
	if l != pinned && !slices.Contains(used, l) {
		return false
	}
	v := Verdict{Stands: Ref{Of: AtPin}, Evidence: []Ref{{Of: AtPin}}, Cause: l.Line, Line: l}
	switch {
	case k.first() != nil:
		v.Also = also
	case k.Case.Free && k.Case.Needed:
		v.Kind, v.Wide, v.Stands, v.Evidence = SupportDefault, true, Ref{}, k.proof()
	default:
		return false
	}
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
	v.Runs, v.Advice = runs(now), k.advice()
	k.report(v)
	return true
}

// setUpLines are of each matrix the newest line that it sets up, a supported one before others;
// nil where one of its values is of none, or stands for another from day to day.
func (k *check) setUpLines() []*catalogue.Line {
	out := make([]*catalogue.Line, len(k.Case.Setups))
	for n, m := range k.Case.Setups {
		var best *catalogue.Line
		known := true
		for _, w := range m.Wants {
			s := resolve.SaidOn(w, k.on)
			l := (*catalogue.Line)(nil)
			if !unreadable(&s) && !s.Floating {
				l = k.Tool.LineFor(s.Set)
			}
			if known = l != nil; !known {
				break
			}
			best = k.better(best, l)
		}
		if known {
			out[n] = best
		}
	}
	return k.newestOf(out)
}

// better is of two lines that are set up together the one that is still supported, of both the newer
// one; nil is no line.
func (k *check) better(a, b *catalogue.Line) *catalogue.Line {
	switch {
	case a == nil:
		return b
	case a.EndedOn(k.on) != b.EndedOn(k.on):
		if a.EndedOn(k.on) {
			return b
		}
		return a
	case b.Place() > a.Place():
		return b
	}
	return a
}

// newestOf leaves of each pipeline the newest supported line, or the newest, once: what is older
// there is set up beside it on purpose. Where one of its lines is not known none is left.
func (k *check) newestOf(each []*catalogue.Line) []*catalogue.Line {
	out := make([]*catalogue.Line, len(each))
	unknown := make([]bool, len(each))
	for n, m := range k.Case.Setups {
		switch {
		case m.Old:
		case each[n] == nil:
			unknown[m.With] = true
		default:
			out[m.With] = k.better(out[m.With], each[n])
		}
	}
	for n := range out {
		if unknown[n] {
			out[n] = nil
		}
	}
	return out
}

// inUse are the lines of the outcomes, nil where one is of none: the pin's where the pin
// decides and names one, otherwise that of what would run.
func (k *check) inUse() []*catalogue.Line {
	if k.lines != nil {
		return k.lines
	}
	k.lines = make([]*catalogue.Line, len(k.Outcomes))
	pinned := k.pinnedLine()
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
