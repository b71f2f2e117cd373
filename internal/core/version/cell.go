package version

import "slices"

// Cell is a part of the order that no set of a choice divides: of its releases, each set
// holds all or none.
type Cell struct {
	Set
	In []bool // which of the sets hold it
}

// Cells divides what lies within a set by the bounds of others, oldest first. Prereleases
// belong to the cell in which they stand in the order.
func Cells(within Set, sets []Set) []Cell {
	s := within.scheme
	cuts := []Cut{first, last}
	for _, set := range append([]Set{within}, sets...) {
		if set.scheme != s {
			continue
		}
		for _, i := range set.lists[released] {
			cuts = append(cuts, i.From, i.To)
		}
	}
	slices.SortFunc(cuts, Cut.compare)
	cuts = slices.CompactFunc(cuts, func(a, b Cut) bool { return a.compare(b) == 0 })
	at := make([]int, len(sets)) // the interval of each set that may reach the cell
	inside := 0
	var out []Cell
	for n := 1; n < len(cuts); n++ {
		i := Interval{cuts[n-1], cuts[n]}
		if i.vacant(released) || !reaches(within.lists[released], &inside, i) {
			continue
		}
		c := Cell{full(s, i), make([]bool, len(sets))}
		for k := range sets {
			c.In[k] = sets[k].scheme == s && reaches(sets[k].lists[released], &at[k], i)
		}
		out = append(out, c)
	}
	return out
}

// reaches reports whether an interval of a list covers a cell; at is the first that may, for
// this cell and those that follow.
func reaches(list []Interval, at *int, i Interval) bool {
	for *at < len(list) && list[*at].To.compare(i.To) < 0 {
		*at++
	}
	return *at < len(list) && list[*at].From.compare(i.From) <= 0
}

// Meets reports whether a release is in both, or where one of the two names none, any
// version is.
func (s Set) Meets(t Set) bool {
	if len(s.lists[released]) > 0 && len(t.lists[released]) > 0 {
		return s.SharesRelease(t)
	}
	return s.Overlaps(t)
}

// Least is the version at which the set's releases begin; false where they have no
// beginning, or it is none of them.
func (s Set) Least() (Version, bool) {
	list := s.lists[released]
	if len(list) == 0 || list[0].From.end != 0 {
		return Version{}, false
	}
	v, err := s.scheme.Parse(list[0].From.Text())
	return v, err == nil && s.Contains(v)
}
