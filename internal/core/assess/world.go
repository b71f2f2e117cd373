package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// variable is one tool or component of a world.
type variable struct {
	end    TieEnd
	name   string
	scheme version.Scheme
	sets   []version.Set // by which its versions are told apart
	cells  []version.Cell
	known  []version.Version // of each cell the version that stands for it; zero where none is known
	there  []bool            // of each cell whether that is installed somewhere
	lines  []*catalogue.Line
}

// worldOf is a folder as a world.
type worldOf struct {
	*viewCheck
	rule.World
	vars    []*variable
	at      map[string]int
	links   []Link // of each of the world's claims
	claimed []int  // of each of them the place among its variable's sets
	ties    []*Tie
	beyond  [][]rule.Item
	rest    rule.World // without the rules that no choice of versions satisfies
	parts   [][][]int  // of each tie's rows the places of its terms among the sets: when, then need
}

func (v *viewCheck) world() *worldOf {
	w := &worldOf{viewCheck: v, at: map[string]int{}}
	for i, t := range v.Tools {
		w.variable(TieEnd{OfTool, i}, t.Tool.Name, t.Tool.Scheme())
		w.toolClaims(i)
	}
	for i, p := range v.Parts {
		n := w.variable(TieEnd{OfPart, i}, p.Name, p.Set.Scheme())
		w.claim(n, p.Set, false, Link{End: TieEnd{OfPart, i}, Claim: -1})
	}
	for _, b := range v.Baselines[:v.Adopted] {
		for k := range b.Demands {
			d := &b.Demands[k]
			if n, there := w.at[d.Name]; there {
				w.claim(n, d.Set, false, Link{End: w.vars[n].end, Claim: -1, Baseline: b, Demand: d})
			}
		}
	}
	for i := range v.Ties {
		if t := &v.Ties[i]; w.speaks(t) {
			w.ties = append(w.ties, t)
		}
	}
	w.divide()
	return w
}

func (w *worldOf) variable(end TieEnd, name string, s version.Scheme) int {
	w.at[name] = len(w.vars)
	w.vars = append(w.vars, &variable{end: end, name: name, scheme: s})
	return len(w.vars) - 1
}

// toolClaims adds what pins and bounds say of a tool. Bounds cannot be made anew, pins can.
func (w *worldOf) toolClaims(tool int) {
	r := w.tools[tool].Resolved
	for i := range len(r.Pins) + len(r.Bounds) {
		s := r.At(i)
		if !s.Judges() || s.Set.IsAll() || s.Unknown != "" || s.Set.IsEmpty() {
			continue
		}
		w.claim(w.at[w.Tools[tool].Tool.Name], s.Set, i < len(r.Pins), Link{End: TieEnd{OfTool, tool}, Claim: i})
	}
}

func (w *worldOf) claim(n int, set version.Set, chooses bool, l Link) {
	w.Claims = append(w.Claims, rule.Claim{Var: n, Chooses: chooses})
	w.links = append(w.links, l)
	w.claimed = append(w.claimed, w.vars[n].put(set))
}

// put is the place of a set among those by which versions are told apart.
func (x *variable) put(set version.Set) int {
	x.sets = append(x.sets, set)
	return len(x.sets) - 1
}

// speaks reports whether a rule can be part of the world: it speaks of versions alone, and of
// those that the folder's claims are about.
func (w *worldOf) speaks(t *Tie) bool {
	if t.Rule.Brings && !t.Rule.Fixed && w.pinned(t, 1) {
		return false
	}
	for i, e := range t.Ends {
		if e.Of == OfLabel || e.Of == OfTheMachine || w.elsewhere(t, i) {
			return false
		}
	}
	return true
}

// divide parts each variable's order by all that is said, and says what each part means.
func (w *worldOf) divide() {
	for _, t := range w.ties {
		var rows [][]int
		for i := range t.Rule.Rows {
			var places []int
			for _, term := range slices.Concat(t.Rule.Rows[i].When, t.Rule.Rows[i].Need) {
				place := -1
				if n, there := w.at[t.Rule.Ends[term.End].Name]; there {
					place = w.vars[n].put(term.Set)
				}
				places = append(places, place)
			}
			rows = append(rows, places)
		}
		w.parts = append(w.parts, rows)
	}
	for _, x := range w.vars {
		w.Vars = append(w.Vars, w.choices(x))
	}
	for i := range w.Claims {
		c := &w.Claims[i]
		c.Allows = w.vars[c.Var].allows(w.claimed[i])
	}
	for i, t := range w.ties {
		w.Rules = append(w.Rules, w.tied(t, w.parts[i]))
	}
}

// allows are the cells that a set meets.
func (x *variable) allows(place int) []bool {
	out := make([]bool, len(x.cells))
	for i, c := range x.cells {
		out[i] = c.In[place] || len(x.sets[place].Intervals()) == 0 && c.Overlaps(x.sets[place])
	}
	return out
}

func (w *worldOf) tied(t *Tie, places [][]int) rule.Tied {
	var out rule.Tied
	for i := range t.Rule.Rows {
		row := &t.Rule.Rows[i]
		var one rule.TiedRow
		whole := true
		for k, term := range slices.Concat(row.When, row.Need) {
			n, there := w.at[t.Rule.Ends[term.End].Name]
			if !there {
				whole = whole && k >= len(row.When)
				continue
			}
			part := rule.Part{Var: n, Allows: w.vars[n].allows(places[i][k])}
			if k < len(row.When) {
				one.When = append(one.When, part)
			} else {
				one.Need = append(one.Need, part)
			}
		}
		if whole && len(one.Need) > 0 {
			out.Rows = append(out.Rows, one)
		}
	}
	return out
}

// choices are the cells of a variable with their prices. Versions that were never released
// are none, unless they are installed somewhere.
func (w *worldOf) choices(x *variable) rule.Var {
	out := rule.Var{Name: x.name}
	if x.end.Of == OfPart {
		x.cells = version.Cells(version.All(x.scheme), x.sets)
		x.known, x.lines = make([]version.Version, len(x.cells)), make([]*catalogue.Line, len(x.cells))
		out.Prices = make([]rule.Price, len(x.cells))
		return out
	}
	tool, tooling := w.Tools[x.end.N].Tool, w.toolings[x.end.N]
	sets := slices.Clone(x.sets)
	for _, l := range tool.Lines {
		sets = append(sets, l.Set())
	}
	for _, v := range tooling.Versions {
		sets = append(sets, version.Exactly(v))
	}
	for _, c := range version.Cells(version.All(x.scheme), sets) {
		known, there := newestIn(c.Set, tool, tooling, w.on)
		if !there && tool.Unreleased(c.WithoutPrereleases(), w.on) != "" {
			continue
		}
		x.cells, x.known, x.there = append(x.cells, c), append(x.known, known), append(x.there, there)
		x.lines = append(x.lines, lineOf(c.Set, tool))
	}
	asked := w.nearest(x)
	for i := range x.cells {
		out.Prices = append(out.Prices, w.price(x, i, asked))
	}
	return out
}

// newestIn is the newest version of a cell that is known to be: installed somewhere, the
// newest of its line, or the one with which the cell begins. There is true where it is
// installed.
func newestIn(cell version.Set, tool *catalogue.Tool, tooling *resolve.Tooling, on *day.Day) (known version.Version, there bool) {
	for _, v := range tooling.Versions { // newest first
		if cell.Contains(v) {
			return v, true
		}
	}
	for _, l := range slices.Backward(tool.Lines) {
		if v := l.Newest(); !v.IsZero() && on.Reached(l.Released.Time) && cell.Contains(v) {
			return v, false
		}
	}
	least, _ := cell.Least()
	return least, false
}

func lineOf(cell version.Set, tool *catalogue.Tool) *catalogue.Line {
	for _, l := range tool.Lines {
		if cell.SharesRelease(l.Set()) {
			return l
		}
	}
	return nil
}

// nearest is the cell in which what is asked for today lies: the newest that the deciding pin
// allows; -1 where nothing is pinned.
func (w *worldOf) nearest(x *variable) int {
	for i, c := range w.Claims {
		if w.vars[c.Var] != x || !c.Chooses {
			continue
		}
		allows := x.allows(w.claimed[i])
		for n := len(allows) - 1; n >= 0; n-- {
			if allows[n] {
				return n
			}
		}
	}
	return -1
}

// price is what speaks against a cell of a tool.
func (w *worldOf) price(x *variable, i, asked int) rule.Price {
	var p rule.Price
	tool, tooling, l := w.Tools[x.end.N], w.toolings[x.end.N], x.lines[i]
	k := &check{Case: tool.Case, Tooling: tooling, on: w.on, Resolved: w.tools[x.end.N].Resolved}
	switch {
	case l != nil && l.EndedOn(w.on), l == nil && !x.known[i].IsZero() && tool.Tool.EndedBefore(x.known[i], w.on), l == nil && x.known[i].IsZero() && len(tool.Tool.Lines) > 0:
		p[rule.Ended] = 1
	case l != nil && k.endsSoon(l):
		p[rule.Short] = 1
	}
	if pins := w.tools[x.end.N].Resolved.Pins; len(pins) == 0 || !pins[0].Brings {
		if p[rule.Lacking] = tooling.Everyone.Len(); x.there[i] {
			p[rule.Lacking] = tooling.Lacking(x.cells[i].Set, build(pins)).Len()
		}
	}
	if l != nil {
		p[rule.Distance] = k.rank(l)
	} else {
		p[rule.Distance] = w.distance(x, i, asked)
	}
	p[rule.Age] = len(x.cells) - 1 - i
	return p
}

// distance is how far a cell is from what is asked for, where no lines are recorded; a step
// down counts more than a step up.
func (w *worldOf) distance(x *variable, i, asked int) int {
	if asked < 0 {
		return 0
	}
	steps := i - asked
	if steps < 0 {
		return -2*steps + 1
	}
	return 2 * steps
}

func build(pins []resolve.Said) inventory.Build {
	if len(pins) > 0 {
		return pins[0].Build()
	}
	return inventory.Build{}
}
