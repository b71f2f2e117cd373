package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// outside reports whether nothing that the pin admits meets one of the folder's own bounds.
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

// rank orders lines as best does: those that are settled first, of them those that are
// supported longest.
func (k *check) rank(l *catalogue.Line) int {
	rank := 0
	for _, o := range k.Tool.Lines {
		if o != l && endsBefore(l, o) {
			rank++
		}
	}
	if !k.settled(l) {
		rank += len(k.Tool.Lines)
	}
	return rank
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
