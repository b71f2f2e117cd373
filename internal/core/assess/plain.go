package assess

import (
	"slices"

	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// jointly reports what cannot hold together although no rule alone is broken.
func (v *viewCheck) jointly() {
	if v.plainly() {
		return
	}
	j := v.joint()
	if !j.Decided && !j.Feasible && len(j.Conflict) == 0 {
		b := &Broken{}
		for n := range v.Tools {
			b.Ends = append(b.Ends, v.allOf(n))
		}
		v.undecided(b, "joint")
		return
	}
	if j.Feasible || !slices.ContainsFunc(j.Conflict, func(i rule.Item) bool { return i.Rule }) {
		return
	}
	b := &Broken{Sure: true, Chain: j.Chain}
	cause := ""
	for _, l := range j.Chain {
		switch {
		case l.Rule != nil:
			if b.Rule == nil || l.Rule.Severity == "error" {
				b.Rule = l.Rule
			}
			cause += l.Rule.Name + " "
		case l.End.Of == OfPart:
			b.Ends = append(b.Ends, BrokenEnd{TieEnd: l.End, Set: v.Parts[l.End.N].Set})
			b.Sure = b.Sure && v.Parts[l.End.N].Sure
		case l.Baseline == nil:
			b.Ends = append(b.Ends, BrokenEnd{TieEnd: l.End, Claims: []int{l.Claim}})
		}
	}
	v.verdicts = append(v.verdicts, Verdict{Class: &toolsIncompatible, Kind: JointTogether, Machines: v.everyone(), Tied: b, Cause: cause})
}

// plainly reports whether it can be told without search that all can hold together: rules on
// one tool leave something of what is asked for, and so do those that tie tools together, pair
// by pair, where no pairs make a ring.
func (v *viewCheck) plainly() bool {
	left := make([]version.Set, len(v.Tools))
	for i, t := range v.Tools {
		left[i] = version.All(t.Tool.Scheme())
		if !v.asked[i].IsZero() {
			left[i] = v.asked[i].Set
		}
	}
	v.demanded(left)
	var pairs []toolPair
	for i := range v.Ties {
		if !v.narrow(&v.Ties[i], left, &pairs) {
			return false
		}
	}
	for i := range left {
		if left[i].IsEmpty() || !v.asked[i].IsZero() && !left[i].Meets(v.asked[i].Set) {
			return false
		}
	}
	if apart(pairs, len(left)) {
		return !slices.ContainsFunc(pairs, func(p toolPair) bool {
			return !v.book.Joined(p.rules).Admits([]rule.Value{{Set: left[p.a]}, {Set: left[p.b]}})
		})
	}
	return forest(pairs, len(left)) && agree(v.book, pairs, left)
}

// apart reports whether no tool is in two pairs.
func apart(pairs []toolPair, n int) bool {
	seen := make([]bool, n)
	for _, p := range pairs {
		if seen[p.a] || seen[p.b] {
			return false
		}
		seen[p.a], seen[p.b] = true, true
	}
	return true
}

// demanded takes from what is left of each tool what adopted baselines do not demand; where
// that leaves nothing it is told by itself.
func (v *viewCheck) demanded(left []version.Set) {
	for _, b := range v.Baselines[:v.Adopted] {
		for _, d := range b.Demands {
			if n := slices.IndexFunc(v.Tools, func(t ToolEnd) bool { return t.Tool.Name == d.Name }); n >= 0 && left[n].Meets(d.Set) {
				left[n] = left[n].Intersect(d.Set)
			}
		}
	}
}

// toolPair is two tools with the rules that tie them together, whose ends are in their order.
type toolPair struct {
	a, b  int
	rules []*rule.Rule
}

// narrow takes from what is left of a tool what a rule on it alone leaves, and notes rules on
// two tools. It reports false of a rule of another kind.
func (v *viewCheck) narrow(t *Tie, left []version.Set, pairs *[]toolPair) bool {
	tools := make([]int, 0, 2)
	values := make([]rule.Value, len(t.Ends))
	if t.Rule.Brings && !t.Rule.Fixed && v.pinned(t, 1) {
		return true
	}
	for k, e := range t.Ends {
		switch {
		case e.Of == OfPart:
			values[k].Set = v.Parts[e.N].Set
		case e.Of == OfTool && v.elsewhere(t, k), e.Of == OfLabel, e.Of == OfTheMachine:
			return true // it was looked at by itself
		case e.Of == OfTool:
			tools = append(tools, k)
		default:
			return false
		}
	}
	switch {
	case len(tools) == 1:
		n := t.Ends[tools[0]].N
		left[n] = left[n].Intersect(t.Rule.Left(tools[0], values))
		return true
	case len(tools) != 2 || len(t.Ends) != 2:
		return false
	}
	a, b := t.Ends[0].N, t.Ends[1].N
	for i := range *pairs {
		if p := &(*pairs)[i]; p.a == a && p.b == b || p.a == b && p.b == a {
			p.rules = append(p.rules, t.Rule)
			return true
		}
	}
	*pairs = append(*pairs, toolPair{a, b, []*rule.Rule{t.Rule}})
	return true
}

// forest reports whether no pairs make a ring.
func forest(pairs []toolPair, n int) bool {
	part := make([]int, n)
	for i := range part {
		part[i] = i
	}
	root := func(i int) int {
		for part[i] != i {
			i = part[i]
		}
		return i
	}
	for _, p := range pairs {
		a, b := root(p.a), root(p.b)
		if a == b {
			return false
		}
		part[a] = b
	}
	return true
}

// agree reports whether something is left of every tool once each pair has narrowed the
// other's versions as far as it can: where no pairs make a ring, some choice then holds.
func agree(book *rule.Book, pairs []toolPair, left []version.Set) bool {
	for range len(pairs) + 1 {
		changed := false
		for _, p := range pairs {
			one := book.Joined(p.rules)
			for end, n := range []int{p.a, p.b} {
				values := []rule.Value{{Set: left[p.a]}, {Set: left[p.b]}}
				narrowed := left[n].Intersect(one.Left(end, values))
				if narrowed.IsEmpty() {
					return false
				}
				if !left[n].SubsetOf(narrowed) {
					left[n], changed = narrowed, true
				}
			}
		}
		if !changed {
			return true
		}
	}
	return true
}
