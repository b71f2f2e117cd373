package assess

import (
	"fmt"

	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// wirings follows what editors are pointed at and compares it with the choice.
func (j *judge) wirings(s Subject) {
	for _, w := range s.Wirings() {
		switch {
		case w.Beaten != "" || w.Kept: // a nearer setting counts, or the name says nothing
		case w.Reading == "name":
			j.namedWiring(s, w)
		case w.Inside != nil:
			j.insideWiring(s, w)
		case isPath(w.Raw):
			j.outsideWiring(s, w)
		}
	}
}

// namedWiring judges the name that an editor gives to an installation: only where no
// version with that name could be what is asked for.
func (j *judge) namedWiring(s Subject, w resolve.Asked) {
	if w.Err != nil || w.Set.IsEmpty() {
		return
	}
	for _, a := range j.judged(s) {
		if a.Err == nil && a.Unknown == "" && !a.Kept && !a.Set.IsEmpty() && !a.Set.Overlaps(w.Set) {
			j.report(Finding{Class: InterpreterMismatch, Folder: s.Folder, Tool: s.Tool.Name, Machines: j.editing(),
				Message: fmt.Sprintf("%s sets the editor to %q, but %s asks for %s, so what the editor checks and runs is not what the terminal does.",
					at(w), w.Raw, at(a), asks(s, a)),
				Evidence: evidence(w, a), Remedy: fmt.Sprintf("Set it to an installation that %s asks for.", at(a))}, w.Raw)
			return
		}
	}
}

// judged are the claims that a wired version is compared with: the first pin, or the
// bounds where nothing is pinned.
func (j *judge) judged(s Subject) []resolve.Asked {
	if pins := s.Pins(); len(pins) > 0 {
		return pins[:1]
	}
	return s.Bounds()
}

// isPath tells a path from a command that is looked up on PATH or an editor's variable.
func isPath(raw string) bool {
	return raw != "" && (raw[0] == '/' || raw[0] == '~')
}

// insideWiring judges a path that leads into the repository, by what was read there.
func (j *judge) insideWiring(s Subject, w resolve.Asked) {
	if !w.Inside.Exists {
		if j.repo.Ref != "" {
			return // a committed tree does not hold what is made on the machine
		}
		j.report(Finding{Class: InterpreterDangling, Folder: s.Folder, Tool: s.Tool.Name, Machines: j.editing(),
			Message: fmt.Sprintf("%s points the editor at %s, and nothing is there: the editor falls back to another %s or refuses to start.",
				at(w), w.Raw, s.Tool.Title),
			Evidence: evidence(w), Remedy: fmt.Sprintf("Create it, or point %s at an installation.", at(w))}, "")
		return
	}
	v, err := s.Tool.Scheme().Parse(w.Inside.Version)
	if err != nil || w.Serves == "editor" {
		return
	}
	if against, differs := j.differs(s, v); differs {
		j.mismatch(s, w, against, []string{}, w.Inside.Version, w.Inside.Path)
	}
}

// outsideWiring judges a path on the machines, one by one.
func (j *judge) outsideWiring(s Subject, w resolve.Asked) {
	var dangling []string
	known := map[string][]string{} // version to machines
	var order []string
	paths := map[string]string{}
	against := map[string]resolve.Asked{} // by version
	for _, m := range j.in.Machines {
		if !runsEditors(m.Inventory.Machine.Kind) {
			continue
		}
		in, there := m.At(s.Tool.Name, w.Raw)
		if !there {
			dangling = append(dangling, m.Name())
			continue
		}
		if in == nil || in.Number.IsZero() || w.Serves == "editor" {
			continue
		}
		a, differs := j.differs(s, in.Number)
		if !differs {
			continue
		}
		if known[in.Version] == nil {
			order = append(order, in.Version)
			against[in.Version] = a
		}
		known[in.Version], paths[in.Version] = append(known[in.Version], m.Name()), in.Path
	}
	for _, v := range order {
		j.mismatch(s, w, against[v], known[v], v, paths[v])
	}
	if len(dangling) > 0 {
		j.report(Finding{Class: InterpreterDangling, Folder: s.Folder, Tool: s.Tool.Name, Machines: dangling,
			Message: fmt.Sprintf("%s points the editor at %s, which leads to no %s on %s: the editor there falls back to another one or refuses to start.",
				at(w), w.Raw, s.Tool.Title, j.some(dangling)),
			Evidence: evidence(w), Remedy: j.rewire(s, w, dangling)}, "")
	}
}

// differs finds the claim that a wired version breaks: the pin, or a bound where nothing is pinned.
func (j *judge) differs(s Subject, v version.Version) (resolve.Asked, bool) {
	for _, a := range j.judged(s) {
		if a.Err == nil && a.Unknown == "" && !a.Set.IsEmpty() && !a.Set.Contains(v) {
			return a, true
		}
	}
	return resolve.Asked{}, false
}

func (j *judge) mismatch(s Subject, w, against resolve.Asked, machines []string, runs, path string) {
	where := ""
	if len(machines) > 0 {
		where = " on " + j.some(machines)
	}
	ended := ""
	if v, err := s.Tool.Scheme().Parse(runs); err == nil {
		if l := s.Tool.LineOf(v); l != nil && l.EndedOn(j.in.Day) {
			ended = fmt.Sprintf(" (support for %s ended on %s)", l.Line, date(l.End.Time))
		}
	}
	j.report(Finding{Class: InterpreterMismatch, Folder: s.Folder, Tool: s.Tool.Name, Machines: machines,
		Message: fmt.Sprintf("The editor runs %s %s%s%s, but %s asks for %s. %s points it at %s, so what the editor checks and runs is not what the terminal does.",
			s.Tool.Title, runs, where, ended, at(against), asks(s, against), at(w), path),
		Evidence: evidence(w, against), Remedy: j.rewire(s, w, machines)}, runs)
}

// rewire proposes the installation that the choice leads to on the machines.
func (j *judge) rewire(s Subject, w resolve.Asked, machines []string) string {
	for _, r := range s.Resolutions {
		for _, m := range machines {
			if r.Machine == m && r.Chosen != nil && r.State == resolve.Met {
				return fmt.Sprintf("Point %s at %s (%s), or at a path inside the repository that every machine can make.", at(w), r.Chosen.Path, r.Version)
			}
		}
	}
	return fmt.Sprintf("Point %s at an installation that the pin asks for, or remove the setting.", at(w))
}

// runsEditors tells whether people edit on machines of this kind.
func runsEditors(kind string) bool {
	return kind != "build-agent" && kind != "image" && kind != "server"
}

// editing names the machines on which people edit.
func (j *judge) editing() []string {
	var out []string
	for _, m := range j.in.Machines {
		if runsEditors(m.Inventory.Machine.Kind) {
			out = append(out, m.Name())
		}
	}
	return out
}

// overrides reports machines whose override beats the pin with another version.
func (j *judge) overrides(s Subject) {
	pins := s.Pins()
	if len(pins) == 0 || pins[0].Err != nil || pins[0].Unknown != "" || pins[0].Set.IsEmpty() {
		return
	}
	for _, r := range s.Resolutions {
		if r.DecidedBy != resolve.ByOverride || pins[0].Set.Contains(r.Number) {
			continue
		}
		variable := r.Ladder[0].Where
		what := fmt.Sprintf("%s %s runs there", s.Tool.Title, r.Version)
		if r.Version == "" {
			what = fmt.Sprintf("it says %s, which leads to no %s there", r.Ladder[0].Raw, s.Tool.Title)
		}
		j.report(Finding{Class: OverrideLingering, Folder: s.PinFolder, Tool: s.Tool.Name, Machines: []string{r.Machine},
			Message: fmt.Sprintf("%s asks for %s, but %s is set on %s and beats it: %s, and nobody who reads the repository can see why.",
				at(pins[0]), asks(s, pins[0]), variable, r.Machine, what),
			Evidence: evidence(pins[0]), Remedy: fmt.Sprintf("Unset %s on %s, or point it at %s.", variable, r.Machine, asks(s, pins[0]))}, variable)
	}
}
