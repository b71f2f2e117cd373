package remedy

import (
	"context"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Reach is an installation that is there and would do, and that nothing leads to.
type Reach struct {
	Tool    *catalogue.Tool
	Install *inventory.Installed
	Default string // where the user's default stands that leads elsewhere; empty where PATH does
	Asks    []assess.Lack
}

// pathed finds what PATH, or the user's default, has to lead to: one version of each tool, which
// serves those that are served today too, and as many of the others as can be. It is installed
// already, or has to be.
func (q Question) pathed(ctx context.Context, list []assess.Pathed) (reach []Reach, install []Install, err error) {
	byTool := map[*catalogue.Tool][]assess.Pathed{}
	var order []*catalogue.Tool
	for _, p := range list {
		if byTool[p.Tool] == nil {
			order = append(order, p.Tool)
		}
		byTool[p.Tool] = append(byTool[p.Tool], p)
	}
	slices.SortFunc(order, func(a, b *catalogue.Tool) int { return strings.Compare(a.Name, b.Name) })
	for _, tool := range order {
		c := &choosing{tool: tool, on: day.On(q.On)}
		goal, asks, by := q.goal(c, byTool[tool])
		if len(asks) == 0 {
			continue
		}
		if in := q.installed(tool, goal); in != nil {
			reach = append(reach, Reach{tool, in, by, asks})
			continue
		}
		for i := range asks {
			asks[i].Set = goal
		}
		chosen, err := c.choose(ctx, asks)
		if err != nil {
			return nil, nil, err
		}
		for _, in := range chosen {
			in.First, in.Default = true, by
			install = append(install, in)
		}
	}
	return reach, install, nil
}

// goal is what the one version must be in, and whom it then serves that is not served today.
func (q Question) goal(c *choosing, list []assess.Pathed) (goal version.Set, asks []assess.Lack, by string) {
	goal = version.All(c.tool.Scheme())
	for _, p := range list {
		if by == "" {
			by = p.Default
		}
		if !p.Wanting {
			goal = goal.Intersect(p.Set)
		}
	}
	if goal.IsEmpty() { // they are served by what is no release
		return goal, nil, by
	}
	wanting := slices.DeleteFunc(slices.Clone(list), func(p assess.Pathed) bool { return !p.Wanting })
	count := map[string]int{}
	for _, p := range wanting {
		count[p.Set.Canonical()]++
	}
	slices.SortStableFunc(wanting, func(a, b assess.Pathed) int { return count[b.Set.Canonical()] - count[a.Set.Canonical()] })
	for _, p := range wanting {
		both := goal.Intersect(p.Set)
		if q.installed(c.tool, both) == nil && !c.offers(both) {
			continue
		}
		goal, asks = both, append(asks, p.Lack)
	}
	return goal, asks, by
}

// offers reports whether a release is known that is in a set.
func (c *choosing) offers(set version.Set) bool {
	return !set.IsEmpty() && c.tool.Unreleased(set, c.on) == "" && len(newCover(c.candidates([]*ask{{set: set}})).runs(set)) > 0
}

// installed is what a machine has in a set: what is supported, the newest of that.
func (q Question) installed(tool *catalogue.Tool, set version.Set) *inventory.Installed {
	m, on := q.Fleet.Machines[q.Machine], day.On(q.On)
	var best *inventory.Installed
	for _, in := range m.Installed(tool.Name) { // newest first
		if in.Number.IsZero() || in.Health == "broken" || in.Private || in.Origin == "bundled" || !set.Contains(in.Number) {
			continue
		}
		ended := false
		if l := tool.LineOf(in.Number); l != nil {
			ended = l.EndedOn(on)
		}
		if !ended {
			return in
		}
		if best == nil {
			best = in
		}
	}
	return best
}
