package version

// Set is a set of versions of one scheme: for each class of versions a sorted list of
// disjoint intervals that never touch. The zero Set is empty. A Set is never changed
// after it is made and may be shared.
type Set struct {
	scheme Scheme
	lists  [2][]Interval            // releases and prereleases
	more   *[classes - 2][]Interval // the other classes, of the schemes that have them
}

// list is the intervals of one class.
func (s *Set) list(c class) []Interval {
	if c < third {
		return s.lists[c]
	}
	return s.rare(c)
}

func (s *Set) rare(c class) []Interval {
	if s.more == nil {
		return nil
	}
	return s.more[c-third]
}

// put is the set with another list for one class.
func (s Set) put(c class, list []Interval) Set {
	switch {
	case c < third:
		s.lists[c] = list
	case s.more != nil || len(list) > 0:
		more := [classes - 2][]Interval{}
		if s.more != nil {
			more = *s.more
		}
		more[c-third] = list
		s.more = &more
	}
	return s
}

// All contains every version of the scheme, prereleases included.
func All(s Scheme) Set { return full(s, Interval{first, last}) }

// Releases contains every release of the scheme and no prerelease.
func Releases(s Scheme) Set { return within(s, Interval{first, last}) }

// None is the empty set of the scheme.
func None(s Scheme) Set { return Set{scheme: s} }

// Exactly contains one version, in every spelling.
func Exactly(v Version) Set {
	return None(v.scheme).with(v.class, Interval{before(v), after(v)})
}

// AtLeast contains v and everything newer, prereleases of newer versions included.
func AtLeast(v Version) Set { return full(v.scheme, Interval{before(v), last}) }

// LessThan contains everything older than v, its prereleases included.
func LessThan(v Version) Set { return full(v.scheme, Interval{first, before(v)}) }

// with adds an interval to an empty list of the set.
func (s Set) with(c class, i Interval) Set {
	if c == released {
		i = Interval{i.From.settled(), i.To.settled()}
	}
	if i.vacant(c) {
		return s
	}
	return s.put(c, []Interval{i})
}

// within is the versions of one interval that are no prereleases: releases, and
// what comes after releases.
func within(s Scheme, i Interval) Set {
	out := None(s).with(released, i)
	if schemes[s].classes == classes {
		out = out.with(third, i).with(fifth, i)
	}
	return out
}

// full is everything in one interval.
func full(s Scheme, i Interval) Set {
	out := None(s).with(released, i)
	if i.vacant(early) {
		return out
	}
	return out.fill([]Interval{i})
}

// fill is the set with one list for every class but releases. Classes that share a list
// are worked through once.
func (s Set) fill(list []Interval) Set {
	if schemes[s.scheme].classes > early {
		s.lists[early] = list
	}
	if schemes[s.scheme].classes > third {
		s.more = new([classes - 2][]Interval)
		for c := third; c < schemes[s.scheme].classes; c++ {
			s.more[c-third] = list
		}
	}
	return s
}

// WithPrereleases admits the prereleases of what the set contains: those of the first
// release of an interval too, those of the release it ends before not.
func (s Set) WithPrereleases() Set {
	for c := released; c+1 < schemes[s.scheme].classes; c += 2 {
		list := make([]Interval, len(s.list(c)))
		for n, i := range s.list(c) {
			list[n] = Interval{i.From.floor(), i.To.floor()}
		}
		s = s.put(c+1, list)
	}
	return s
}

// floor is the cut before a release moved before the release's own prereleases.
func (c Cut) floor() Cut {
	if c.end != 0 || c.after {
		return c
	}
	d := &schemes[c.scheme]
	text, _ := d.print(c.key)
	if number, _, err := d.line(text); err == nil {
		c.key = number
	}
	return c
}

// WithoutPrereleases leaves prereleases out.
func (s Set) WithoutPrereleases() Set {
	for c := early; c < schemes[s.scheme].classes; c += 2 {
		s = s.put(c, nil)
	}
	return s
}

// Scheme is the order of the set's versions.
func (s Set) Scheme() Scheme { return s.scheme }

// Contains tells whether v is in the set. It allocates nothing.
func (s Set) Contains(v Version) bool {
	if v.scheme != s.scheme {
		return false
	}
	list := s.list(v.class)
	for i := range list {
		if !list[i].From.below(v.key) {
			return false
		}
		if !list[i].To.below(v.key) {
			return true
		}
	}
	return false
}

// NoneBelow tells whether every version of the set is v or newer. It allocates nothing.
func (s Set) NoneBelow(v Version) bool {
	if v.scheme != s.scheme {
		return s.IsEmpty()
	}
	for c := range schemes[s.scheme].classes {
		if list := s.list(c); len(list) > 0 && list[0].From.compare(before(v)) < 0 {
			return false
		}
	}
	return true
}

// IsEmpty tells whether no version is in the set.
func (s Set) IsEmpty() bool {
	for c := range schemes[s.scheme].classes {
		if len(s.list(c)) > 0 {
			return false
		}
	}
	return true
}

// IsAll tells whether every release is in the set.
func (s Set) IsAll() bool {
	list := s.lists[released]
	return len(list) == 1 && list[0] == Interval{first, last}
}

// Intervals are the set's releases, oldest first, for drawing. Do not change them.
func (s Set) Intervals() []Interval { return s.lists[released] }

// Intersect contains what both contain. Sets of different schemes share nothing.
func (s Set) Intersect(t Set) Set {
	if s.scheme != t.scheme {
		return Set{scheme: s.scheme}
	}
	return s.zip(t, intersect)
}

// Overlaps tells whether some version is in both. It allocates nothing.
func (s Set) Overlaps(t Set) bool {
	if s.scheme != t.scheme {
		return false
	}
	for c := range schemes[s.scheme].classes {
		if meet(s.list(c), t.list(c), c) {
			return true
		}
	}
	return false
}

// SharesRelease tells whether some release, and not only a prerelease or the like, is in
// both. It allocates nothing.
func (s Set) SharesRelease(t Set) bool {
	return s.scheme == t.scheme && meet(s.lists[released], t.lists[released], released)
}

// zip makes a set of what op makes of the lists of each class.
func (s Set) zip(t Set, op func(a, b []Interval, c class) []Interval) Set {
	out := Set{scheme: s.scheme}
	out.lists[released] = op(s.lists[released], t.lists[released], released)
	out.lists[early] = op(s.lists[early], t.lists[early], early)
	if s.more == nil && t.more == nil {
		return out
	}
	out.more = new([classes - 2][]Interval)
	for c := third; c < schemes[s.scheme].classes; c++ {
		a, b := s.list(c), t.list(c)
		if same(a, s.lists[early]) && same(b, t.lists[early]) {
			out.more[c-third] = out.lists[early]
		} else {
			out.more[c-third] = op(a, b, c)
		}
	}
	return out
}

// same tells whether two lists are one in memory.
func same(a, b []Interval) bool {
	return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0])
}

// Unite contains what either contains. A set without a scheme adds nothing.
func (s Set) Unite(t Set) Set {
	if s.scheme == NoScheme {
		return t
	}
	if s.scheme != t.scheme {
		return s
	}
	return s.zip(t, unite)
}

// Complement contains every version of the scheme that s does not.
func (s Set) Complement() Set {
	out := Set{scheme: s.scheme}
	out.lists[released] = complement(s.lists[released], released)
	if schemes[s.scheme].classes > early {
		out = out.fill(complement(s.lists[early], early))
	}
	for c := third; c < schemes[s.scheme].classes; c++ {
		if !same(s.list(c), s.lists[early]) {
			out.more[c-third] = complement(s.list(c), c)
		}
	}
	return out
}

// Minus contains what s contains and t does not.
func (s Set) Minus(t Set) Set {
	if s.scheme != t.scheme {
		return s
	}
	return s.Intersect(t.Complement())
}

// SubsetOf tells whether t contains everything that s does. It allocates nothing.
func (s Set) SubsetOf(t Set) bool {
	if s.scheme != t.scheme {
		return s.IsEmpty()
	}
	for c := range schemes[s.scheme].classes {
		if !covers(t.list(c), s.list(c), c) {
			return false
		}
	}
	return true
}

// Equal tells whether both contain the same versions.
func (s Set) Equal(t Set) bool {
	return s.scheme == t.scheme && s.SubsetOf(t) && t.SubsetOf(s)
}
