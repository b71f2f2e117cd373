package rule_test

import (
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"

	"wexo/internal/core/rule"
)

// world is a small random one.
func world(r *rand.Rand) *rule.World {
	w := &rule.World{}
	vars := 1 + r.IntN(4)
	some := func(n int) []bool {
		out := make([]bool, n)
		for i := range out {
			out[i] = r.IntN(3) > 0
		}
		return out
	}
	for v := range vars {
		n := 1 + r.IntN(4)
		x := rule.Var{Name: strconv.Itoa(v)}
		for range n {
			x.Prices = append(x.Prices, rule.Price{r.IntN(2), r.IntN(2), 0, r.IntN(3), r.IntN(3), r.IntN(4)})
		}
		w.Vars = append(w.Vars, x)
	}
	size := func(v int) int { return len(w.Vars[v].Prices) }
	for range r.IntN(6) {
		v := r.IntN(vars)
		w.Claims = append(w.Claims, rule.Claim{Var: v, Allows: some(size(v)), Chooses: r.IntN(2) == 0})
	}
	part := func() rule.Part { v := r.IntN(vars); return rule.Part{Var: v, Allows: some(size(v))} }
	for range r.IntN(4) {
		var t rule.Tied
		for range 1 + r.IntN(3) {
			row := rule.TiedRow{When: []rule.Part{part()}, Need: []rule.Part{part()}}
			if r.IntN(4) == 0 {
				row.When = append(row.When, part())
			}
			t.Rows = append(t.Rows, row)
		}
		w.Rules = append(w.Rules, t)
	}
	return w
}

// brute tries every choice.
func brute(w *rule.World, keep func(rule.Item) bool, each func(choice []int)) {
	choice := make([]int, len(w.Vars))
	var try func(v int)
	try = func(v int) {
		if v < len(choice) {
			for c := range w.Vars[v].Prices {
				choice[v] = c
				try(v + 1)
			}
			return
		}
		for i, c := range w.Claims {
			if keep(rule.Item{N: i}) && !c.Allows[choice[c.Var]] {
				return
			}
		}
		outside := func(p rule.Part) bool { return !p.Allows[choice[p.Var]] }
		for i, t := range w.Rules {
			for _, row := range t.Rows {
				if keep(rule.Item{Rule: true, N: i}) && !slices.ContainsFunc(row.When, outside) && slices.ContainsFunc(row.Need, outside) {
					return
				}
			}
		}
		each(choice)
	}
	try(0)
}

func fits(w *rule.World, keep func(rule.Item) bool) bool {
	found := false
	brute(w, keep, func([]int) { found = true })
	return found
}

// price is what a choice costs, the claims counted that it asks to be changed.
func price(w *rule.World, choice []int) rule.Price {
	var out rule.Price
	for v, c := range choice {
		for i, n := range w.Vars[v].Prices[c] {
			out[i] += n
		}
	}
	for _, c := range w.Claims {
		if c.Chooses && !c.Allows[choice[c.Var]] {
			out[rule.Changes]++
		}
	}
	return out
}

func items(w *rule.World) []rule.Item {
	var out []rule.Item
	for i := range w.Claims {
		out = append(out, rule.Item{N: i})
	}
	for i := range w.Rules {
		out = append(out, rule.Item{Rule: true, N: i})
	}
	return out
}

// smallest is the size of a smallest choice of items that cannot hold.
func smallest(w *rule.World) int {
	all := items(w)
	best := len(all) + 1
	for mask := range 1 << len(all) {
		size := 0
		for n := range all {
			size += mask >> n & 1
		}
		if size < best && !fits(w, func(i rule.Item) bool { return mask>>slices.Index(all, i)&1 == 1 }) {
			best = size
		}
	}
	return best
}

func everything(rule.Item) bool { return true }

// TestAgainstBruteForce: same feasibility, same optimum, and no smaller conflict exists.
// WEXO_WORLDS says how many worlds are tried.
func TestAgainstBruteForce(t *testing.T) {
	worlds := 20_000
	if text := os.Getenv("WEXO_WORLDS"); text != "" {
		worlds, _ = strconv.Atoi(text)
	}
	r := rand.New(rand.NewPCG(12, 2026))
	infeasible := 0
	for n := range worlds {
		w := world(r)
		answer := w.Solve()
		require.True(t, answer.Decided, n)
		require.Equal(t, fits(w, everything), answer.Feasible, "world %d: %+v", n, w)
		decided := func(i rule.Item) bool { return i.Rule || !w.Claims[i.N].Chooses }
		var best []int
		brute(w, decided, func(choice []int) {
			if best == nil || less(price(w, choice), price(w, best)) {
				best = slices.Clone(choice)
			}
		})
		require.Equal(t, best == nil, answer.Best == nil, "world %d", n)
		if best != nil {
			require.Equal(t, price(w, best), price(w, answer.Best), "world %d", n)
			brute(w, decided, func(choice []int) {
				if slices.Equal(choice, answer.Best) {
					best = nil
				}
			})
			require.Nil(t, best, "world %d: what is best satisfies all", n)
		}
		if answer.Feasible {
			require.Empty(t, answer.Conflict)
			continue
		}
		infeasible++
		require.True(t, answer.Smallest)
		require.False(t, fits(w, func(i rule.Item) bool { return slices.Contains(answer.Conflict, i) }), "world %d: what conflicts cannot hold", n)
		require.Len(t, answer.Conflict, smallest(w), "world %d", n)
	}
	require.Greater(t, infeasible, worlds/10)
}

func less(a, b rule.Price) bool { return slices.Compare(a[:], b[:]) < 0 }

// TestMoreRulesNeverHelp: a rule more never makes possible what was not, a claim less never
// makes impossible what was.
func TestMoreRulesNeverHelp(t *testing.T) {
	r := rand.New(rand.NewPCG(13, 2026))
	for range 20_000 {
		w := world(r)
		before := w.Solve().Feasible
		more := *w
		extra := world(r)
		for _, rules := range extra.Rules {
			if within(w, rules) {
				more.Rules = append(slices.Clone(more.Rules), rules)
			}
		}
		after := more.Solve().Feasible
		require.False(t, !before && after, "a rule more")
		if len(w.Claims) > 0 {
			fewer := *w
			fewer.Claims = slices.Delete(slices.Clone(w.Claims), 0, 1)
			after = fewer.Solve().Feasible
			require.False(t, before && !after, "a claim less")
		}
	}
}

// within reports whether a rule of another world can be said of this one.
func within(w *rule.World, t rule.Tied) bool {
	fits := func(p rule.Part) bool { return p.Var < len(w.Vars) && len(p.Allows) == len(w.Vars[p.Var].Prices) }
	for _, row := range t.Rows {
		for _, p := range slices.Concat(row.When, row.Need) {
			if !fits(p) {
				return false
			}
		}
	}
	return true
}

// TestGivenUp: a world that is too large is said not to be decided.
func TestGivenUp(t *testing.T) {
	w := &rule.World{}
	const vars, size = 12, 30
	for v := range vars {
		w.Vars = append(w.Vars, rule.Var{Name: strconv.Itoa(v), Prices: make([]rule.Price, size)})
	}
	one := func(v, c int) rule.Part {
		allows := make([]bool, size)
		allows[c] = true
		return rule.Part{Var: v, Allows: allows}
	}
	// No two may be alike, of size-many choices for more variables: nothing fits, and only
	// trying everything shows it.
	for a := range vars {
		for b := range a {
			var t rule.Tied
			for c := range size {
				not := make([]bool, size)
				for i := range not {
					not[i] = i != c && i < vars-1
				}
				t.Rows = append(t.Rows, rule.TiedRow{When: []rule.Part{one(a, c)}, Need: []rule.Part{{Var: b, Allows: not}}},
					rule.TiedRow{When: []rule.Part{one(b, c)}, Need: []rule.Part{{Var: a, Allows: not}}})
			}
			w.Rules = append(w.Rules, t)
		}
	}
	answer := w.Solve()
	require.False(t, answer.Decided)
	require.Nil(t, answer.Conflict)
}
