package rule

import "slices"

// World is all that is said of one folder, as finite choices: for every tool and component
// the versions that there are to choose from, what each claim leaves of them, and what each
// rule asks of several together. What it holds is found before; here is only logic.
type World struct {
	Vars   []Var
	Claims []Claim
	Rules  []Tied
	gone   [][]bool // choices that need not be tried
}

// Var is a tool or component for which a version is chosen, with the price of each choice.
type Var struct {
	Name   string
	Prices []Price
}

// Price is what speaks against a choice, what counts most first: support that has ended,
// support that ends too soon, claims that have to be changed, machines that lack it, how soon
// its line ends or how far it is from what is asked for, how old it is.
type Price [6]int

// The parts of a price.
const (
	Ended = iota
	Short
	Changes
	Lacking
	Distance
	Age
)

func (p Price) add(o Price) Price {
	for i := range p {
		p[i] += o[i]
	}
	return p
}

func (p Price) less(o Price) bool {
	for i := range p {
		if p[i] != o[i] {
			return p[i] < o[i]
		}
	}
	return false
}

// Claim is what one claim leaves of a variable's choices.
type Claim struct {
	Var     int
	Allows  []bool
	Chooses bool // it is a choice itself, and may be made anew
}

// Tied is a rule on the variables of a world.
type Tied struct {
	Rows []TiedRow
}

// TiedRow is one row of a rule: where all of When holds, each of Need must too.
type TiedRow struct{ When, Need []Part }

// Part is what a term leaves of a variable's choices.
type Part struct {
	Var    int
	Allows []bool
}

// Item is a claim or a rule of a world.
type Item struct {
	Rule bool
	N    int
}

// Answer is the joint answer.
type Answer struct {
	Feasible bool   // all claims and rules can hold together
	Conflict []Item // where they cannot: the smallest choice of them that cannot hold
	Best     []int  // of each variable the choice, where claims that choose may be made anew; nil where there is none
	Decided  bool   // false where the search was given up
	Smallest bool   // no smaller conflict exists
}

// items are all claims and rules.
func (w *World) items() []Item {
	var out []Item
	for i := range w.Claims {
		out = append(out, Item{false, i})
	}
	for i := range w.Rules {
		out = append(out, Item{true, i})
	}
	return out
}

// mostSteps is how many choices are tried before a search is given up.
const mostSteps = 400_000

// search looks for choices that satisfy some claims and rules of a world.
type search struct {
	*World
	left   [][]bool // choices that the claims leave of each variable
	counts []int    // how many those are
	rules  [][]int  // of each variable the rules that speak of it
	active []bool   // rules that count
	price  func(v, choice int) Price
	steps  *int
	chosen []int // -1 where not chosen yet
	best   []int
	cost   Price
	floor  []Price // the least price of the variables from a place in order on
	order  []int
}

func (w *World) search(keep func(Item) bool, steps *int) *search {
	s := &search{World: w, steps: steps, active: make([]bool, len(w.Rules)), rules: make([][]int, len(w.Vars))}
	for v := range w.Vars {
		left, count := make([]bool, len(w.Vars[v].Prices)), 0
		for c := range left {
			if left[c] = w.gone == nil || !w.gone[v][c]; left[c] {
				count++
			}
		}
		s.left, s.counts = append(s.left, left), append(s.counts, count)
	}
	for i, c := range w.Claims {
		if !keep(Item{false, i}) {
			continue
		}
		for n, was := range s.left[c.Var] {
			if was && !c.Allows[n] {
				s.left[c.Var][n] = false
				s.counts[c.Var]--
			}
		}
	}
	for i := range w.Rules {
		if s.active[i] = keep(Item{true, i}); s.active[i] {
			for _, v := range w.Rules[i].vars() {
				s.rules[v] = append(s.rules[v], i)
			}
		}
	}
	s.chosen = make([]int, len(w.Vars))
	for v := range w.Vars {
		s.chosen[v] = -1
		s.order = append(s.order, v)
	}
	slices.SortStableFunc(s.order, func(a, b int) int { return s.counts[a] - s.counts[b] })
	return s
}

// vars are the variables that a rule speaks of, each once.
func (t *Tied) vars() []int {
	var out []int
	for _, row := range t.Rows {
		for _, p := range slices.Concat(row.When, row.Need) {
			if !slices.Contains(out, p.Var) {
				out = append(out, p.Var)
			}
		}
	}
	return out
}

// holds reports whether a rule can hold with what is chosen so far.
func (s *search) holds(rule int) bool {
	for _, row := range s.Rules[rule].Rows {
		sure := true
		for _, p := range row.When {
			if c := s.chosen[p.Var]; c < 0 || !p.Allows[c] {
				sure = false
				break
			}
		}
		if !sure {
			continue
		}
		for _, p := range row.Need {
			if c := s.chosen[p.Var]; c >= 0 && !p.Allows[c] {
				return false
			}
		}
	}
	return true
}

// fits reports whether all rules that speak of a variable can hold.
func (s *search) fits(v int) bool {
	return !slices.ContainsFunc(s.rules[v], func(r int) bool { return !s.holds(r) })
}

// any looks for any choices; ok is false where it was given up.
func (s *search) any() (found, ok bool) { return s.tryAny(0) }

func (s *search) tryAny(depth int) (found, ok bool) {
	if depth == len(s.order) {
		return true, true
	}
	v := s.order[depth]
	if len(s.rules[v]) == 0 { // nothing but its claims speaks of it
		if s.counts[v] == 0 {
			return false, true
		}
		return s.tryAny(depth + 1)
	}
	defer func() { s.chosen[v] = -1 }()
	for c, left := range s.left[v] {
		if !left {
			continue
		}
		if *s.steps--; *s.steps < 0 {
			return false, false
		}
		if s.chosen[v] = c; !s.fits(v) {
			continue
		}
		if found, ok := s.tryAny(depth + 1); found || !ok {
			return found, ok
		}
	}
	return false, true
}

// cheapest looks for the choices of the least price; nil where there are none.
func (s *search) cheapest() (best []int, ok bool) {
	s.floor = make([]Price, len(s.order)+1)
	sorted := make([][]int, len(s.Vars))
	for depth := len(s.order) - 1; depth >= 0; depth-- {
		v := s.order[depth]
		for c, left := range s.left[v] {
			if left {
				sorted[v] = append(sorted[v], c)
			}
		}
		if len(sorted[v]) == 0 {
			return nil, true
		}
		slices.SortStableFunc(sorted[v], func(a, b int) int {
			if s.price(v, a).less(s.price(v, b)) {
				return -1
			}
			if s.price(v, b).less(s.price(v, a)) {
				return 1
			}
			return 0
		})
		s.floor[depth] = s.floor[depth+1].add(s.price(v, sorted[v][0]))
	}
	ok = s.tryCheap(0, Price{}, sorted)
	return s.best, ok
}

func (s *search) tryCheap(depth int, so Price, sorted [][]int) (ok bool) {
	if s.best != nil && !so.add(s.floor[depth]).less(s.cost) {
		return true
	}
	if depth == len(s.order) {
		s.best, s.cost = slices.Clone(s.chosen), so
		return true
	}
	v := s.order[depth]
	defer func() { s.chosen[v] = -1 }()
	for _, c := range sorted[v] {
		if *s.steps--; *s.steps < 0 {
			return false
		}
		price := so.add(s.price(v, c))
		if s.best != nil && !price.add(s.floor[depth+1]).less(s.cost) {
			return true // those that follow cost no less
		}
		if s.chosen[v] = c; !s.fits(v) {
			continue
		}
		if !s.tryCheap(depth+1, price, sorted) {
			return false
		}
	}
	return true
}

// Holds reports whether some choices satisfy all rules, and those claims that count.
func (w *World) Holds(choices []int, counts func(Claim) bool) bool {
	for _, c := range w.Claims {
		if counts(c) && !c.Allows[choices[c.Var]] {
			return false
		}
	}
	s := search{World: w, chosen: choices}
	for i := range w.Rules {
		if !s.holds(i) {
			return false
		}
	}
	return true
}
