// Package sentence puts findings into words. Findings are data; what people read of them,
// in whatever form, is made here and nowhere else.
package sentence

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
)

// Teller puts the findings of one fleet and day into words.
type Teller struct {
	Machines []string // names, in the fleet's order
	Day      time.Time
	fleet    *resolve.Fleet
	late     map[int]time.Time
}

// For is the teller of a fleet on a day.
func For(f *resolve.Fleet, on time.Time) Teller {
	return Teller{Machines: f.Names(f.Everyone()), Day: on, fleet: f}
}

// Tell gives what is wrong, and what would mend it.
func (t Teller) Tell(f *assess.Finding) (message, remedy string) {
	w := &words{Teller: t, f: f, v: f.Verdict, s: f.Subject}
	if f.Problem != nil {
		return w.problem(f.Problem)
	}
	message, remedy = tellers[f.Class.Name](w)
	return message + t.lateOf(f.Machines), remedy
}

// Late is the teller with the machines that have not reported in their time, by their places,
// and when they last did: what rests on them is told with that.
func (t Teller) Late(machines map[int]time.Time) Teller {
	t.late = machines
	return t
}

// lateOf says which machines that a finding rests on have not reported in their time.
func (t Teller) lateOf(m resolve.Machines) string {
	if len(t.late) == 0 {
		return ""
	}
	var late resolve.Machines
	var first time.Time
	for i := range m.All() {
		if at, ok := t.late[i]; ok {
			late = late.With(i)
			if first.IsZero() || at.Before(first) {
				first = at
			}
		}
	}
	switch late.Len() {
	case 0:
		return ""
	case 1:
		return fmt.Sprintf(" %s last reported on %s: it may be otherwise there by now.", t.Machines[late.First()], date(first))
	}
	return fmt.Sprintf(" %s last reported on %s or later: it may be otherwise there by now.", t.some(late), date(first))
}

// Configuration is lines of .wexo.yaml that would settle a finding; empty where none can.
func Configuration(f *assess.Finding) string {
	if f.Problem == nil || f.Problem.Kind != claim.Unclaimed {
		return ""
	}
	return f.Problem.Settle
}

// tellers are the sentences of each class.
var tellers = map[string]func(*words) (message, remedy string){
	"toolchain-missing":    (*words).toolchainMissing,
	"pin-missing":          (*words).pinMissing,
	"pin-floating":         (*words).pinFloating,
	"version-unknown":      (*words).versionUnknown,
	"claims-disagree":      (*words).claimsDisagree,
	"bound-violated":       (*words).boundViolated,
	"end-of-life":          (*words).supportEnded,
	"support-ending":       (*words).supportEnding,
	"interpreter-mismatch": (*words).interpreterMismatch,
	"interpreter-dangling": (*words).interpreterDangling,
	"override-lingering":   (*words).overrideLingering,
	"tools-incompatible":   (*words).toolsIncompatible,
	"rules-undecided":      (*words).rulesUndecided,
	"platform-mismatch":    (*words).platformMismatch,
	"companion-missing":    (*words).companionMissing,
	"file-unreadable":      (*words).fileUnreadable,
	"residue-stale":        (*words).residueStale,
	"default-mismatch":     (*words).defaultMismatch,

	"installation-broken":   (*words).installationBroken,
	"installation-unneeded": (*words).installationUnneeded,
}

// words are the words for one finding.
type words struct {
	Teller
	f *assess.Finding
	v *assess.Verdict
	s *assess.Subject
	// catalogue names tools where no finding is told of.
	catalogue *catalogue.Catalogue
}

// title is the tool's.
func (w *words) title() string { return w.f.Tool.Title }

// claim is the n-th claim that proves the verdict.
func (w *words) claim(n int) claim.Claim { return w.s.Claim(w.v.Evidence[n]) }

// at is where the n-th claim stands: "package.json:4".
func (w *words) at(n int) string { return at(w.claim(n)) }

func at(c claim.Claim) string { return place(c.File, c.Line) }

// place is a file with its line; the file alone where no line is meant.
func place(file string, line int) string {
	if file == "" {
		file = "the repository's root"
	}
	if line == 0 {
		return file
	}
	return fmt.Sprintf("%s:%d", file, line)
}

// asks says what the n-th claim asks for: "Node.js 20.11.1", "Java 17 or newer".
func (w *words) asks(n int) string { return w.asking(w.claim(n)) }

func (w *words) asking(c claim.Claim) string {
	switch {
	case c.Locked != nil && len(c.Locked.By) > 0:
		want, err := c.Want(w.f.Tool)
		if err == nil {
			return fmt.Sprintf("%s %s (%s; %s locked)", w.title(), want.Set, demanding(c.Locked.By), Count(c.Locked.Demands, "demand is", "demands are"))
		}
	case c.Reading == "level":
		if want, err := c.Want(w.f.Tool); err == nil && !w.f.Tool.Builds(c.Raw).IsAll() {
			return fmt.Sprintf("%s %s (level %s, which newer ones refuse)", w.title(), want.Set, c.Raw)
		}
		return fmt.Sprintf("%s %s or newer", w.title(), cmp.Or(c.Means, c.Raw))
	case c.Means != "":
		return fmt.Sprintf("%s %s (written as %s)", w.title(), c.Means, c.Raw)
	case c.Reading == "minimum" || c.Dialect == "go-minimum":
		return fmt.Sprintf("%s %s or newer", w.title(), c.Raw)
	case c.Raw == "":
		return w.title()
	case c.Vendor != "":
		return fmt.Sprintf("%s %s of %s", w.title(), c.Raw, c.Vendor)
	}
	return fmt.Sprintf("%s %s", w.title(), c.Raw)
}

// mostDemands is how many dependencies a sentence names.
const mostDemands = 3

// demanding names the dependencies that come to a lock file's bound: one alone need not.
func demanding(by []claim.Demand) string {
	var out []string
	for _, d := range by[:min(len(by), mostDemands)] {
		out = append(out, strings.TrimSpace(d.Dependency+" "+d.Version)+" demands "+d.Raw)
	}
	if more := len(by) - mostDemands; more > 0 {
		out = append(out, Count(more, "other demands more", "others demand more"))
	}
	return list(out)
}

// some joins machines' names: "every machine" for all of several, shortened where they are many.
func (t Teller) some(m resolve.Machines) string {
	if t.all(m) {
		return "every machine"
	}
	const most = 4
	n, names := m.Len(), make([]string, 0, most)
	for i := range m.All() {
		if names = append(names, t.Machines[i]); len(names) == most {
			break
		}
	}
	if n <= most {
		return list(names)
	}
	return fmt.Sprintf("%s and %d more machines", strings.Join(names[:most-1], ", "), n-most+1)
}

// all reports whether all machines are meant, and there are several.
func (t Teller) all(m resolve.Machines) bool {
	return len(t.Machines) > 1 && m.Len() == len(t.Machines)
}

// runs tells what would run where, and what decides it where that is nothing of the
// repository: "21.0.5 on potting-bench and 17.0.2 on mast-agent through JAVA_HOME".
func (w *words) runs(all []assess.Run) string {
	var out []string
	for _, r := range all {
		text := cmp.Or(r.Version, "nothing") + " on " + w.some(r.Machines)
		if r.By == resolve.ByOverride {
			text += " through " + r.Where
		}
		out = append(out, text)
	}
	if more := len(out) - mostRuns; more > 0 {
		out = append(out[:mostRuns], Count(more, "other version elsewhere", "other versions elsewhere"))
	}
	return list(out)
}

// mostRuns is how many versions a sentence names.
const mostRuns = 3

// installed lists versions with the machines that have them, those of the same machines
// together; the machines are left out where one alone is meant.
func (w *words) installed(near []assess.Run) string {
	if w.v.Machines.Len() == 1 {
		var versions []string
		for _, r := range near {
			versions = append(versions, versioned(r.Release))
		}
		return list(versions)
	}
	var places []string
	at := map[string][]string{}
	for _, r := range near {
		where := w.some(r.Machines)
		if at[where] == nil {
			places = append(places, where)
		}
		at[where] = append(at[where], versioned(r.Release))
	}
	var out []string
	for _, where := range places[:min(len(places), mostRuns)] {
		out = append(out, list(at[where])+" on "+where)
	}
	return strings.Join(out, "; ")
}

// versioned is a version with its vendor where it has one: "17.0.9 (temurin)".
func versioned(b assess.Release) string {
	if b.Vendor == "" {
		return b.Version
	}
	return fmt.Sprintf("%s (%s)", b.Version, b.Vendor)
}

// until says how long a line is supported; nothing where no end is announced.
func until(l *catalogue.Line, format string) string {
	if l.End.IsZero() {
		return ""
	}
	return fmt.Sprintf(format, date(l.End.Time))
}

func date(t time.Time) string { return t.Format("2 Jan 2006") }

// list joins words: "a", "a and b", "a, b and c".
func list(words []string) string {
	switch n := len(words); n {
	case 0:
		return ""
	case 1:
		return words[0]
	default:
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
}

// Count is a number with its word: "1 demand is", "12 demands are".
func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// different are texts, each once, shortened where they are many.
func different(list []assess.Run) []string {
	const most = 8
	var out []string
	for _, r := range list {
		if !slices.Contains(out, r.Version) {
			out = append(out, r.Version)
		}
	}
	if more := len(out) - most; more > 0 {
		out = append(out[:most], fmt.Sprintf("%d others", more))
	}
	return out
}

// Asked is what a folder asks for, in a word or two: the deciding pin, or the bound that the
// others allow too. A minimum is shown as one, and a text that stands for another, such as
// a lock file's format, as that.
func Asked(s *assess.Subject, r *resolve.Resolved) string {
	n := len(r.Pins) + len(r.Bounds)
	if n == 0 {
		return "no pin"
	}
	at := 0
	if len(r.Pins) == 0 {
		for i := 1; i < n; i++ {
			if b := r.At(i); b.Err == nil && b.Set.SubsetOf(r.At(at).Set) {
				at = i
			}
		}
	}
	c := s.Asked(at)
	if c.Means != "" {
		return strings.Replace(c.Means, ">=", "≥", 1)
	}
	if r.At(at).Err == nil && c.Asks.Minimum {
		return "≥" + c.Raw
	}
	return c.Raw
}
