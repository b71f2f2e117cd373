package rule

import (
	"fmt"
	"slices"
	"strings"
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
	return append(out, contradictions(rules)...)
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

// contradictions are rows of two rules that have conditions on the same things, can hold
// together, and ask for what cannot.
func contradictions(rules []*Rule) []Problem {
	type placed struct {
		rule *Rule
		row  *Row
	}
	alike := map[string][]placed{}
	var out []Problem
	for _, r := range rules {
		for i := range r.Rows {
			row := &r.Rows[i]
			key := r.about(row.When)
			for _, was := range alike[key] {
				if was.rule != r {
					out = append(out, r.contradicts(row, was.rule, was.row)...)
				}
			}
			alike[key] = append(alike[key], placed{r, row})
		}
	}
	return out
}

// about names what terms speak of.
func (r *Rule) about(terms []Term) string {
	names := make([]string, len(terms))
	for i, t := range terms {
		names[i] = r.Ends[t.End].Name
	}
	slices.Sort(names)
	return strings.Join(names, " ")
}

func (r *Rule) contradicts(row *Row, other *Rule, was *Row) []Problem {
	need, before := named(r, row.Need), named(other, was.Need)
	var out []Problem
	for _, name := range sortedKeys(need) {
		if t, speaks := before[name]; speaks && apart(need[name], t) && overlapping(named(r, row.When), named(other, was.When)) {
			out = append(out, r.problem(row.At, "it contradicts %s (%s): where both apply, no %s is both %s and %s", other.Name, was.At, name, t.Text, need[name].Text))
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
