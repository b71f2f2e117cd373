package sentence

import (
	"fmt"

	"wexo/internal/core/assess"
	"wexo/internal/core/resolve"
)

func (w *words) supportEnded() (message, remedy string) {
	l := w.v.Line
	if w.v.Kind == assess.SupportSetup {
		return fmt.Sprintf("%s %s %s, whose support ended on %s: security faults found since then are not mended in what is built there.", w.settingUp(), w.sets(), w.setUpLine(), date(l.End.Time)), w.toSetUp()
	}
	return fmt.Sprintf("%s. Support for %s %s ended on %s: security faults found since then are not mended.", w.using(), w.title(), l.Line, date(l.End.Time)), w.move()
}

// settingUp are the places that set up a line.
func (w *words) settingUp() string {
	var out []string
	for _, r := range append(w.v.Evidence, w.v.Also...) {
		out = append(out, at(w.s.Claim(r)))
	}
	return list(short(unique(out)))
}

// setUpLine is what is set up, or the newest of several.
func (w *words) setUpLine() string {
	for _, r := range append(w.v.Evidence, w.v.Also...) {
		several := len(w.s.Case.Setups[r.N].Wants) > 1
		for n, other := range w.s.Case.Setups {
			several = several || n != r.N && other.With == r.N
		}
		if several {
			if w.f.Class.Name == "support-ending" {
				return fmt.Sprintf("nothing that is supported longer than %s %s", w.title(), w.v.Line.Line)
			}
			return fmt.Sprintf("nothing newer than %s %s", w.title(), w.v.Line.Line)
		}
	}
	if len(w.v.Also) > 0 {
		return w.title() + " " + w.v.Line.Line
	}
	return w.asks(0)
}

func (w *words) sets() string { return verb(len(w.v.Also) == 0, "sets up", "set up") }

// toSetUp says what to set up instead.
func (w *words) toSetUp() string {
	a := w.v.Advice
	switch {
	case a.Line != nil && a.Line != w.v.Line:
		return fmt.Sprintf("Set up %s%s: change %s.", w.advised(), w.because(), w.settingUp())
	case a.Try != nil:
		return fmt.Sprintf("Try it with %s, and set that up in %s.", w.named(a.Try), w.settingUp())
	}
	return fmt.Sprintf("Set up a supported line in %s.", w.settingUp())
}

func (w *words) supportEnding() (message, remedy string) {
	l := w.v.Line
	days := int(l.End.Sub(w.Day).Hours() / 24)
	if w.v.Kind == assess.SupportSetup {
		return fmt.Sprintf("%s %s %s, whose support ends on %s, in %s.", w.settingUp(), w.sets(), w.setUpLine(), date(l.End.Time), Count(days, "day", "days")), w.toSetUp()
	}
	message = fmt.Sprintf("%s; support for %s %s ends on %s, in %s. After that, security faults are not mended.", w.using(), w.title(), l.Line, date(l.End.Time), Count(days, "day", "days"))
	if end := w.f.Repository.Settings.Ends(); end.After(l.End.Time) {
		message += fmt.Sprintf(" The repository is planned to live until %s.", date(end))
	}
	return message, w.move()
}

// pinned reports whether the verdict stands on a pin.
func (w *words) pinned() bool { return w.v.Stands.Of == assess.AtPin }

// overridden reports whether it is a variable that leads to the line, and not the pin.
func (w *words) overridden() bool {
	for _, r := range w.v.Runs {
		if r.By != resolve.ByOverride {
			return false
		}
	}
	return len(w.v.Runs) > 0
}

// using says what leads to the line.
func (w *words) using() string {
	asked := fmt.Sprintf("Nothing pins %s", w.title())
	if w.pinned() {
		asked = fmt.Sprintf("%s asks for %s", w.at(0), w.asks(0))
	}
	if len(w.v.Runs) == 0 {
		return asked
	}
	joint := ", and"
	if w.pinned() && w.overridden() {
		joint = ", but"
	}
	return fmt.Sprintf("%s%s %s would run", asked, joint, w.runs(w.v.Runs))
}

// move says where to go from a line that ends.
func (w *words) move() string {
	switch {
	case w.overridden():
		r := w.v.Runs[0]
		return fmt.Sprintf("Unset %s on %s, or point it at a supported version.", r.Where, w.some(w.v.Machines))
	case w.pinned():
		return w.toMove(w.v.Stands)
	case w.v.Advice.Line != nil:
		return fmt.Sprintf("Let %s run on %s%s.", w.advised(), w.some(w.v.Machines), w.asElsewhere())
	case w.v.Advice.Try != nil:
		return fmt.Sprintf("Let a supported line run on %s, %s for one.", w.some(w.v.Machines), w.named(w.v.Advice.Try))
	}
	return w.toMove()
}
