package sentence

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/nearest"
	"wexo/internal/core/resolve"
)

// systems are the names of systems, as people write them.
func systems(list []string) string {
	var out []string
	for _, s := range list {
		out = append(out, cmp.Or(map[string]string{"linux": "Linux", "darwin": "macOS", "windows": "Windows"}[s], s))
	}
	return nearest.Listed(out, "and")
}

// fetched tells what starts, and what it fetches and runs.
func (w *words) fetched() (message, remedy string) {
	r := w.v.Runs[0]
	starts := w.title() + " " + r.Other.Version
	if r.Other.Version == resolve.StartsProxy {
		starts = "a proxy"
	}
	asks := "what overrides it asks for"
	if len(w.v.Evidence) > 0 {
		asks = w.at(0) + " asks for"
	}
	message = fmt.Sprintf("%s starts on %s, fetches %s %s, which %s, and runs it.", starts, w.some(r.Machines), w.title(), r.Version, asks)
	if len(w.v.Runs) > 1 {
		message += fmt.Sprintf(" So it is on %s.", w.some(w.v.Machines))
	}
	return strings.ToUpper(message[:1]) + message[1:], fmt.Sprintf("Nothing has to be done; with %s %s installed nothing has to be fetched.", w.title(), r.Version)
}

func (w *words) toolchainMissing() (message, remedy string) {
	switch w.v.Kind {
	case assess.MissingStarts:
		return w.fetched()
	case assess.MissingNowhere:
		return fmt.Sprintf("%s needs %s, which exists for %s alone, and no machine that is looked at is of such a system: what runs there is not known.", w.needing(), w.title(), systems(w.f.Tool.RunsOn)),
			"Let a machine of such a system send its inventory."
	}
	where := w.some(w.v.Machines)
	switch w.v.Kind {
	case assess.MissingAbsent:
		return w.absent(where)
	case assess.MissingVoid:
		r := w.v.Runs[0]
		return fmt.Sprintf("%s needs %s, but %s is set on %s: it says %s, which leads to no %s there, and so nothing runs.", w.needing(), w.title(), r.Where, where, r.Raw, w.title()),
			fmt.Sprintf("Unset %s on %s, or point it at an installation.", r.Where, where)
	}
	who := fmt.Sprintf("%s %s no such installation", where, verb(w.v.Machines.Len() == 1, "has", "have"))
	if w.all(w.v.Machines) {
		who = "no machine has such an installation"
	}
	asked := w.asks(0)
	if w.s.Asked(0).Asks.Alias != "" {
		asked += fmt.Sprintf(" (%s on %s)", w.v.Allowed, date(w.Day))
	}
	if len(w.v.Unusable) > 0 {
		who += " that is known to work"
	}
	so := ": the pinned version cannot run there"
	if slices.ContainsFunc(w.v.Unusable, func(u assess.Unusable) bool { return u.Version == "" }) {
		so = "" // it might be the one
	}
	message = fmt.Sprintf("%s asks for %s, but %s%s.", w.at(0), asked, who, so)
	if near := w.installed(w.v.Near); near != "" {
		message += " Nearest installed: " + near + "."
	}
	message += w.unusable()
	if len(w.v.Near) == 0 && len(w.v.Unusable) == 0 {
		message += fmt.Sprintf(" No %s is installed there at all.", w.title())
	}
	if c := w.v.Follows; c != nil {
		return message, fmt.Sprintf("%s, as said under %s, mends this too.", following[c.Name], strings.ToLower(c.Title))
	}
	if a := w.v.Advice; w.v.Line != nil && a.Basis == assess.ByChoice && a.Line != nil {
		return message, fmt.Sprintf("Install %s on %s, which %s admits.", w.advised(), where, w.at(0))
	}
	if w.v.Line != nil {
		return message, fmt.Sprintf("Support for %s %s ended on %s. %s", w.title(), w.v.Line.Line, date(w.v.Line.End.Time), w.toMove(w.v.Evidence[0]))
	}
	remedy = fmt.Sprintf("Install %s on %s", w.asks(0), where)
	if !w.v.Within.IsEmpty() {
		remedy = fmt.Sprintf("Install %s %s on %s, which the bounds allow of it", w.title(), w.v.Within, where)
	}
	if w.v.Best != "" {
		remedy += fmt.Sprintf(", or change the pin in %s to %s", w.at(0), w.v.Best)
	}
	return message, remedy + "."
}

// unusable tells of what is installed and of no use, and why it is none.
func (w *words) unusable() string {
	var out []string
	for _, u := range w.v.Unusable[:min(len(w.v.Unusable), mostRuns)] {
		where := ""
		if w.v.Machines.Len() > 1 {
			where = " on " + w.some(u.Machines)
		}
		version := ""
		if u.Version != "" {
			version = u.Version + " at "
		}
		out = append(out, version+u.Path+where+", which "+whyUnusable(u))
	}
	if more := len(w.v.Unusable) - len(out); more > 0 {
		out = append(out, fmt.Sprintf("%d more", more))
	}
	if len(out) == 0 {
		return ""
	}
	return " There, but of no use: " + strings.Join(out, "; ") + "."
}

func whyUnusable(u assess.Unusable) string {
	switch {
	case u.Private:
		return "serves another program alone"
	case u.Health == "broken":
		return "does not work"
	}
	return "does not tell its version"
}

// following are the acts that other findings propose, and that mend a missing toolchain too.
var following = map[string]string{
	"end-of-life":     "Moving to a supported line",
	"version-unknown": "Correcting the version",
	"pin-floating":    "Naming a version",
}

// needing is what shows that the folder needs the tool.
func (w *words) needing() string {
	c := w.claim(0)
	if c.Line == 0 {
		return c.File
	}
	return fmt.Sprintf("%s (%s)", at(c), w.asks(0))
}

func (w *words) absent(where string) (message, remedy string) {
	none := fmt.Sprintf("%s %s none", where, verb(w.v.Machines.Len() == 1, "has", "have"))
	if len(w.v.Near) > 0 {
		return w.unreached(where)
	}
	switch {
	case len(w.v.Unusable) > 0:
		none += " that is known to work." + w.unusable()
	case w.all(w.v.Machines):
		none = "no machine has any: nothing of it can run."
	default:
		none += ": nothing of it can run there."
	}
	return fmt.Sprintf("%s needs %s, and nothing pins it, but %s", w.needing()+w.alike(), w.title(), none), w.toInstall(where) + ", or leave the folder to machines that have it."
}

// unreached tells of what is installed, would do, and is on no PATH; of the others that they have
// none.
func (w *words) unreached(where string) (message, remedy string) {
	var there []string
	var with resolve.Machines
	for _, r := range w.v.Near[:min(len(w.v.Near), mostRuns)] {
		text := fmt.Sprintf("%s at %s", r.Version, r.Path)
		if w.v.Machines.Len() > 1 {
			text += " on " + w.some(r.Machines)
		}
		there = append(there, text)
	}
	for _, r := range w.v.Near {
		with = with.And(r.Machines)
	}
	message = fmt.Sprintf("%s needs %s, and nothing pins it; it is installed and not reached: %s is on no PATH.", w.needing()+w.alike(), w.title(), list(there))
	remedy = fmt.Sprintf("Put %s first on PATH there.", w.v.Near[0].Path[:max(strings.LastIndexAny(w.v.Near[0].Path, `/\`), 0)])
	if with.Len() < w.v.Machines.Len() {
		message += " Other machines have none."
		remedy += " " + w.toInstall("the others") + "."
	}
	return message, remedy
}

// toInstall says what to install where there is none.
func (w *words) toInstall(where string) string {
	a := w.v.Advice
	switch {
	case a.Line != nil:
		return fmt.Sprintf("Install %s on %s%s", w.advised(), where, w.asElsewhere())
	case a.Basis == assess.ByEnded && len(a.By) > 0 && w.s.Case.Limits[a.By[0]].Positive():
		return fmt.Sprintf("Install on %s what %s asks for, whose support has ended, or move it to a supported line first", where, at(*w.s.Limits[a.By[0]][0]))
	case a.Try != nil && !w.v.Allowed.IsAll():
		return fmt.Sprintf("Install %s %s on %s, %s for one", w.title(), w.v.Allowed, where, w.named(a.Try))
	case a.Try != nil:
		return fmt.Sprintf("Install %s on %s, %s for one", w.title(), where, w.named(a.Try))
	case !w.v.Allowed.IsAll() && !w.v.Allowed.IsEmpty():
		return fmt.Sprintf("Install %s %s on %s", w.title(), w.v.Allowed, where)
	}
	return fmt.Sprintf("Install %s on %s", w.title(), where)
}

func (w *words) pinMissing() (message, remedy string) {
	message = fmt.Sprintf("%s shows that %s is used", w.claim(0).File, w.title())
	if w.v.Kind == assess.UnpinnedBound {
		message = fmt.Sprintf("%s needs %s", w.at(0), w.asks(0))
	}
	message += w.alike() + ", but nothing pins its version"
	if len(w.v.Runs) > 0 {
		message += ": each machine runs its own default (" + w.runs(w.v.Runs) + ")"
	}
	message += ", so builds change when a machine does."
	for _, l := range w.v.Ended {
		if l.End.Before(w.Day) {
			message += fmt.Sprintf(" Support for %s %s ended on %s.", w.title(), l.Line, date(l.End.Time))
		} else {
			message += fmt.Sprintf(" Support for %s %s ends on %s.", w.title(), l.Line, date(l.End.Time))
		}
	}
	return message, w.toPin()
}

// alike says in how many other folders the same is so.
func (w *words) alike() string {
	if !w.v.Wide || w.s.Holds.More == 0 {
		return ""
	}
	return ", as in " + Count(w.s.Holds.More, "other folder", "other folders")
}

func (w *words) pinFloating() (message, remedy string) {
	message = fmt.Sprintf("%s asks for %s, which names no version", w.at(0), w.asks(0))
	if len(w.v.Runs) > 0 {
		message += ": today it is " + w.runs(w.v.Runs)
	}
	message += ". Machines differ, or will, without any change to the repository."
	if a := w.v.Advice; a.Line != nil {
		return message, fmt.Sprintf("Write %s in %s: %s%s.%s", a.Written(w.claim(0).Raw), w.at(0), w.named(a.Line), w.because(), w.install())
	}
	if text := w.instead(); text != "" {
		return message, text
	}
	return message, "Name the version that it is made for."
}

func (w *words) versionUnknown() (message, remedy string) {
	why := "which is no version of it"
	switch w.v.Kind {
	case assess.UnknownLabel:
		why = fmt.Sprintf("and %q is no vendor or variant that the catalogue knows", w.v.Reason)
	case assess.UnknownNever:
		why = "a version that was never released: " + w.v.Reason
	}
	if w.v.Kind == assess.UnknownHere {
		return fmt.Sprintf("%s asks for %s, which is not known here: the newest known release of its line is %s (looked up on %s). It may exist by now.", w.at(0), w.asks(0), w.v.Reason, date(w.f.Tool.Checked.Time)),
			"Look whether it was released; a newer catalogue knows it."
	}
	remedy = "Correct the version"
	if a := w.v.Advice; a.Line != nil {
		remedy += fmt.Sprintf(": write %s in %s%s", a.Written(w.claim(0).Raw), w.at(0), w.because())
	}
	return fmt.Sprintf("%s asks for %s, %s. No machine can ever have it.", w.at(0), w.asks(0), why), remedy + "."
}

func (w *words) claimsDisagree() (message, remedy string) {
	if w.v.Kind == assess.DisagreeSetup {
		return w.setup()
	}
	remedy = fmt.Sprintf("Keep one of the two, or write the same version in %s and %s.", w.at(0), w.at(1))
	both := fmt.Sprintf("%s asks for %s and %s for %s; ", w.at(0), w.asks(0), w.at(1), w.asks(1))
	if w.v.Kind == assess.DisagreePicks {
		var parts []string
		for _, r := range w.v.Runs[:min(len(w.v.Runs), mostRuns)] {
			parts = append(parts, fmt.Sprintf("on %s the first leads to %s and the second to %s", w.some(r.Machines), versioned(r.Release), versioned(r.Other)))
		}
		return both + strings.Join(parts, ", ") + ". Which one runs depends on the program that reads the file.", remedy
	}
	message = both + "no version is both. Which one runs depends on the program that reads the file"
	if len(w.v.Runs) > 0 {
		message += fmt.Sprintf(" (here %s is taken first: %s)", w.first(), w.runs(w.v.Runs))
	}
	return message + ".", remedy
}

// first is the file of the deciding pin.
func (w *words) first() string { return w.s.Claim(assess.Ref{Of: assess.AtPin}).File }

func (w *words) setup() (message, remedy string) {
	what := w.asks(1)
	if texts := different(w.v.Near); len(texts) > 1 {
		what = w.title() + " " + list(texts)
	}
	return fmt.Sprintf("%s sets up %s, but %s asks for %s: what is built and tested there is not what runs elsewhere.", w.at(1), what, w.at(0), w.asks(0)),
		fmt.Sprintf("Set up %s in %s, or change the pin in %s.", w.asks(0), w.at(1), w.at(0))
}

func verb(single bool, one, many string) string {
	if single {
		return one
	}
	return many
}
