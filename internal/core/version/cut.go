package version

import (
	"cmp"
	"strings"
)

// Cut is a place in the order of a scheme: before or after a key, or before or after
// everything that begins with the beginning of a key; or either end of the order.
type Cut struct {
	key    string
	scheme Scheme
	after  bool
	end    int8 // -1 before everything, 1 after everything
}

var (
	first = Cut{end: -1}
	last  = Cut{end: 1}
)

func before(v Version) Cut { return Cut{key: v.order(), scheme: v.scheme} }
func after(v Version) Cut  { return Cut{key: v.order(), scheme: v.scheme, after: true} }

func (s Scheme) before(key string) Cut { return Cut{key: key, scheme: s} }
func (s Scheme) after(key string) Cut  { return Cut{key: key, scheme: s, after: true} }

func (c Cut) compare(d Cut) int {
	if c.end != 0 || d.end != 0 {
		return cmp.Compare(c.end, d.end)
	}
	if c.key == d.key {
		switch {
		case c.after == d.after:
			return 0
		case d.after:
			return -1
		}
		return 1
	}
	if strings.HasPrefix(d.key, c.key) { // c is the edge of a block that d lies in
		return c.side()
	}
	if strings.HasPrefix(c.key, d.key) {
		return -d.side()
	}
	return strings.Compare(c.key, d.key)
}

func (c Cut) side() int {
	if c.after {
		return 1
	}
	return -1
}

// below tells whether the key stands after the cut.
func (c *Cut) below(key string) bool {
	if c.end != 0 {
		return c.end < 0
	}
	if c.after && len(key) >= len(c.key) && key[:len(c.key)] == c.key { // in the block that c ends
		return false
	}
	return c.key <= key
}

// settled is the cut among releases: two cuts with no release between them are one.
func (c Cut) settled() Cut {
	settle := schemes[c.scheme].settle
	if c.end != 0 || settle == nil {
		return c
	}
	release := settle(c.key)
	switch {
	case release == c.key || strings.HasPrefix(release, c.key):
		c.key = release
	case strings.HasPrefix(c.key, release): // a spelling of the release
	default:
		c.key, c.after = release, c.key > release
	}
	return c
}

// Unbounded tells whether the cut is an end of the order and names no version.
func (c Cut) Unbounded() bool { return c.end != 0 }

// Text is the version at the cut as printed; "" at an end.
func (c Cut) Text() string {
	if c.end != 0 {
		return ""
	}
	text, _ := schemes[c.scheme].print(c.key)
	return text
}

// Interval is the versions between two cuts.
type Interval struct{ From, To Cut }

// one tells whether the interval holds one version, in any spelling.
func (i Interval) one() bool {
	return i.From.end == 0 && i.To.end == 0 && !i.From.after && i.To.after && i.From.key == i.To.key
}

// vacant tells whether no version can lie in the interval.
func (i Interval) vacant(c class) bool {
	if i.From.compare(i.To) >= 0 {
		return true
	}
	if c != released || i.To.after || i.To.end != 0 || i.From.end == 0 && !i.From.after {
		return false
	}
	adjacent := schemes[i.To.scheme].adjacent
	return adjacent != nil && adjacent(i.From.key, i.To.key)
}

func intersect(a, b []Interval, c class) []Interval {
	if len(a) == 0 || len(b) == 0 {
		return nil
	}
	out := make([]Interval, 0, max(len(a), len(b)))
	for len(a) > 0 && len(b) > 0 {
		from, to := a[0].From, a[0].To
		if b[0].From.compare(from) > 0 {
			from = b[0].From
		}
		ends := to.compare(b[0].To)
		if ends > 0 {
			to = b[0].To
		}
		if both := (Interval{from, to}); !both.vacant(c) {
			out = append(out, both)
		}
		if ends <= 0 {
			a = a[1:]
		} else {
			b = b[1:]
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// unite merges two sorted lists; intervals that touch become one.
func unite(a, b []Interval, c class) []Interval {
	if len(a) == 0 {
		return b
	}
	if len(b) == 0 {
		return a
	}
	out := make([]Interval, 0, len(a)+len(b))
	for len(a) > 0 || len(b) > 0 {
		var i Interval
		if len(b) == 0 || len(a) > 0 && a[0].From.compare(b[0].From) <= 0 {
			i, a = a[0], a[1:]
		} else {
			i, b = b[0], b[1:]
		}
		if n := len(out); n > 0 && (Interval{out[n-1].To, i.From}).vacant(c) {
			if i.To.compare(out[n-1].To) > 0 {
				out[n-1].To = i.To
			}
			continue
		}
		out = append(out, i)
	}
	return out
}

func complement(list []Interval, c class) []Interval {
	var out []Interval
	from := first
	for _, i := range list {
		if gap := (Interval{from, i.From}); !gap.vacant(c) {
			out = append(out, gap)
		}
		from = i.To
	}
	if from.end <= 0 {
		out = append(out, Interval{from, last})
	}
	return out
}

// meet tells whether some version of the class lies in one of both lists.
func meet(a, b []Interval, c class) bool {
	for len(a) > 0 && len(b) > 0 {
		both := a[0]
		if b[0].From.compare(both.From) > 0 {
			both.From = b[0].From
		}
		ends := both.To.compare(b[0].To)
		if ends > 0 {
			both.To = b[0].To
		}
		if !both.vacant(c) {
			return true
		}
		if ends <= 0 {
			a = a[1:]
		} else {
			b = b[1:]
		}
	}
	return false
}

// covers tells whether no version of the class lies in one of list and in none of by.
func covers(by, list []Interval, c class) bool {
	for _, i := range list {
		at := i.From
		for _, b := range by {
			if b.From.compare(i.To) >= 0 {
				break
			}
			if b.To.compare(at) <= 0 {
				continue
			}
			if gap := (Interval{at, b.From}); !gap.vacant(c) {
				return false
			}
			at = b.To
		}
		if rest := (Interval{at, i.To}); !rest.vacant(c) {
			return false
		}
	}
	return true
}
