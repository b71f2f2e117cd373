package assess

import (
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// missing reports a deciding pin that no installation fits.
func (j *judge) missing(s Subject) {
	pins := s.Pins()
	var lacking []resolve.Resolution
	for _, r := range s.Resolutions {
		if (r.State == resolve.Missing || r.State == resolve.Conflict && r.Version == "") &&
			(r.DecidedBy == resolve.ByPin || r.DecidedBy == resolve.ByInherited) {
			lacking = append(lacking, r)
		}
	}
	if len(lacking) == 0 || len(pins) == 0 {
		return
	}
	pin := pins[0]
	nearest, best := j.nearest(s, pin, lacking)
	who := fmt.Sprintf("%s %s no such installation", j.some(names(lacking)), verb(len(lacking) == 1, "has", "have"))
	if j.all(names(lacking)) {
		who = "no machine has such an installation"
	}
	asked := asks(s, pin)
	if pin.Alias != "" {
		asked += fmt.Sprintf(" (%s on %s)", pin.Set, date(j.in.Day))
	}
	message := fmt.Sprintf("%s asks for %s, but %s: the pinned version cannot run there.", at(pin), asked, who)
	if nearest == "" {
		message += fmt.Sprintf(" No %s is installed there at all.", s.Tool.Title)
	} else {
		message += " Nearest installed: " + nearest + "."
	}
	remedy := fmt.Sprintf("Install %s on %s", asks(s, pin), j.some(names(lacking)))
	if pin.Alias == "" && s.Tool.Unreleased(pin.Set, j.in.Day) != "" {
		remedy = "Correct the version, which was never released"
	}
	if best != "" {
		remedy += fmt.Sprintf(", or change the pin in %s to %s", at(pin), best)
	}
	j.report(Finding{Class: ToolchainMissing, Folder: s.PinFolder, Tool: s.Tool.Name, Machines: names(lacking),
		Message: message, Evidence: evidence(pin), Remedy: remedy + "."}, "")
}

// nearest lists the installed versions next to what the pin asks for, and of those that
// the bounds admit and that are supported the one that most of the lacking machines
// have, the newest of several.
func (j *judge) nearest(s Subject, pin resolve.Asked, lacking []resolve.Resolution) (listed, best string) {
	var order []string
	machines, usable := map[string][]string{}, map[string]int{}
	var bestNumber version.Version
	numbers := map[string]version.Version{}
	for _, m := range j.in.Machines {
		if !slices.Contains(names(lacking), m.Name()) {
			continue
		}
		for _, in := range m.Nearest(s.Tool.Name, pin.Set) {
			text := numbered(in)
			if machines[text] == nil {
				order = append(order, text)
			}
			machines[text] = append(machines[text], m.Name())
			l := s.Tool.LineOf(in.Number)
			if j.allowed(s, in.Number) && (l == nil || !l.EndedOn(j.in.Day)) {
				usable[in.Version]++
				numbers[in.Version] = in.Number
			}
		}
	}
	listed = j.byMachines(order, machines, len(lacking) == 1)
	for v, n := range usable {
		if best == "" || n > usable[best] || n == usable[best] && numbers[v].Compare(bestNumber) > 0 {
			best, bestNumber = v, numbers[v]
		}
	}
	return listed, best
}

// byMachines lists versions with the machines that have them, those of the same machines together.
func (j *judge) byMachines(versions []string, machines map[string][]string, single bool) string {
	if single {
		return list(versions)
	}
	var places []string
	at := map[string][]string{}
	for _, v := range versions {
		where := j.some(machines[v])
		if at[where] == nil {
			places = append(places, where)
		}
		at[where] = append(at[where], v)
	}
	var out []string
	for _, where := range places {
		out = append(out, list(at[where])+" on "+where)
	}
	return strings.Join(out, "; ")
}

// allowed tells whether the subject's bounds admit a version.
func (j *judge) allowed(s Subject, v version.Version) bool {
	for _, b := range s.Bounds() {
		if b.Err == nil && !b.Set.Contains(v) {
			return false
		}
	}
	return true
}

// unpinned is the finding for a tool that is used and pinned nowhere.
func (j *judge) unpinned(s Subject) Finding {
	var running []resolve.Resolution
	for _, r := range s.Resolutions {
		if r.Version != "" {
			running = append(running, r)
		}
	}
	use := s.Uses[0]
	message := fmt.Sprintf("%s shows that %s is used, but nothing pins its version", use.File, s.Tool.Title)
	if len(running) > 0 {
		message += ": each machine runs its own default (" + j.runs(running) + ")"
	}
	message += ", so builds change when a machine does."
	file := "." + s.Tool.Name + "-version"
	remedy := fmt.Sprintf("Add %s", file)
	if l := j.recommended(s); l != nil {
		remedy += fmt.Sprintf(" with %s", l.Line)
		if !l.End.IsZero() {
			remedy += fmt.Sprintf(" (supported until %s)", date(l.End.Time))
		}
	} else {
		remedy += " with the version the team uses"
	}
	return Finding{Class: PinMissing, Folder: s.Folder, Tool: s.Tool.Name, Machines: names(running), Message: message,
		Evidence: []Evidence{{File: use.File}}, Remedy: remedy + "."}
}

// recommended is the line to move to: the newest supported one that the bounds admit and
// that does not end soon, one that some machine has before one that none has.
func (j *judge) recommended(s Subject) *catalogue.Line {
	bounds := version.All(s.Tool.Scheme())
	for _, b := range s.Bounds() {
		if b.Err == nil {
			bounds = bounds.Intersect(b.Set)
		}
	}
	var best *catalogue.Line
	bestInstalled := false
	for _, l := range s.Tool.Lines {
		part := l.Set().Intersect(bounds)
		if part.IsEmpty() || l.EndedOn(j.in.Day) || j.in.Day.Before(l.Released.Time) || j.ending(l) {
			continue
		}
		installed := slices.ContainsFunc(s.Resolutions, func(r resolve.Resolution) bool { return j.has(s, r.Machine, part) })
		if best == nil || installed || !bestInstalled {
			best, bestInstalled = l, installed
		}
	}
	return best
}

func (j *judge) has(s Subject, machine string, set version.Set) bool {
	for _, m := range j.in.Machines {
		if m.Name() == machine {
			return m.Newest(s.Tool.Name, set, inventory.Build{}) != nil
		}
	}
	return false
}

// unknownVersions reports pins that name what was never released, or cannot be told.
func (j *judge) unknownVersions(s Subject) {
	for _, pin := range s.Pins() {
		var why string
		switch {
		case pin.Err != nil && pin.Unknown == "":
			why = "which is no version of it"
		case pin.Unknown != "":
			why = fmt.Sprintf("and %q is no vendor or variant that the catalogue knows", pin.Unknown)
		case pin.Alias != "" || pin.System || pin.Kept:
			continue
		default:
			reason := s.Tool.Unreleased(pin.Set, j.in.Day)
			if reason == "" {
				continue
			}
			why = "a version that was never released: " + reason
		}
		remedy := "Correct the version"
		if l := j.recommended(s); l != nil {
			remedy += fmt.Sprintf("; the line to use is %s", l.Line)
		}
		j.report(Finding{Class: VersionUnknown, Folder: pin.Folder, Tool: s.Tool.Name, Machines: names(s.Resolutions),
			Message:  fmt.Sprintf("%s asks for %s, %s. No machine can ever have it.", at(pin), asks(s, pin), why),
			Evidence: evidence(pin), Remedy: remedy + "."}, "")
	}
}

// floating reports pins that name no version.
func (j *judge) floating(s Subject) {
	for _, pin := range s.Pins() {
		if !pin.Floating {
			continue
		}
		var running []resolve.Resolution
		for _, r := range s.Resolutions {
			if r.Version != "" {
				running = append(running, r)
			}
		}
		message := fmt.Sprintf("%s asks for %s, which names no version", at(pin), asks(s, pin))
		if len(running) > 0 {
			message += ": today it is " + j.runs(running)
		}
		message += ". Machines differ, or will, without any change to the repository."
		remedy := "Name a version"
		if l := j.recommended(s); l != nil {
			remedy = fmt.Sprintf("Write %s in %s", l.Line, at(pin))
		}
		j.report(Finding{Class: PinFloating, Folder: pin.Folder, Tool: s.Tool.Name, Machines: names(running),
			Message: message, Evidence: evidence(pin), Remedy: remedy + "."}, "")
	}
}

// disagree reports pins of one folder that admit no common version, or that lead to
// different installations on a machine: each pin beside the first that it disagrees with.
func (j *judge) disagree(s Subject) {
	pins := s.Pins()
	pins = slices.DeleteFunc(pins, unreadable)
	for n := range pins {
		for i := range pins[:n] {
			if j.disagreeing(s, &pins[i], &pins[n]) {
				break
			}
		}
	}
}

func (j *judge) disagreeing(s Subject, a, b *resolve.Asked) bool {
	if !a.Set.Overlaps(b.Set) || a.Vendor != b.Vendor && a.Vendor != "" && b.Vendor != "" {
		j.apart(s, *a, *b)
		return true
	}
	return j.picksDiffer(s, *a, *b)
}

// unreadable tells a pin whose set says nothing.
func unreadable(a resolve.Asked) bool {
	return a.Err != nil || a.Unknown != "" || a.Kept || a.Set.IsEmpty()
}

func (j *judge) apart(s Subject, a, b resolve.Asked) {
	message := fmt.Sprintf("%s asks for %s and %s for %s; no version is both. Which one runs depends on the program that reads the file",
		at(a), asks(s, a), at(b), asks(s, b))
	var running []resolve.Resolution
	for _, r := range s.Resolutions {
		if r.Version != "" {
			running = append(running, r)
		}
	}
	if len(running) > 0 {
		message += fmt.Sprintf(" (here %s is taken first: %s)", a.File, j.runs(running))
	}
	j.report(Finding{Class: ClaimsDisagree, Folder: s.PinFolder, Tool: s.Tool.Name, Machines: names(s.Resolutions),
		Message: message + ".", Evidence: evidence(a, b),
		Remedy: fmt.Sprintf("Keep one of the two, or write the same version in %s and %s.", at(a), at(b))}, "")
}

// picksDiffer reports two pins that share versions, where the newest installed one of
// each is not the same.
func (j *judge) picksDiffer(s Subject, a, b resolve.Asked) bool {
	var machines []string
	var first, second string
	for _, m := range j.in.Machines {
		x, y := m.Newest(s.Tool.Name, a.Set, a.Build()), m.Newest(s.Tool.Name, b.Set, b.Build())
		if x == nil || y == nil || x == y {
			continue
		}
		if machines == nil {
			first, second = numbered(x), numbered(y)
		}
		machines = append(machines, m.Name())
	}
	if machines == nil {
		return false
	}
	j.report(Finding{Class: ClaimsDisagree, Folder: s.PinFolder, Tool: s.Tool.Name, Machines: machines,
		Message: fmt.Sprintf("%s asks for %s and %s for %s; on %s the first leads to %s and the second to %s. Which one runs depends on the program that reads the file.",
			at(a), asks(s, a), at(b), asks(s, b), machines[0], first, second),
		Evidence: evidence(a, b), Remedy: fmt.Sprintf("Keep one of the two, or write the same version in %s and %s.", at(a), at(b))}, "")
	return true
}

// bounds reports chosen versions outside a bound, and bounds that the pin cannot meet.
func (j *judge) bounds(s Subject) {
	for _, b := range s.Bounds() {
		if b.Err != nil {
			j.report(Finding{Class: FileUnreadable, Folder: b.Folder, Tool: s.Tool.Name, Machines: []string{},
				Message:  fmt.Sprintf("%s restricts %s with %q, which cannot be read as a range: %s. It is not checked.", at(b), s.Tool.Title, b.Raw, reason(b.Err)),
				Evidence: evidence(b), Remedy: "Correct the range."}, "range")
			continue
		}
		j.bound(s, b)
	}
}

func (j *judge) bound(s Subject, b resolve.Asked) {
	var outside []resolve.Resolution
	for _, r := range s.Resolutions {
		if !r.Number.IsZero() && !b.Set.Contains(r.Number) {
			outside = append(outside, r)
		}
	}
	pins := s.Pins()
	never := len(pins) > 0 && pins[0].Err == nil && pins[0].Unknown == "" && !pins[0].Set.IsEmpty() && !pins[0].Set.Overlaps(b.Set)
	if len(outside) == 0 && !never {
		return
	}
	f := Finding{Class: BoundViolated, Folder: s.Folder, Tool: s.Tool.Name, Machines: names(outside), Evidence: evidence(b)}
	switch {
	case never:
		f.Machines = names(s.Resolutions)
		f.Evidence = evidence(b, pins[0])
		f.Message = fmt.Sprintf("%s asks for %s, but %s allows only %s: the pin can never meet the bound",
			at(pins[0]), asks(s, pins[0]), at(b), asks(s, b))
		if len(outside) > 0 {
			f.Message += fmt.Sprintf(" (%s would run)", j.runs(outside))
		}
		f.Message += ", so the project will not run as its manifest says"
		f.Remedy = fmt.Sprintf("Widen %s to allow %s, or pin a version that it allows in %s", at(b), asks(s, pins[0]), nearer(b))
		if l := j.recommended(s); l != nil {
			f.Remedy = fmt.Sprintf("Pin %s in %s, which the bound allows", l.Line, at(pins[0]))
		}
	case len(pins) > 0:
		f.Evidence = evidence(b, pins[0])
		f.Message = fmt.Sprintf("%s allows only %s, but with the pin in %s %s would run", at(b), asks(s, b), at(pins[0]), j.runs(outside))
		f.Remedy = fmt.Sprintf("Narrow the pin in %s to %s, or install a version inside it", at(pins[0]), pins[0].Set.Intersect(b.Set))
	default:
		f.Message = fmt.Sprintf("%s allows only %s, but nothing pins it and %s would run", at(b), asks(s, b), j.runs(outside))
		f.Remedy = fmt.Sprintf("Install %s inside %s on %s and pin it", s.Tool.Title, b.Set, j.some(names(outside)))
	}
	if !never {
		f.Message += ", which the project does not support"
	}
	f.Message += "."
	f.Remedy += "."
	j.report(f, "")
}

// nearer is the folder of a bound, in words.
func nearer(b resolve.Asked) string {
	if b.Folder == "" {
		return "the root folder"
	}
	return b.Folder + "/"
}

// reason is an error's last part, which says what is wrong.
func reason(err error) string {
	text := err.Error()
	if i := strings.LastIndex(text, ": "); i >= 0 {
		return text[i+2:]
	}
	return text
}
