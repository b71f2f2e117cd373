package assess

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// Advice is a version that a folder may well be given, and what speaks for it. A version is
// advised where something says that it works; otherwise Basis says what is missing.
type Advice struct {
	Basis  Basis
	Line   *catalogue.Line // nil where none can be advised
	Text   string          // what to write where nothing is written yet: a line or a version
	Exact  string          // a version of the line that is installed or known; empty where none is
	Set    version.Set     // what Text means
	Change []Ref           // what has to say it from now on; none where nothing is written yet
	By     []int           // places among the case's limits that speak for it
	Wired  []Ref           // editors that run it already
	Build  inventory.Build // as which it has to be installed
	Try    *catalogue.Line // where none can be advised: the one to try
	within version.Set     // what of the line may be taken
}

// Basis is what an advice rests on.
type Basis string

// What advice rests on.
const (
	ByChoice   Basis = "choice"   // it is what is chosen already
	ByEvidence Basis = "evidence" // something in the repository says that it works
	ByUse      Basis = "use"      // it runs today
	ByLeast    Basis = "least"    // it is the least that is asked for
	BySupport  Basis = "support"  // nothing says more: it is admitted and supported
	ByNothing  Basis = "nothing"  // it is not known what works
	ByEnded    Basis = "ended"    // what is known to work is out of support
	ByConflict Basis = "conflict" // no version is admitted by all
)

// advice is the version to go to, found once for a case.
func (k *check) advice() *Advice {
	if k.advised == nil {
		k.advised = k.advise()
	}
	return k.advised
}

// reasoning is what speaks of a case's versions, whatever the machines have.
type reasoning struct {
	allowed  version.Set // by all bounds and rules
	by       []int       // the limits that narrow it
	tested   version.Set // known to work
	speaking []int       // the limits that say so
}

func (k *check) reasoning() *reasoning {
	if k.reasoned == nil {
		k.reasoned = &reasoning{}
		k.reasoned.allowed, k.reasoned.by = k.allowed()
		k.reasoned.tested, k.reasoned.speaking = k.tested(k.reasoned.allowed)
	}
	return k.reasoned
}

func (k *check) advise() *Advice {
	r := k.reasoning()
	allowed, by := r.allowed, r.by
	switch {
	case allowed.IsEmpty():
		return &Advice{Basis: ByConflict, By: by}
	case len(k.Tool.Lines) == 0:
		return &Advice{Basis: ByNothing}
	}
	if l := k.pinnedLine(); l != nil && k.usable(l, allowed) && !k.ending(l) && !k.outside() {
		return k.to(l, ByChoice, allowed, nil)
	}
	if pin := k.first(); pin != nil && !unreadable(pin) && !pin.Floating && len(pin.Fallbacks) == 0 && k.pinnedLine() == nil {
		if l := k.best(allowed.Intersect(pin.Set)); l != nil && !k.ending(l) { // it leaves the choice of a line
			return k.to(l, ByChoice, allowed.Intersect(pin.Set), nil)
		}
	}
	tested, speaking := r.tested, r.speaking
	tested, wired := k.wires(tested, allowed)
	known, told := tested.Intersect(allowed), len(speaking)+len(wired) > 0
	moves := len(k.Pins) > 0 || !k.Case.Used && len(k.Bounds) == 0 // from what is written, and not to what is not yet
	switch newest := k.Tool.NewestLine(k.on, false); {
	case told:
		if l := k.best(known); l != nil && !(moves && k.ending(l)) {
			out := k.to(l, ByEvidence, known, append(speaking, by...))
			out.Wired = wired
			return out
		}
	case newest != nil && !meets(newest, allowed):
		if l := k.best(allowed); l != nil && !(moves && k.ending(l)) {
			return k.to(l, ByEvidence, allowed, by)
		}
	}
	if l := k.best(allowed.Intersect(k.used())); l != nil && !told && !k.ending(l) {
		return k.to(l, ByUse, allowed, nil)
	}
	if l := k.least(allowed); l != nil && !told && len(k.Pins) == 0 {
		return k.to(l, ByLeast, allowed, nil)
	}
	l := k.best(allowed)
	switch {
	case len(speaking) > 0 && known.IsEmpty() && len(k.Pins) == 0:
		return &Advice{Basis: ByConflict, By: append(speaking, by...)}
	case l == nil || l == k.pinnedLine():
		return &Advice{Basis: ByEnded, By: by}
	case moves:
		return k.to(l, BySupport, allowed, by)
	case len(speaking) > 0 && k.allEnded(known):
		return &Advice{Basis: ByEnded, By: speaking, Try: k.next(allowed)}
	}
	return &Advice{Basis: ByNothing, Try: k.next(allowed)}
}

// allowed is what all bounds and rules over the reach of the choice leave, with the limits
// that narrow it.
func (k *check) allowed() (version.Set, []int) {
	out := version.All(k.Tool.Scheme())
	var by []int
	for i := range k.Case.Limits {
		l := &k.Case.Limits[i]
		set := l.Set
		switch l.Of {
		case OfRule:
		case OfBound:
			s := resolve.SaidOn(l.Wants[0], k.on)
			if !s.Judges() {
				continue
			}
			set = s.Set
		default:
			continue
		}
		if slices.ContainsFunc(k.Tool.Lines, func(o *catalogue.Line) bool { return !meets(o, set) && k.usable(o, out) }) {
			by = append(by, i)
		}
		out = out.Intersect(set)
	}
	return out.Intersect(k.bounded()), by // of many limits not all are looked at, of the folder's own bounds they are
}

// tested is what is known to work: what each limit names, as far as they agree, those that
// say most first.
func (k *check) tested(allowed version.Set) (out version.Set, by []int) {
	out = version.All(k.Tool.Scheme())
	for _, of := range []LimitOf{OfPin, OfSetup, OfTested, OfLevel, OfWiring} {
		for i := range k.Case.Limits {
			l := &k.Case.Limits[i]
			if l.Of != of {
				continue
			}
			named := version.None(k.Tool.Scheme())
			for _, w := range l.Wants {
				named = named.Unite(k.names(w, of))
			}
			if named.IsEmpty() || named.IsAll() {
				continue
			}
			if len(by) == 0 || named.Overlaps(out.Intersect(allowed)) {
				out, by = out.Intersect(named), append(by, i)
			}
		}
	}
	return out, by
}

// wires narrows what is known to work to what editors run already, as far as they agree.
func (k *check) wires(tested, allowed version.Set) (out version.Set, wired []Ref) {
	out = tested
	for i := range k.Case.Wirings {
		set := k.wired(&k.Case.Wirings[i])
		if !set.IsEmpty() && !set.IsAll() && set.Overlaps(out.Intersect(allowed)) {
			out, wired = out.Intersect(set), append(wired, Ref{Of: AtWiring, N: i})
		}
	}
	return out, wired
}

// wired is what an editor runs already: by the name of an installation, or at a path.
func (k *check) wired(w *Wiring) version.Set {
	out := version.None(k.Tool.Scheme())
	switch {
	case w.Kept || w.Editors || w.Err != nil:
	case w.Named: // a limit speaks of it
	case w.Inside == nil && inventory.IsPath(w.Raw):
		for _, c := range k.Tooling.Classes {
			if in, _ := c.LeadsTo(w.Raw); in != nil && editors(c) && k.Tooling.LineOf(in.Number) != nil {
				out = out.Unite(k.Tooling.LineOf(in.Number).Set())
			}
		}
	}
	return out
}

// names is what a want names: of a level the versions that it is called after.
func (k *check) names(w *resolve.Want, of LimitOf) version.Set {
	s := resolve.SaidOn(w, k.on)
	if !s.Judges() || s.Unknown != "" || s.Floating {
		return version.None(k.Tool.Scheme())
	}
	if of == OfLevel {
		level, err := version.ParseRange("plain", k.Tool.Scheme(), cmp.Or(w.Means, w.Raw))
		if err != nil {
			return version.None(k.Tool.Scheme())
		}
		if l := k.Tool.LineFor(level); l != nil {
			return l.Set()
		}
		return level
	}
	return s.Set
}

// used are the lines of what runs today.
func (k *check) used() version.Set {
	out := version.None(k.Tool.Scheme())
	for i := range k.Outcomes {
		if l := k.lineOf(&k.Outcomes[i]); l != nil && len(k.Pins) == 0 {
			out = out.Unite(l.Set())
		}
	}
	return out
}

// outside reports whether what runs by the pin is outside a bound, or the pin never meets one.
func (k *check) outside() bool {
	for i := range k.Bounds {
		b := &k.Bounds[i]
		if b.Err != nil {
			continue
		}
		if pin := k.first(); !unreadable(pin) && !pin.Set.Overlaps(b.Set) {
			return true
		}
	}
	return false
}

// usable reports whether a line is out, supported, and among what is allowed.
func (k *check) usable(l *catalogue.Line, allowed version.Set) bool {
	return meets(l, allowed) && k.phase(l).out
}

// phase is where a line stands on the day: out and supported, and whether it ends too soon.
type phase struct{ asked, out, ending bool }

func (k *check) phase(l *catalogue.Line) phase {
	if k.phases == nil {
		k.phases = make([]phase, len(k.Tool.Lines))
	}
	p := &k.phases[l.Place()]
	if !p.asked {
		*p = phase{asked: true, out: k.on.Reached(l.Released.Time) && !l.EndedOn(k.on), ending: k.endsSoon(l)}
	}
	return *p
}

// meets reports whether a release of a line is in a set.
func meets(l *catalogue.Line, set version.Set) bool { return l.Set().SharesRelease(set) }

// settled reports whether a line has been out for long enough to be trusted: half a year,
// or with long-term support where the tool has that.
func (k *check) settled(l *catalogue.Line) bool {
	if slices.ContainsFunc(k.Tool.Lines, func(o *catalogue.Line) bool { return !o.LongTerm.IsZero() }) {
		return !l.LongTerm.IsZero() && k.on.Reached(l.LongTerm.Time)
	}
	return k.on.Reached(l.Released.AddDate(0, 6, 0))
}

// best is of the usable lines the one that is supported longest, of those that do not end
// soon, are installed somewhere and settled, as far as there are any.
func (k *check) best(allowed version.Set) *catalogue.Line {
	among := k.Tooling.Among(allowed)
	var best *catalogue.Line
	var merit int
	for _, l := range k.Tool.Lines {
		if !k.usable(l, allowed) {
			continue
		}
		m := 0
		if !k.ending(l) {
			m += 4
		}
		if k.Tooling.Has(l, among) {
			m += 2
		}
		if k.settled(l) {
			m++
		}
		if best == nil || m > merit || m == merit && !endsBefore(l, best) {
			best, merit = l, m
		}
	}
	return best
}

// endsBefore reports whether a line ends before another; one without an announced end does
// not end.
func endsBefore(l, o *catalogue.Line) bool {
	switch {
	case l.End.IsZero():
		return false
	case o.End.IsZero():
		return true
	}
	return l.End.Before(o.End.Time)
}

// least is the line of the least version that is allowed, where that may be used.
func (k *check) least(allowed version.Set) *catalogue.Line {
	if len(k.Bounds) == 0 {
		return nil
	}
	for _, l := range k.Tool.Lines {
		if meets(l, allowed) {
			if k.usable(l, allowed) && !k.ending(l) {
				return l
			}
			return nil
		}
	}
	return nil
}

// allEnded reports whether all lines of a set are known, and out of support.
func (k *check) allEnded(set version.Set) bool {
	left := set.WithoutPrereleases()
	if k.Tool.Lines[0].EndedOn(k.on) {
		left = left.Minus(k.Tool.Older())
	}
	for _, l := range k.Tool.Lines {
		if meets(l, left) {
			if !l.EndedOn(k.on) {
				return false
			}
			left = left.Minus(l.Set())
		}
	}
	return len(left.Intervals()) == 0
}

// next is the line to try: one that runs today, otherwise the oldest usable one that is
// settled, next to what is known to work.
func (k *check) next(allowed version.Set) *catalogue.Line {
	if l := k.best(allowed.Intersect(k.used())); l != nil && !k.ending(l) {
		return l
	}
	var next *catalogue.Line
	for _, l := range k.Tool.Lines {
		if k.usable(l, allowed) && !k.ending(l) && (next == nil || k.settled(l) && !k.settled(next)) {
			next = l
		}
	}
	return next
}

// to advises a line: what to write, where, and on which machines it has to be installed.
func (k *check) to(l *catalogue.Line, basis Basis, allowed version.Set, by []int) *Advice {
	a := &Advice{Basis: basis, Line: l, Text: l.Line, Set: l.Set(), By: by}
	if k.ending(l) {
		a.Try = k.next(allowed)
	}
	if pin := k.first(); pin != nil {
		a.Build = pin.Build()
		a.Build.Variant = ""
	}
	a.within = l.Set().Intersect(allowed)
	a.Exact = k.exact(l, a.within, a.Build)
	if len(l.Set().Minus(allowed).Intervals()) > 0 && a.Exact != "" { // the line alone may lead outside
		a.Text = a.Exact
	}
	if a.Text != l.Line {
		if set, err := version.ParseRange("plain", k.Tool.Scheme(), a.Text); err == nil {
			a.Set = set
		}
	}
	a.Change = k.changes(a.Set)
	return a
}

// exact is a version of a line: of those that are installed the one that most machines
// have, the newest of several; otherwise the newest that is known.
func (k *check) exact(l *catalogue.Line, within version.Set, build inventory.Build) string {
	best := k.Tooling.Usual(k.Tooling.Among(within), build)
	if best != "" {
		return best
	}
	if newest, err := k.Tool.Scheme().Parse(l.NewestText); err == nil && within.Contains(newest) {
		return l.NewestText
	}
	if l.Set().Minus(within).Intervals() == nil {
		return ""
	}
	return number.FindString(within.String()) // the least that is asked for is there
}

// changes are the claims that do not admit a set and would be at odds with it: pins, what is
// set up, and what editors are pointed at.
func (k *check) changes(set version.Set) []Ref {
	var out []Ref
	for i := range k.Pins {
		p := &k.Pins[i]
		if p.Floating || p.Err != nil || !p.Kept && !p.Set.Overlaps(set) {
			out = append(out, Ref{Of: AtPin, N: i})
		}
	}
	for n, m := range k.Case.Setups {
		all, said := version.None(k.Tool.Scheme()), 0
		for _, w := range m.Wants {
			if s := resolve.SaidOn(w, k.on); !unreadable(&s) {
				all, said = all.Unite(s.Set), said+1
			}
		}
		if said > 0 && !all.Overlaps(set) {
			out = append(out, Ref{Of: AtSetup, N: n})
		}
	}
	for i := range k.Case.Limits {
		if l := &k.Case.Limits[i]; (l.Of == OfSetup || l.Of == OfWiring) && !l.Above && k.against(l, set) {
			for n := range l.Wants {
				out = append(out, Ref{Of: AtLimit, N: i, Value: n})
			}
		}
	}
	return out
}

// against reports whether nothing that a limit names is in a set.
func (k *check) against(l *Limit, set version.Set) bool {
	named := version.None(k.Tool.Scheme())
	for _, w := range l.Wants {
		named = named.Unite(k.names(w, l.Of))
	}
	return !named.IsEmpty() && !named.IsAll() && !named.Overlaps(set)
}

var number = regexp.MustCompile(`\d+(?:\.\d+)*(?:[+_]\d+)?`)

// Written is what to write in place of a text: with its label and with as many numbers as
// it has, as far as a version of the line is known.
func (a *Advice) Written(raw string) string {
	text := a.Text
	was := number.FindString(raw)
	if strings.Count(was, ".") > strings.Count(text, ".") && strings.Count(was, ".") >= 2 && a.Exact != "" {
		text = a.Exact
	}
	if was == "" || strings.ContainsAny(raw, " <>=^~*|,") {
		return text
	}
	return strings.Replace(raw, was, text, 1)
}

// same reports whether two pieces of advice are the same.
func (a *Advice) same(b *Advice) bool {
	return a == b || a != nil && b != nil && a.Basis == b.Basis && a.Line == b.Line && a.Text == b.Text && a.Exact == b.Exact && a.Try == b.Try &&
		a.Set.Equal(b.Set) && slices.Equal(a.Change, b.Change) && slices.Equal(a.By, b.By) && slices.Equal(a.Wired, b.Wired) && a.Build == b.Build
}
