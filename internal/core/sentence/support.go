package sentence

import (
	"fmt"

	"wexo/internal/core/assess"
	"wexo/internal/core/resolve"
)

func (w *words) supportEnded() (message, remedy string) {
	l := w.v.Line
	return fmt.Sprintf("%s. Support for %s %s ended on %s: security faults found since then are not mended.", w.using(), w.title(), l.Line, date(l.End.Time)), w.move()
}

func (w *words) supportEnding() (message, remedy string) {
	l := w.v.Line
	days := int(l.End.Sub(w.Day).Hours() / 24)
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
	if w.overridden() {
		r := w.v.Runs[0]
		return fmt.Sprintf("Unset %s on %s, or point it at a supported version.", r.Where, w.some(w.v.Machines))
	}
	l := w.v.Move
	if l == nil {
		if len(w.s.Bounds) > 0 {
			return fmt.Sprintf("No supported line fits %s; widen it and move to a supported line.", at(w.s.Claim(assess.Ref{Of: assess.AtBound})))
		}
		return "Move to a supported line."
	}
	if w.pinned() {
		return fmt.Sprintf("Move to %s %s%s: change %s.", w.title(), l.Line, until(l, ", supported until %s"), w.at(0))
	}
	return fmt.Sprintf("Pin %s %s%s.", w.title(), l.Line, until(l, ", supported until %s"))
}
