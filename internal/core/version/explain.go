package version

import (
	"fmt"
	"slices"
	"strings"
)

// Explain says why v is not in the set, to stand behind "20.1.0 is ": "below the lower
// bound 20.9.0". It is "" where v is in the set.
func (s Set) Explain(v Version) string {
	switch {
	case s.Contains(v):
		return ""
	case v.scheme != s.scheme:
		return fmt.Sprintf("a %s version, and the range is of %s versions", v.scheme, s.scheme)
	case s.IsEmpty():
		return "in no range: nothing satisfies it"
	}
	list := s.list(v.class)
	if len(list) == 0 || v.class != released && s.noneOfNumber(list, v) {
		return "a " + className(v) + ", and the range admits none of its number"
	}
	before := Cut{end: -1}
	for _, i := range list {
		if !i.From.below(v.key) {
			return gapReason(before, i.From, v)
		}
		before = i.To
	}
	return gapReason(before, last, v)
}

func className(v Version) string {
	switch {
	case v.scheme == Composer && v.class == third:
		return "branch"
	case v.class == released:
		return "release"
	case v.prerelease:
		return "prerelease"
	case v.class == third:
		return "post-release"
	}
	return "local build"
}

// noneOfNumber tells whether the list holds nothing with the number of v, although the
// release of that number, or what it follows, is in the set.
func (s Set) noneOfNumber(list []Interval, v Version) bool {
	d := &schemes[s.scheme]
	if d.settle == nil || !s.Contains(Version{key: d.settle(v.order()), scheme: s.scheme}) {
		return false
	}
	text, _ := d.print(d.settle(v.order()))
	number, _, err := d.line(text)
	return err == nil && len(intersect(list, []Interval{{s.scheme.before(number), s.scheme.after(number)}}, v.class)) == 0
}

// gapReason says why v lies between two intervals, or outside all of them.
func gapReason(from, to Cut, v Version) string {
	switch {
	case from.leavesOut(v) && !from.after:
		return "a " + className(v) + " of " + from.Text() + ", which the range leaves out"
	case to.leavesOut(v) && to.after:
		return "a " + className(v) + " of " + to.Text() + ", which the range leaves out"
	case from.end == 0 && to.end == 0 && from.key == to.key:
		return "left out by name"
	case from.end != 0 && to.after && to.key == v.order():
		return "the lower bound itself, which is left out"
	case from.end != 0:
		return "below the lower bound " + to.Text()
	case to.end != 0 && from.after:
		return "above the upper bound " + from.Text()
	case to.end != 0:
		return "not below the upper bound " + from.Text()
	}
	start, end := "from ", "to below "
	if from.after {
		start = "after "
	}
	if to.after {
		end = "up to "
	}
	return "in the gap " + start + from.Text() + " " + end + to.Text()
}

// leavesOut tells whether the cut stands at an edge of everything with the number of v.
func (c Cut) leavesOut(v Version) bool {
	if c.end != 0 || !strings.HasPrefix(v.key, c.key) {
		return false
	}
	_, mark := schemes[c.scheme].print(c.key)
	return mark == "*"
}

// Gap is what lies between two neighbouring intervals of a set.
type Gap struct {
	Interval
	Hole bool // one version only, left out by name (!=)
}

// Gaps are the gaps between the set's releases, oldest first, for drawing.
func (s Set) Gaps() []Gap {
	list := s.lists[released]
	var out []Gap
	for n := 1; n < len(list); n++ {
		i := Interval{list[n-1].To, list[n].From}
		hole := i.From.key == i.To.key && !i.From.after && i.To.after
		out = append(out, Gap{i, hole})
	}
	return out
}

// mostTried is how many combinations of sets are tried of one size: a repository can
// make claims without end, and its reader must not pay for that.
const mostTried = 100_000

// Contradiction finds the smallest of the sets that cannot hold together, as indexes
// in their order; of several equally small ones the first. It is nil where one version
// at least, in any class, is in all of them. Where there are too many to try them all,
// it is some of the sets of which none can be left out.
func Contradiction(sets []Set) []int {
	if len(sets) == 0 {
		return nil
	}
	all := sets[0]
	for _, s := range sets[1:] {
		all = all.Intersect(s)
	}
	if !all.IsEmpty() {
		return nil
	}
	different := distinct(sets)
	for size := 1; size <= len(different); size++ {
		if combinations(len(different), size) > mostTried {
			return irreducible(sets, different)
		}
		if found := contradicting(sets, different, size, All(sets[0].scheme)); found != nil {
			return found
		}
	}
	return nil
}

// combinations is n choose k, or more than mostTried.
func combinations(n, k int) int {
	out := 1
	for i := range k {
		if out = out * (n - i) / (i + 1); out > mostTried {
			return out
		}
	}
	return out
}

// irreducible picks sets of which none can be left out. The set that leaves nothing when
// all before it hold is needed; with it the same is asked of those before.
func irreducible(sets []Set, among []int) []int {
	var out []int
	within := All(sets[among[0]].scheme)
	for !within.IsEmpty() {
		together := within
		for n, i := range among {
			if together = together.Intersect(sets[i]); together.IsEmpty() {
				out, among, within = append(out, i), among[:n], within.Intersect(sets[i])
				break
			}
		}
	}
	slices.Sort(out)
	return out
}

// distinct are the indexes of sets that are not equal to an earlier one.
func distinct(sets []Set) []int {
	var out []int
	for i, s := range sets {
		repeated := false
		for _, j := range out {
			repeated = repeated || sets[j].Equal(s)
		}
		if !repeated {
			out = append(out, i)
		}
	}
	return out
}

// contradicting finds size of the sets that share nothing with each other inside within.
func contradicting(sets []Set, among []int, size int, within Set) []int {
	for n, i := range among {
		rest := within.Intersect(sets[i])
		if size == 1 {
			if rest.IsEmpty() {
				return []int{i}
			}
			continue
		}
		if found := contradicting(sets, among[n+1:], size-1, rest); found != nil {
			return append([]int{i}, found...)
		}
	}
	return nil
}
