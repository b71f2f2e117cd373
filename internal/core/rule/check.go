package rule

import (
	"fmt"
	"slices"
)

// check finds what is wrong with rules beside each other: names that stand twice, rows that
// can never apply, rows of one table that overlap, rules that contradict each other.
func check(rules []*Rule) []Problem {
	var out []Problem
	named := map[string]*Rule{}
	for _, r := range rules {
		if was := named[r.Name]; was != nil {
			out = append(out, r.problem(r.At, "the rule %s stands in %s already", r.Name, was.At))
			continue
		}
		named[r.Name] = r
		out = append(out, r.checkRows()...)
	}
	for i, r := range rules {
		for _, other := range rules[:i] {
			out = append(out, contradictions(other, r)...)
		}
	}
	return out
}

func (r *Rule) problem(at Place, format string, args ...any) Problem {
	return Problem{at, 1, fmt.Sprintf(format, args...)}
}

// checkRows compares the rows of one rule.
func (r *Rule) checkRows() []Problem {
	var out []Problem
	for i := range r.Rows {
		row := &r.Rows[i]
		for _, need := range row.Need {
			if slices.ContainsFunc(row.When, func(w Term) bool { return w.End == need.End }) {
				out = append(out, r.problem(row.At, "%s stands on both sides of a rule", r.Ends[need.End].Name))
			}
		}
		for k := range r.Rows[:i] {
			earlier := &r.Rows[k]
			switch {
			case !together(row.When, earlier.When):
			case within(row.When, earlier.When):
				out = append(out, r.problem(row.At, "this row can never decide: %s says it of the same versions already", earlier.At))
			default:
				out = append(out, r.problem(row.At, "this row and %s speak of the same versions; part them", earlier.At))
			}
		}
	}
	return out
}

// contradictions are rows of two rules on the same things that can hold together and whose
// needs cannot.
func contradictions(a, b *Rule) []Problem {
	var out []Problem
	for i := range b.Rows {
		for k := range a.Rows {
			when, earlier := named(b, b.Rows[i].When), named(a, a.Rows[k].When)
			if !sameNames(when, earlier) || !overlapping(when, earlier) {
				continue
			}
			need, other := named(b, b.Rows[i].Need), named(a, a.Rows[k].Need)
			for _, name := range sortedKeys(need) {
				if was, speaks := other[name]; speaks && apart(need[name], was) {
					out = append(out, b.problem(b.Rows[i].At, "it contradicts %s (%s): where both apply, no %s is both %s and %s", a.Name, a.Rows[k].At, name, was.Text, need[name].Text))
				}
			}
		}
	}
	return out
}

func named(r *Rule, terms []Term) map[string]Term {
	out := map[string]Term{}
	for _, t := range terms {
		out[r.Ends[t.End].Name] = t
	}
	return out
}

func sameNames(a, b map[string]Term) bool {
	return slices.Equal(sortedKeys(a), sortedKeys(b))
}

func overlapping(a, b map[string]Term) bool {
	for name, t := range a {
		if apart(t, b[name]) {
			return false
		}
	}
	return true
}

// apart reports whether two terms of one thing can never both hold.
func apart(a, b Term) bool {
	if a.Word != "" || b.Word != "" {
		return a.Word != b.Word
	}
	return !a.Set.Meets(b.Set)
}

// together reports whether two conditions of one rule can both hold.
func together(a, b []Term) bool {
	for _, t := range a {
		for _, o := range b {
			if t.End == o.End && apart(t, o) {
				return false
			}
		}
	}
	return true
}

// within reports whether a condition holds only where another does.
func within(a, b []Term) bool {
	return !slices.ContainsFunc(b, func(o Term) bool {
		return !slices.ContainsFunc(a, func(t Term) bool {
			return t.End == o.End && t.Word == o.Word && t.Set.WithoutPrereleases().SubsetOf(o.Set)
		})
	})
}
