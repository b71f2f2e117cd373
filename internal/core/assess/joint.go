package assess

import (
	"cmp"
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
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

// variable is one tool or component of a world.
type variable struct {
	end    TieEnd
	name   string
	scheme version.Scheme
	sets   []version.Set // by which its versions are told apart
	cells  []version.Cell
	known  []version.Version // of each cell the version that stands for it; zero where none is known
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

// joint is the joint answer, found once.
func (v *viewCheck) joint() *Joint {
	if v.answer == nil {
		v.answer = v.world().solve()
	}
	return v.answer
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
		x.cells, x.known = append(x.cells, c), append(x.known, known)
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
		p[rule.Lacking] = tooling.Lacking(x.cells[i].Set, build(pins)).Len()
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
				hard.Claims[i].Allows = anything(len(hard.Claims[i].Allows))
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

func anything(n int) []bool {
	out := make([]bool, n)
	for i := range out {
		out[i] = true
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

func (w *worldOf) values(t *Tie) []rule.Value {
	out := make([]rule.Value, len(t.Ends))
	for i := range t.Ends {
		out[i] = w.value(t, i)
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

// jointly reports what cannot hold together although no rule alone is broken.
func (v *viewCheck) jointly() {
	if v.plainly() {
		return
	}
	j := v.joint()
	if !j.Decided || j.Feasible || !slices.ContainsFunc(j.Conflict, func(i rule.Item) bool { return i.Rule }) {
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

// settle says which tool a verdict is of, what would mend it, and what it has in common with
// others.
func (v *viewCheck) settle(out *Verdict) {
	b := out.Tied
	j := v.joint()
	b.Decided = j.Decided
	tools := b.tools()
	for _, c := range j.Choices {
		if (len(c.Claims) > 0 || b.runsOutside(c)) && v.tied(c.Tool, tools) {
			b.Moves = append(b.Moves, c)
		}
	}
	out.First = v.first(b, tools)
	out.Root = Cause{Class: out.Class, Tool: out.First, About: v.about(out)}
}

// about is what a verdict has in common with those that the same change of the same claims
// mends, or where none does, with those of the same rule on the same claims.
func (v *viewCheck) about(out *Verdict) string {
	b := out.Tied
	about := ""
	for _, m := range b.Moves {
		for _, n := range m.Claims {
			about += v.Tools[m.Tool].Tool.Name + " " + v.tools[m.Tool].Resolved.At(n).Set.Canonical() + " " + m.Text + "\x00"
		}
	}
	if about != "" && b.Pack == nil {
		return about
	}
	about = out.Cause
	for _, e := range b.Ends {
		if e.Of == OfTool && len(e.Claims) > 0 {
			about += "\x00" + v.tools[e.N].Resolved.At(e.Claims[0]).Set.Canonical()
		}
	}
	return about
}

// runsOutside reports whether what would run of a tool is not what is chosen for it.
func (b *Broken) runsOutside(c Chosen) bool {
	return slices.ContainsFunc(b.Ends, func(e BrokenEnd) bool {
		return e.Of == OfTool && e.N == c.Tool && slices.ContainsFunc(e.Runs, func(r Run) bool {
			number, err := c.Set.Scheme().Parse(r.Version)
			return err == nil && !c.Set.Contains(number)
		})
	})
}

// tools are the places of those that are broken.
func (b *Broken) tools() []int {
	var out []int
	for _, e := range b.Ends {
		if (e.Of == OfTool || e.Of == OfLabel) && !slices.Contains(out, e.N) {
			out = append(out, e.N)
		}
	}
	return out
}

// tied reports whether a tool is one of some, or rules tie it to one of them.
func (v *viewCheck) tied(tool int, among []int) bool {
	reach := slices.Clone(among)
	for grown := true; grown && !slices.Contains(reach, tool); {
		grown = false
		for i := range v.Ties {
			touches := slices.ContainsFunc(v.Ties[i].Ends, func(e TieEnd) bool { return e.Of == OfTool && slices.Contains(reach, e.N) })
			for _, e := range v.Ties[i].Ends {
				if touches && e.Of == OfTool && !slices.Contains(reach, e.N) {
					reach, grown = append(reach, e.N), true
				}
			}
		}
	}
	return slices.Contains(reach, tool)
}

// first is the tool to change first: one that the answer changes, or the last that is broken.
func (v *viewCheck) first(b *Broken, tools []int) *catalogue.Tool {
	for _, m := range b.Moves {
		if slices.Contains(tools, m.Tool) {
			return v.Tools[m.Tool].Tool
		}
	}
	if len(b.Moves) > 0 {
		return v.Tools[b.Moves[0].Tool].Tool
	}
	if len(tools) > 0 {
		return v.Tools[tools[len(tools)-1]].Tool
	}
	for _, e := range b.Ends {
		if e.Of == OfPart {
			if t, known := v.book.Catalogue.ToolOf(v.Parts[e.N].Name); known {
				return t
			}
		}
	}
	return nil
}
