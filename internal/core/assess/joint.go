package assess

import (
	"cmp"
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// Joint is the joint answer over all tools of a folder: whether all that is said there can
// hold together, what cannot, and the best versions.
type Joint struct {
	rule.Answer
	Chain   []Link        // the conflict, claims and the rules between them
	Beyond  [][]Link      // conflicts that no choice of versions settles; the answer is without their rules
	Rows    [][]*rule.Row // of each of the case's ties the rows that may apply to what is asked for
	Held    []bool        // of each of the case's ties whether it can hold by itself
	Choices []Chosen      // of each tool the best version; none where there is no answer
}

// Link is a claim, a baseline's demand or a rule of a conflict.
type Link struct {
	End      TieEnd // whose claim or demand it is
	Claim    int    // place among the tool's pins and behind them its bounds; -1 of a component
	Rule     *rule.Rule
	Rows     []*rule.Row
	Baseline *rule.Baseline
	Demand   *rule.Demand
	Ends     []TieEnd // of the rule
}

// Chosen is the version of one tool in the joint answer.
type Chosen struct {
	Tool    int
	Version string          // the one that is meant, for one
	Text    string          // what to write: a line where all of it will do
	Line    *catalogue.Line // nil where none is recorded
	Claims  []int           // pins that have to say it from now on
	Set     version.Set     // that Text means
	Advised bool            // the tool's other findings advise it too
	Least   bool            // it is the first version that will do, and newer ones may be there
	Lacking resolve.Machines
}

// Move is a choice that asks for a change.
type Move = Chosen

// joint is the joint answer, found once.
func (v *viewCheck) joint() *Joint {
	if v.answer == nil {
		v.answer = v.world().solve()
	}
	return v.answer
}

// solve finds the answer and says it in the folder's own terms.
func (w *worldOf) solve() *Joint {
	out := &Joint{Answer: w.settled()}
	for i := range w.viewCheck.Ties {
		t := &w.viewCheck.Ties[i]
		values := w.values(t)
		out.Rows, out.Held = append(out.Rows, t.Rule.Applying(values)), append(out.Held, t.Rule.Admits(values))
	}
	out.Chain = w.chain(out.Conflict)
	for _, items := range w.beyond {
		out.Beyond = append(out.Beyond, w.chain(items))
	}
	if out.Best == nil {
		return out
	}
	for n, x := range w.vars {
		if x.end.Of == OfTool && !x.known[out.Best[n]].IsZero() && !w.Tools[x.end.N].Brought {
			out.Choices = append(out.Choices, w.chosen(n, out.Best))
		}
	}
	return out
}

// settled is the answer of the world. Where no choice of versions satisfies all that cannot
// be chosen anew, the rules that this breaks are left out, one conflict at a time, so that
// the rest is answered too.
func (w *worldOf) settled() rule.Answer {
	out := w.Solve()
	for w.rest = w.World; out.Decided && out.Best == nil; {
		hard := w.rest
		hard.Claims = slices.Clone(w.Claims)
		for i := range hard.Claims {
			if hard.Claims[i].Chooses {
				hard.Claims[i].Allows = slices.Repeat([]bool{true}, len(hard.Claims[i].Allows))
			}
		}
		conflict := hard.Solve().Conflict
		broken := slices.IndexFunc(conflict, func(i rule.Item) bool { return i.Rule })
		if broken < 0 {
			break
		}
		w.beyond = append(w.beyond, conflict)
		w.rest.Rules = slices.Clone(w.rest.Rules)
		for _, i := range conflict {
			if i.Rule {
				w.rest.Rules[i.N] = rule.Tied{Rows: []rule.TiedRow{}}
			}
		}
		again := w.rest.Solve()
		out.Best, out.Decided = again.Best, again.Decided
	}
	return out
}

// chain puts a conflict in the order in which it is followed: what a rule rests on, the rule,
// and what it asks something of.
func (w *worldOf) chain(items []rule.Item) []Link {
	var out []Link
	told := map[int]bool{}
	tell := func(vars []int) {
		for _, v := range vars {
			for _, i := range items {
				if !i.Rule && w.Claims[i.N].Var == v && !told[i.N] {
					told[i.N] = true
					out = append(out, w.links[i.N])
				}
			}
		}
	}
	for _, i := range items {
		if !i.Rule {
			continue
		}
		t := w.ties[i.N]
		var when, need []int
		for _, row := range w.Rules[i.N].Rows {
			for _, p := range row.When {
				when = append(when, p.Var)
			}
			for _, p := range row.Need {
				need = append(need, p.Var)
			}
		}
		tell(when)
		out = append(out, Link{Claim: -1, Rule: t.Rule, Rows: t.Rule.Applying(w.conflicting(t, items)), Ends: t.Ends})
		tell(need)
	}
	for _, i := range items {
		if !i.Rule && !told[i.N] {
			out = append(out, w.links[i.N])
		}
	}
	return out
}

// conflicting is what the claims of a conflict ask for at a rule's ends.
func (w *worldOf) conflicting(t *Tie, items []rule.Item) []rule.Value {
	out := make([]rule.Value, len(t.Ends))
	for _, i := range items {
		if i.Rule {
			continue
		}
		x := w.vars[w.Claims[i.N].Var]
		if end := t.Rule.Speaks(x.name); end >= 0 {
			set := x.sets[w.claimed[i.N]]
			if !out[end].IsZero() && out[end].Set.Meets(set) {
				set = set.Intersect(out[end].Set)
			}
			out[end].Set = set
		}
	}
	return out
}

// chosen is what a choice asks for: the pins that do not allow it have to say it.
func (w *worldOf) chosen(n int, best []int) Chosen {
	x := w.vars[n]
	v, l := x.known[best[n]], x.lines[best[n]]
	out := Chosen{Tool: x.end.N, Version: v.String(), Text: v.String(), Line: l, Set: version.Exactly(v)}
	out.Least = l == nil && !slices.ContainsFunc(w.toolings[x.end.N].Versions, func(o version.Version) bool { return o.Compare(v) == 0 })
	if l != nil && w.wholly(n, l, best) {
		out.Text, out.Set = l.Line, l.Set()
	}
	w.advised(n, best, &out)
	for i, c := range w.Claims {
		if c.Var == n && c.Chooses && !x.admits(&c, out.Line, best[n], out.Text) {
			out.Claims = append(out.Claims, w.links[i].Claim)
		}
	}
	pins := w.tools[x.end.N].Resolved.Pins
	if len(pins) == 0 || !pins[0].Brings {
		out.Lacking = w.toolings[x.end.N].Lacking(out.Set, build(pins))
	}
	return out
}

// admits reports whether a claim admits what is chosen: the line where all of that is meant,
// otherwise the cell.
func (x *variable) admits(c *rule.Claim, l *catalogue.Line, cell int, text string) bool {
	if l == nil || text != l.Line {
		return c.Allows[cell]
	}
	for i := range x.cells {
		if x.lines[i] == l && c.Allows[i] {
			return true
		}
	}
	return false
}

// advised takes the line that the tool's other findings advise, where that does as well:
// two remedies of one tool agree.
func (w *worldOf) advised(n int, best []int, c *Chosen) {
	a := w.tools[c.Tool].advised
	if a == nil || a.Line == nil || a.Text != a.Line.Line || !w.wholly(n, a.Line, best) {
		return
	}
	c.Line, c.Text, c.Set, c.Advised = a.Line, a.Text, a.Set, true
	c.Version = cmp.Or(a.Exact, a.Text)
}

// wholly reports whether every release of a line will do, the other choices being as they are.
func (w *worldOf) wholly(n int, l *catalogue.Line, best []int) bool {
	x := w.vars[n]
	with := slices.Clone(best)
	if !slices.Contains(x.lines, l) {
		return false
	}
	for i := range x.cells {
		if x.lines[i] != l {
			continue
		}
		if with[n] = i; !w.rest.Holds(with, func(c rule.Claim) bool { return !c.Chooses }) {
			return false
		}
	}
	return true
}
