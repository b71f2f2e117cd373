package sentence

import (
	"fmt"
	"strings"

	"wexo/internal/core/assess"
)

func (w *words) interpreterMismatch() (message, remedy string) {
	if w.v.Kind == assess.MismatchNamed {
		return fmt.Sprintf("%s sets the editor to %q, but %s asks for %s, so what the editor checks and runs is not what the terminal does.", w.at(0), w.claim(0).Raw, w.at(1), w.asks(1)),
			fmt.Sprintf("Set it to an installation that %s asks for.", w.at(1))
	}
	if w.v.Kind == assess.MismatchTable {
		r := w.v.Near[0]
		return fmt.Sprintf("%s sets the editor to %q, which is %s %s at %s in the table of %s on %s (%s), but %s asks for %s, so what the editor checks and runs is not what the terminal does.",
				w.at(0), w.claim(0).Raw, w.title(), r.Version, r.Path, w.v.Reason, w.some(w.v.Machines), r.Where, w.at(1), w.asks(1)),
			fmt.Sprintf("Let %q lead to what %s asks for in the table of %s, or set another name in %s.", w.claim(0).Raw, w.at(1), w.v.Reason, w.at(0))
	}
	where := ""
	if w.v.Machines.Len() > 0 {
		where = " on " + w.some(w.v.Machines)
	}
	if l := w.v.Line; l != nil {
		where += fmt.Sprintf(" (support for %s ended on %s)", l.Line, date(l.End.Time))
	}
	var paths []string
	for _, r := range w.v.Near[:min(len(w.v.Near), mostRuns)] {
		path := r.Path
		if len(w.v.Near) > 1 {
			path += " on " + w.some(r.Machines)
		}
		paths = append(paths, path)
	}
	return fmt.Sprintf("The editor runs %s %s%s, but %s asks for %s. %s points it at %s, so what the editor checks and runs is not what the terminal does.",
		w.title(), w.v.Near[0].Version, where, w.at(1), w.asks(1), w.at(0), list(paths)), w.rewire()
}

func (w *words) interpreterDangling() (message, remedy string) {
	raw := w.claim(0).Raw
	switch w.v.Kind {
	case assess.DanglingName:
		return fmt.Sprintf("%s sets the editor to %q, and %s on %s knows no %s of that name: the editor there falls back to another one or refuses to start.",
				w.at(0), raw, w.v.Reason, w.some(w.v.Machines), w.title()),
			fmt.Sprintf("Add an installation of that name to the table of %s there, or set a name in %s that everybody has.", w.v.Reason, w.at(0))
	case assess.DanglingEntry:
		r := w.v.Near[0]
		return fmt.Sprintf("%s sets the editor to %q, which leads to %s in the table of %s on %s (%s), and no %s is there: the editor falls back to another one or refuses to start.",
				w.at(0), raw, r.Path, w.v.Reason, w.some(w.v.Machines), r.Where, w.title()),
			fmt.Sprintf("Let %q lead to an installation in the table of %s there.", raw, w.v.Reason)
	}
	if w.v.Kind == assess.DanglingInside {
		return fmt.Sprintf("%s points the editor at %s, and nothing is there: the editor falls back to another %s or refuses to start.", w.at(0), raw, w.title()),
			fmt.Sprintf("Create it, or point %s at an installation.", w.at(0))
	}
	return fmt.Sprintf("%s points the editor at %s, which leads to no %s on %s: the editor there falls back to another one or refuses to start.",
		w.at(0), raw, w.title(), w.some(w.v.Machines)), w.rewire()
}

// rewire proposes the installation that the choice leads to, where all machines that are
// meant have it at one place that is nobody's own.
func (w *words) rewire() string {
	if len(w.v.Runs) == 1 && !w.v.Home {
		if r := w.v.Runs[0]; w.v.Machines.Len() == r.Machines.Len() {
			return fmt.Sprintf("Point %s at %s (%s), or at a path inside the repository that every machine can make.", w.at(0), r.Path, r.Version)
		}
	}
	return fmt.Sprintf("Point %s at a path inside the repository that every machine can make, or take the setting out of the shared file.", w.at(0))
}

func (w *words) overrideLingering() (message, remedy string) {
	variable, where := w.v.Cause, w.some(w.v.Machines)
	if w.v.Kind == assess.OverrideFolder {
		return w.overrideFolder(where)
	}
	var parts []string
	for _, r := range w.v.Runs[:min(len(w.v.Runs), mostRuns)] {
		there := "there"
		if len(w.v.Runs) > 1 {
			there = "on " + w.some(r.Machines)
		}
		if r.Version == "" {
			parts = append(parts, fmt.Sprintf("it says %s, which leads to no %s %s", r.Raw, w.title(), there))
		} else {
			parts = append(parts, fmt.Sprintf("%s %s runs %s", w.title(), r.Version, there))
		}
	}
	return fmt.Sprintf("%s asks for %s, but %s is set on %s and beats it: %s, and nobody who reads the repository can see why.",
			w.at(0), w.asks(0), variable, where, strings.Join(parts, "; ")),
		w.unset(variable, where)
}

// overrideFolder is of a proxy's setting for a folder.
func (w *words) overrideFolder(where string) (message, remedy string) {
	set, name := w.v.Near[0], w.v.Pinned[0].Name
	file, raw, _ := strings.Cut(w.v.Reason, "\x00")
	runs := w.title() + " " + set.Version + " runs there"
	if set.Version == "" {
		runs = "nothing of that name is installed"
	}
	return fmt.Sprintf("%s asks for %s %s in %s, but on %s %s sets %s for %s, which beats it: %s.", name, w.title(), raw, file, where, w.v.Cause, set.Raw, set.Path, runs),
		fmt.Sprintf("Take the setting for %s out of %s on %s, so that the version file decides.", set.Path, w.v.Cause, where)
}

// unset mends a variable that beats the pin; nobody is sent to a version that has ended.
func (w *words) unset(variable, where string) string {
	if w.v.Line != nil {
		return fmt.Sprintf("Unset %s on %s.", variable, where)
	}
	return fmt.Sprintf("Unset %s on %s, or point it at %s.", variable, where, w.asks(0))
}
