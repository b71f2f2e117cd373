package remedy

import (
	"slices"

	"wexo/internal/core/version"
)

// cover counts for each candidate how many of those that ask it would serve, and finds the best.
// Candidates stand in the order of their versions, so that an ask is a few runs of them: a tree
// over the places keeps of each part which is best there.
type cover struct {
	list   []candidate
	rank   []int             // of each candidate among all: the smaller, the better for its own sake
	orders [2]*version.Order // of supported candidates, and of those that have ended
	exact  map[int][]*ask    // by the one place that would serve them
	wide   []*ask            // those that more would serve

	size int
	top  []int // of each part of the tree, the place of its best
	sum  []int // and what was added to all of it
	most []int // how many the best serves, with what was added below and here
}

func newCover(list []candidate) *cover {
	c := &cover{exact: map[int][]*ask{}}
	at := map[string]candidate{}
	var versions [2][]version.Version
	for _, o := range list {
		at[o.version.String()] = o
		i := 0
		if o.ended {
			i = 1
		}
		versions[i] = append(versions[i], o.version)
	}
	for i := range versions {
		c.orders[i] = version.NewOrder(versions[i])
		for n := range c.orders[i].Len() {
			c.list = append(c.list, at[c.orders[i].At(n).String()])
		}
	}
	places := make([]int, len(c.list))
	for i := range places {
		places[i] = i
	}
	slices.SortStableFunc(places, func(a, b int) int {
		switch {
		case better(c.list[a], c.list[b]):
			return -1
		case better(c.list[b], c.list[a]):
			return 1
		}
		return a - b
	})
	c.rank = make([]int, len(places))
	for n, place := range places {
		c.rank[place] = n
	}
	c.grow()
	return c
}

// runs are the places of the candidates that would serve a set. Where a supported one will do,
// the others are none.
func (c *cover) runs(s version.Set) [][2]int {
	if runs := c.orders[0].Runs(s); len(runs) > 0 {
		return runs
	}
	out := c.orders[1].Runs(s)
	for i := range out {
		out[i][0] += c.orders[0].Len()
		out[i][1] += c.orders[0].Len()
	}
	return out
}

// add counts those that ask at each place that would serve them.
func (c *cover) add(a *ask, n int) {
	if one := a.runs[0]; len(a.runs) == 1 && one[1] == one[0]+1 {
		c.exact[one[0]] = append(c.exact[one[0]], a)
	} else {
		c.wide = append(c.wide, a)
	}
	c.count(a, n)
}

func (c *cover) count(a *ask, n int) {
	for _, run := range a.runs {
		c.change(1, 0, c.size, run[0], run[1], n)
	}
}

// take takes those that a place serves, who are then served.
func (c *cover) take(place int) []*ask {
	out := c.exact[place]
	delete(c.exact, place)
	c.wide = slices.DeleteFunc(c.wide, func(a *ask) bool {
		served := slices.ContainsFunc(a.runs, func(run [2]int) bool { return run[0] <= place && place < run[1] })
		if served {
			out = append(out, a)
		}
		return served
	})
	for _, a := range out {
		c.count(a, -len(a.lacks))
	}
	return out
}

// best is the place that serves the most; of several the one that is best for its own sake.
func (c *cover) best() int { return c.top[1] }

// grow makes the tree: its first part is all, and the parts of part n are 2n and 2n+1.
func (c *cover) grow() {
	for c.size = 1; c.size < len(c.list); c.size *= 2 {
	}
	c.top, c.sum, c.most = make([]int, 2*c.size), make([]int, 2*c.size), make([]int, 2*c.size)
	for n := range c.size {
		c.top[c.size+n] = -1
		if n < len(c.list) {
			c.top[c.size+n] = n
		}
	}
	for n := c.size - 1; n > 0; n-- {
		c.settle(n)
	}
}

// settle finds the best of a part from those of its own two.
func (c *cover) settle(n int) {
	left, right := 2*n, 2*n+1
	from := left
	switch {
	case c.top[right] < 0:
	case c.top[left] < 0, c.most[right] > c.most[left],
		c.most[right] == c.most[left] && c.rank[c.top[right]] < c.rank[c.top[left]]:
		from = right
	}
	c.top[n], c.most[n] = c.top[from], c.most[from]+c.sum[n]
}

// change adds to the places of a run, as far as they lie in a part that begins and ends so.
func (c *cover) change(n, begin, end, from, to, by int) {
	switch {
	case to <= begin || end <= from:
		return
	case from <= begin && end <= to:
		c.sum[n] += by
		c.most[n] += by
		return
	}
	middle := (begin + end) / 2
	c.change(2*n, begin, middle, from, to, by)
	c.change(2*n+1, middle, end, from, to, by)
	c.settle(n)
}
