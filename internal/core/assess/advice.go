package assess

import (
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

// advise goes from what is sure to what is not: what is chosen already, what something says
// that it works, what runs today, the least that is asked for, what is supported.
func (k *check) advise() *Advice {
	r := k.reasoning()
	switch {
	case r.allowed.IsEmpty():
		return &Advice{Basis: ByConflict, By: r.by}
	case len(k.Tool.Lines) == 0:
		return &Advice{Basis: ByNothing}
	}
	if a := k.asChosen(r.allowed); a != nil {
		return a
	}
	tested, wired := k.wires(r.tested, r.allowed)
	known, told := tested.Intersect(r.allowed), len(r.speaking)+len(wired) > 0
	if a := k.asEvident(r, known, told, wired); a != nil {
		return a
	}
	if !told {
		if l := k.best(r.allowed.Intersect(k.used())); l != nil && !k.ending(l) {
			return k.to(l, ByUse, r.allowed, nil)
		}
		if l := k.least(r.allowed); l != nil && len(k.Pins) == 0 {
			return k.to(l, ByLeast, r.allowed, nil)
		}
	}
	return k.asSupported(r, known)
}

// moves reports whether something that is written is to change, and not something to be
// written that is not yet.
func (k *check) moves() bool {
	return len(k.Pins) > 0 || !k.Case.Used && len(k.Bounds) == 0
}

// asChosen stays in the line that the pin names, or among those that it leaves.
func (k *check) asChosen(allowed version.Set) *Advice {
	pinned, pin := k.pinnedLine(), k.first()
	if pinned != nil {
		if k.usable(pinned, allowed) && !k.ending(pinned) && !k.outside() {
			return k.to(pinned, ByChoice, allowed, nil)
		}
		return nil
	}
	if pin == nil || unreadable(pin) || pin.Floating || len(pin.Fallbacks) > 0 {
		return nil
	}
	left := allowed.Intersect(pin.Set)
	if l := k.best(left); l != nil && !k.ending(l) {
		return k.to(l, ByChoice, left, nil)
	}
	return nil
}

// asEvident takes what is known to work, or what bounds leave that do not admit everything
// that is new.
func (k *check) asEvident(r *reasoning, known version.Set, told bool, wired []Ref) *Advice {
	among, by := known, slices.Concat(r.speaking, r.by)
	if !told {
		newest := k.Tool.NewestLine(k.on, false)
		if newest == nil || meets(newest, r.allowed) {
			return nil
		}
		among, by = r.allowed, r.by
	}
	l := k.best(among)
	if l == nil || k.moves() && k.ending(l) {
		return nil
	}
	out := k.to(l, ByEvidence, among, by)
	out.Wired = wired
	return out
}

// asSupported takes a supported line where one that is written has to change, and says
// otherwise what is to be tried.
func (k *check) asSupported(r *reasoning, known version.Set) *Advice {
	l := k.best(r.allowed)
	switch {
	case len(r.speaking) > 0 && known.IsEmpty() && len(k.Pins) == 0:
		return &Advice{Basis: ByConflict, By: slices.Concat(r.speaking, r.by), Try: k.next(r.allowed)}
	case l == nil || l == k.pinnedLine():
		return &Advice{Basis: ByEnded, By: r.by}
	case k.moves():
		return k.to(l, BySupport, r.allowed, r.by)
	case len(r.speaking) > 0 && k.allEnded(known):
		return &Advice{Basis: ByEnded, By: r.speaking, Try: k.next(r.allowed)}
	}
	return &Advice{Basis: ByNothing, Try: k.next(r.allowed)}
}

// to advises a line: what to write, and what that is written already has to change.
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
		if m.Old {
			continue
		}
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
			out = append(out, Ref{Of: AtLimit, N: i})
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

// labelBefore and labelBehind are what may stand around a version's numbers: a name, a label.
var (
	labelBefore = regexp.MustCompile(`^(?:[A-Za-z][\w./@:-]*)?$`)
	labelBehind = regexp.MustCompile(`^(?:[a-z]|[-_+.@][\w.+@:-]*)?$`)
)

// Written is what to write in place of a text: with its label and with as many numbers as
// it has, as far as a version of the line is known.
func (a *Advice) Written(raw string) string {
	text := a.Text
	was := number.FindString(raw)
	if strings.Count(was, ".") > strings.Count(text, ".") && strings.Count(was, ".") >= 2 && a.Exact != "" {
		text = a.Exact
	}
	before, after, _ := strings.Cut(raw, was)
	if was == "" || strings.ContainsAny(raw, " <>=^~*|,") || !labelBefore.MatchString(before) || !labelBehind.MatchString(after) {
		return text // what stands around it is none of a version's labels
	}
	return before + text + after
}

// same reports whether two pieces of advice are the same.
func (a *Advice) same(b *Advice) bool {
	return a == b || a != nil && b != nil && a.Basis == b.Basis && a.Line == b.Line && a.Text == b.Text && a.Exact == b.Exact && a.Try == b.Try &&
		a.Set.Equal(b.Set) && slices.Equal(a.Change, b.Change) && slices.Equal(a.By, b.By) && slices.Equal(a.Wired, b.Wired) && a.Build == b.Build
}
