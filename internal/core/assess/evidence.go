package assess

import (
	"cmp"
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

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

// wired is what an editor runs already, where it is pointed at a path; of what it is pointed
// at by name a limit speaks.
func (k *check) wired(w *Wiring) version.Set {
	out := version.None(k.Tool.Scheme())
	if w.Kept || w.Editors || w.Named || w.Err != nil || w.Inside != nil || !inventory.IsPath(w.Raw) {
		return out
	}
	for _, c := range k.Tooling.Classes {
		if in, _ := c.LeadsTo(w.Raw); in != nil && editors(c) && k.Tooling.LineOf(in.Number) != nil {
			out = out.Unite(k.Tooling.LineOf(in.Number).Set())
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
