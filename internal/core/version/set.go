package version

import (
	"cmp"
	"slices"
	"strings"
)

// Cut is a place between versions: just before or just after a key, or at either end.
type Cut struct {
	key   string
	text  string // the number as printed
	after bool
	end   int8 // -1 before everything, 1 after everything
}

var (
	first = Cut{end: -1}
	last  = Cut{end: 1}
)

func before(v Version) Cut { return Cut{key: v.key, text: v.text} }
func after(v Version) Cut  { return Cut{key: v.key, text: v.text, after: true} }

func (c Cut) compare(d Cut) int {
	if c.end != 0 || d.end != 0 {
		return cmp.Compare(c.end, d.end)
	}
	if r := strings.Compare(c.key, d.key); r != 0 {
		return r
	}
	switch {
	case c.after == d.after:
		return 0
	case d.after:
		return -1
	}
	return 1
}

// below tells whether the key stands after the cut.
func (c Cut) below(key string) bool {
	switch {
	case c.end != 0:
		return c.end < 0
	case c.after:
		return c.key < key
	}
	return c.key <= key
}

// Unbounded tells whether the cut is an end of the order and names no version.
func (c Cut) Unbounded() bool { return c.end != 0 }

// Text is the version at the cut as printed; "" at an end.
func (c Cut) Text() string { return c.text }

// Interval is the versions between two cuts.
type Interval struct{ From, To Cut }

// Set is a set of versions of one scheme: sorted, disjoint, never touching intervals,
// one list for releases and one for prereleases. The zero Set is empty. A Set is never
// changed after it is made and may be shared.
type Set struct {
	scheme   Scheme
	releases []Interval
	pre      []Interval
}

// All contains every version of the scheme, prereleases included.
func All(s Scheme) Set { return full(s, Interval{first, last}) }

// Releases contains every release of the scheme and no prerelease.
func Releases(s Scheme) Set { return within(s, Interval{first, last}) }

// None is the empty set of the scheme.
func None(s Scheme) Set { return Set{scheme: s} }

// Exactly contains one version.
func Exactly(v Version) Set {
	only := Interval{before(v), after(v)}
	if v.prerelease {
		return Set{scheme: v.scheme, pre: []Interval{only}}
	}
	return within(v.scheme, only)
}

// AtLeast contains v and everything newer, prereleases of newer versions included.
func AtLeast(v Version) Set { return full(v.scheme, Interval{before(v), last}) }

// within is the releases of one interval.
func within(s Scheme, i Interval) Set {
	i = Interval{i.From.floored(s), i.To.floored(s)}
	if i.From.compare(i.To) >= 0 {
		return Set{scheme: s}
	}
	return Set{scheme: s, releases: []Interval{i}}
}

// full is the releases and the prereleases of one interval.
func full(s Scheme, i Interval) Set {
	out := within(s, i)
	if i.From.compare(i.To) < 0 {
		out.pre = []Interval{i}
	}
	return out
}

// floored is the place among releases: just before a release and just before its
// prereleases are the same there, and only one of the two is used, so that intervals
// that touch are seen to touch.
func (c Cut) floored(s Scheme) Cut {
	if c.end == 0 && !c.after {
		c.key = schemes[s].floor(c.key)
	}
	return c
}

// WithPrereleases admits prereleases in the same intervals as releases.
func (s Set) WithPrereleases() Set {
	return Set{scheme: s.scheme, releases: s.releases, pre: s.releases}
}

// Scheme is the order of the set's versions.
func (s Set) Scheme() Scheme { return s.scheme }

// Contains tells whether v is in the set. It allocates nothing.
func (s Set) Contains(v Version) bool {
	if v.scheme != s.scheme {
		return false
	}
	list := s.releases
	if v.prerelease {
		list = s.pre
	}
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

// IsEmpty tells whether no version is in the set.
func (s Set) IsEmpty() bool { return len(s.releases) == 0 && len(s.pre) == 0 }

// IsAll tells whether every release is in the set.
func (s Set) IsAll() bool {
	return len(s.releases) == 1 && s.releases[0] == Interval{first, last}
}

// Intervals are the set's releases, oldest first, for drawing. Do not change them.
func (s Set) Intervals() []Interval { return s.releases }

// Intersect contains what both contain. Sets of different schemes share nothing.
func (s Set) Intersect(t Set) Set {
	if s.scheme != t.scheme {
		return Set{scheme: s.scheme}
	}
	return Set{s.scheme, intersect(s.releases, t.releases), intersect(s.pre, t.pre)}
}

// Unite contains what either contains. A set without a scheme adds nothing.
func (s Set) Unite(t Set) Set {
	if s.scheme == NoScheme {
		return t
	}
	if s.scheme != t.scheme {
		return s
	}
	return Set{s.scheme, unite(s.releases, t.releases), unite(s.pre, t.pre)}
}

// Complement contains every version that s does not.
func (s Set) Complement() Set {
	return Set{s.scheme, complement(s.releases), complement(s.pre)}
}

// Equal tells whether both contain the same versions.
func (s Set) Equal(t Set) bool {
	same := func(a, b Interval) bool { return a.From.compare(b.From) == 0 && a.To.compare(b.To) == 0 }
	return s.scheme == t.scheme && slices.EqualFunc(s.releases, t.releases, same) && slices.EqualFunc(s.pre, t.pre, same)
}

// SubsetOf tells whether t contains everything that s does.
func (s Set) SubsetOf(t Set) bool { return s.Intersect(t).Equal(s) }

func intersect(a, b []Interval) []Interval {
	var out []Interval
	for len(a) > 0 && len(b) > 0 {
		from, to := a[0].From, a[0].To
		if b[0].From.compare(from) > 0 {
			from = b[0].From
		}
		ends := to.compare(b[0].To)
		if ends > 0 {
			to = b[0].To
		}
		if from.compare(to) < 0 {
			out = append(out, Interval{from, to})
		}
		if ends <= 0 {
			a = a[1:]
		} else {
			b = b[1:]
		}
	}
	return out
}

func unite(a, b []Interval) []Interval {
	all := append(append(make([]Interval, 0, len(a)+len(b)), a...), b...)
	slices.SortFunc(all, func(x, y Interval) int { return x.From.compare(y.From) })
	var out []Interval
	for _, i := range all {
		if n := len(out); n > 0 && i.From.compare(out[n-1].To) <= 0 {
			if i.To.compare(out[n-1].To) > 0 {
				out[n-1].To = i.To
			}
			continue
		}
		out = append(out, i)
	}
	return out
}

func complement(list []Interval) []Interval {
	var out []Interval
	from := first
	for _, i := range list {
		if from.compare(i.From) < 0 {
			out = append(out, Interval{from, i.From})
		}
		from = i.To
	}
	if from.compare(last) < 0 {
		out = append(out, Interval{from, last})
	}
	return out
}

// String prints the set: ">=20.9.0 <21.0.0 || >=22.0.0", "*" for all, "none" for the empty set.
func (s Set) String() string {
	list := s.releases
	if len(list) == 0 {
		list = s.pre
	}
	if len(list) == 0 {
		return "none"
	}
	words := make([]string, len(list))
	for n, i := range list {
		words[n] = i.String()
	}
	return strings.Join(words, " || ")
}

// String prints an interval: ">=20.9.0 <21.0.0", "20.11.1" where it holds one version.
func (i Interval) String() string {
	if i.From.text == i.To.text && i.From.end == 0 && i.To.end == 0 && !i.From.after && i.To.after {
		return i.From.text
	}
	var words []string
	if i.From.end == 0 {
		words = append(words, map[bool]string{false: ">=", true: ">"}[i.From.after]+i.From.text)
	}
	if i.To.end == 0 {
		words = append(words, map[bool]string{false: "<", true: "<="}[i.To.after]+i.To.text)
	}
	if len(words) == 0 {
		return "*"
	}
	return strings.Join(words, " ")
}
