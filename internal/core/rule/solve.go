package rule

import "slices"

// Solve finds the joint answer: whether all can hold together, the smallest conflict where
// they cannot, and the best choices where those that were made may be made anew.
func (w *World) Solve() Answer {
	w = w.reduced()
	steps := mostSteps
	out := Answer{Decided: true}
	found, ok := w.search(all, &steps).any()
	if !ok {
		return Answer{}
	}
	if out.Feasible = found; !found {
		if out.Conflict, out.Smallest = w.conflict(&steps); out.Conflict == nil {
			return Answer{}
		}
	}
	steps = mostSteps
	s := w.search(func(i Item) bool { return i.Rule || !w.Claims[i.N].Chooses }, &steps)
	prices := w.prices()
	s.price = func(v, c int) Price { return prices[v][c] }
	best, ok := s.cheapest()
	out.Decided = ok
	if ok {
		out.Best = best
	}
	return out
}

func all(Item) bool { return true }

// prices are those of each choice, with the claims counted that it asks to be changed.
func (w *World) prices() [][]Price {
	var out [][]Price
	for _, v := range w.Vars {
		out = append(out, slices.Clone(v.Prices))
	}
	for _, c := range w.Claims {
		if !c.Chooses {
			continue
		}
		for n, allowed := range c.Allows {
			if !allowed {
				out[c.Var][n][Changes]++
			}
		}
	}
	return out
}

// reduced is the world without choices that no claim and no rule tells from a cheaper one.
func (w *World) reduced() *World {
	out := *w
	out.gone = make([][]bool, len(w.Vars))
	prices := w.prices()
	for v := range w.Vars {
		out.gone[v] = make([]bool, len(w.Vars[v].Prices))
		cheapest := map[string]int{}
		for c := range w.Vars[v].Prices {
			key := w.signature(v, c)
			at, known := cheapest[key]
			switch {
			case !known:
				cheapest[key] = c
			case prices[v][c].less(prices[v][at]):
				out.gone[v][at], cheapest[key] = true, c
			default:
				out.gone[v][c] = true
			}
		}
	}
	return &out
}

// signature is how claims and rules see a choice.
func (w *World) signature(v, c int) string {
	var out []byte
	add := func(allowed bool) {
		if allowed {
			out = append(out, 1)
		} else {
			out = append(out, 0)
		}
	}
	for _, claim := range w.Claims {
		if claim.Var == v {
			add(claim.Allows[c])
		}
	}
	for _, r := range w.Rules {
		for _, row := range r.Rows {
			for _, list := range [][]Part{row.When, row.Need} {
				for _, p := range list {
					if p.Var == v {
						add(p.Allows[c])
					}
				}
			}
		}
	}
	return string(out)
}

// conflict is a smallest choice of claims and rules that cannot hold together. It lies in
// one of the parts that rules tie together; of several equally small ones it is the first.
func (w *World) conflict(steps *int) (items []Item, smallest bool) {
	smallest = true
	for _, part := range w.parts() {
		list := slices.DeleteFunc(w.items(), func(i Item) bool { return !part[w.varOf(i)] })
		found, proved := w.conflictOf(list, steps)
		smallest = smallest && proved
		if len(found) > 0 && (items == nil || len(found) < len(items)) {
			items = found
		}
	}
	return items, smallest
}

// conflictOf is a smallest conflict among some items; none where they can hold. Every
// conflict has one item at least of whatever has to be given up for the rest to hold: the
// smallest choice that hits all such sets, and is itself a conflict, is a smallest one.
// Where that is given up, all items are.
func (w *World) conflictOf(list []Item, steps *int) (items []Item, smallest bool) {
	keep := make([]bool, len(list))
	fits := func() (bool, bool) {
		return w.search(func(i Item) bool { n := slices.Index(list, i); return n >= 0 && keep[n] }, steps).any()
	}
	for n := range keep {
		keep[n] = true
	}
	if found, ok := fits(); found || !ok {
		return nil, ok
	}
	var given [][]int // each must be hit
	for {
		hit, ok := hitting(given, len(list))
		if !ok {
			return list, false
		}
		clear(keep)
		for _, n := range hit {
			keep[n] = true
		}
		found, ok := fits()
		switch {
		case !ok:
			return list, false
		case !found:
			return chosen(list, keep), true
		}
		var rest []int
		for n := range list {
			if keep[n] {
				continue
			}
			keep[n] = true
			found, ok := fits()
			if !ok {
				return list, false
			}
			if !found {
				keep[n] = false
				rest = append(rest, n)
			}
		}
		given = append(given, rest)
	}
}

func (w *World) varOf(i Item) int {
	if !i.Rule {
		return w.Claims[i.N].Var
	}
	if vars := w.Rules[i.N].vars(); len(vars) > 0 {
		return vars[0]
	}
	return 0 // it says nothing, wherever it is
}

// parts are the variables that rules tie together, part by part.
func (w *World) parts() [][]bool {
	part := make([]int, len(w.Vars))
	for v := range part {
		part[v] = v
	}
	var root func(int) int
	root = func(v int) int {
		if part[v] != v {
			part[v] = root(part[v])
		}
		return part[v]
	}
	for i := range w.Rules {
		vars := w.Rules[i].vars()
		for n := 1; n < len(vars); n++ {
			part[root(vars[n])] = root(vars[0])
		}
	}
	var out [][]bool
	at := map[int]int{}
	for v := range part {
		n, known := at[root(v)]
		if !known {
			n = len(out)
			at[root(v)] = n
			out = append(out, make([]bool, len(part)))
		}
		out[n][v] = true
	}
	return out
}

func chosen(list []Item, keep []bool) []Item {
	var out []Item
	for n, i := range list {
		if keep[n] {
			out = append(out, i)
		}
	}
	return out
}

// mostHits is how many choices are tried for a hitting set.
const mostHits = 200_000

// hitting is a smallest choice of n that hits each of some sets; false where it was given up.
func hitting(sets [][]int, n int) ([]int, bool) {
	steps := mostHits
	for size := 0; size <= n; size++ {
		found, ok := hit(sets, nil, size, &steps)
		if !ok {
			return nil, false
		}
		if found != nil {
			slices.Sort(found)
			return found, true
		}
	}
	return nil, false
}

func hit(sets [][]int, so []int, size int, steps *int) ([]int, bool) {
	if *steps--; *steps < 0 {
		return nil, false
	}
	open := slices.IndexFunc(sets, func(set []int) bool {
		return !slices.ContainsFunc(set, func(n int) bool { return slices.Contains(so, n) })
	})
	if open < 0 {
		return append([]int{}, so...), true
	}
	if size == 0 {
		return nil, true
	}
	for _, n := range sets[open] {
		found, ok := hit(sets, append(so[:len(so):len(so)], n), size-1, steps)
		if found != nil || !ok {
			return found, ok
		}
	}
	return nil, true
}
