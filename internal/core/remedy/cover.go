package remedy

import (
	"cmp"
	"context"
	"slices"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/version"
)

// choosing chooses the versions of one tool.
type choosing struct {
	tool *catalogue.Tool
	on   *day.Day
}

// ask is what several lacks ask for alike.
type ask struct {
	set   version.Set
	exact string
	lacks []assess.Lack
	runs  [][2]int // of the candidates that would serve it, by their order
}

// choose covers all asks with few versions: again and again the one that serves the most of
// those that are left, of several the one that is best for its own sake.
func (c *choosing) choose(ctx context.Context, lacks []assess.Lack) ([]Install, error) {
	asks := alike(lacks)
	cover := newCover(c.candidates(asks))
	var out []Install
	left := 0
	for _, a := range asks {
		if c.tool.Unreleased(a.set, c.on) == "" { // nobody can install what was never released
			a.runs = cover.runs(a.set)
		}
		if len(a.runs) > 0 {
			cover.add(a, len(a.lacks))
			left += len(a.lacks)
			continue
		}
		for i := range a.lacks {
			out = append(out, Install{Tool: c.tool, Set: a.set, Asks: a.lacks[i : i+1]})
		}
	}
	for left > 0 {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		at := cover.best()
		best := cover.list[at]
		in := Install{Tool: c.tool, Version: best.version, Text: cmp.Or(best.text, best.version.String()), Line: best.line, Ended: best.ended, Set: version.All(c.tool.Scheme())}
		for _, a := range cover.take(at) {
			left -= len(a.lacks)
			in.Asks, in.Set = append(in.Asks, a.lacks...), in.Set.Intersect(a.set)
		}
		if best.text != "" && !best.line.Set().Intersect(version.AtLeast(best.version)).SubsetOf(in.Set) {
			in.Text = best.version.String() // the newest patch of the line would not serve all
		}
		out = append(out, in)
	}
	slices.SortStableFunc(out, func(a, b Install) int { return b.Version.Compare(a.Version) })
	return out, nil
}

// alike puts lacks together that ask for the same.
func alike(lacks []assess.Lack) []*ask {
	type key struct{ set, exact string }
	at := map[key]*ask{}
	var out []*ask
	for _, l := range lacks {
		k := key{l.Set.Canonical(), l.Exact}
		a := at[k]
		if a == nil {
			a = &ask{set: l.Set, exact: l.Exact}
			at[k] = a
			out = append(out, a)
		}
		a.lacks = append(a.lacks, l)
	}
	return out
}

// candidate is a version that could be installed.
type candidate struct {
	version version.Version
	text    string // what to take, where that is not the version itself
	line    *catalogue.Line
	ended   bool
	long    bool // it has long-term support on the day
}

// better reports whether a version is to be preferred to one that serves as many: a supported
// one, one with long-term support, the newer one.
func better(a, b candidate) bool {
	switch {
	case a.ended != b.ended:
		return b.ended
	case a.long != b.long:
		return a.long
	}
	return a.version.Compare(b.version) > 0
}

// candidates are the versions that could serve an ask: the newest of each line, and those that
// somebody names, who could then share one with others.
func (c *choosing) candidates(asks []*ask) []candidate {
	var out []candidate
	known := map[string]bool{}
	add := func(v version.Version, text string) {
		if v.IsZero() || known[v.String()] {
			return
		}
		known[v.String()] = true
		l := c.tool.LineOf(v)
		ended := l != nil && l.EndedOn(c.on) || l == nil && c.tool.EndedBefore(v, c.on)
		long := l != nil && !l.LongTerm.IsZero() && c.on.Reached(l.LongTerm.Time) && !ended
		out = append(out, candidate{v, text, l, ended, long})
	}
	for _, a := range asks {
		v, err := c.tool.Scheme().Parse(a.exact)
		if err == nil && a.exact != "" && c.tool.Unreleased(version.Exactly(v), c.on) == "" {
			add(v, "")
		}
	}
	for _, l := range c.tool.Lines {
		switch {
		case !c.on.Reached(l.Released.Time):
		case !l.Newest().IsZero():
			add(l.Newest(), "")
		default: // nobody has noted which patch is the newest
			for _, a := range asks {
				if least, ok := a.set.Intersect(l.Set()).Least(); ok {
					add(least, l.Line)
				}
			}
		}
	}
	versions := make([]version.Version, len(out))
	for i, o := range out {
		versions[i] = o.version
	}
	order := version.NewOrder(versions)
	for _, a := range asks { // a patch that the set names, or begins with
		if least, ok := a.set.Least(); ok && len(order.Runs(a.set)) == 0 && c.tool.Unreleased(a.set, c.on) == "" {
			add(least, "")
		}
	}
	return out
}
