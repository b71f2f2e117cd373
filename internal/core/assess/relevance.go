package assess

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
)

// relevance tells which machines matter to which repositories: those that build it, and of
// those on which people edit the ones that hold a checkout of it. It is read-only.
type relevance struct {
	everyone resolve.Machines
	building resolve.Machines            // where nobody edits
	unknown  resolve.Machines            // where people edit, and which checkouts there are is not told
	holding  map[string]resolve.Machines // those that hold a checkout of a repository, by its identity
	groups   map[string]resolve.Machines // by tag
}

// newRelevance looks at a fleet once for all repositories of an estate.
func newRelevance(fleet *resolve.Fleet, groups []policy.Machines) *relevance {
	r := &relevance{holding: map[string]resolve.Machines{}, groups: map[string]resolve.Machines{}}
	for i, m := range fleet.All() {
		r.everyone = r.everyone.With(i)
		for _, tag := range (policy.Policy{Machines: groups}).TagsOf(m.Name()) {
			r.groups[tag] = r.groups[tag].With(i)
		}
		switch {
		case m.Followed != nil: // the machine that asks
			r.unknown = r.unknown.With(i)
		case !edits(m):
			r.building = r.building.With(i)
		case m.Inventory.Checkouts == nil:
			r.unknown = r.unknown.With(i)
		}
		for _, c := range m.Inventory.Checkouts {
			r.holding[c.Names()] = r.holding[c.Names()].With(i)
		}
	}
	return r
}

// names are what a checkout may call a repository: what it is, its name, its folder's.
func (p *Prepared) names() []string {
	out := []string{p.Is()}
	for _, name := range []string{p.Name, path.Base(p.Name), strings.TrimSuffix(path.Base(strings.ReplaceAll(p.Path, `\`, "/")), ".git")} {
		if name != "" && name != "." && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// edits reports whether a machine is one on which people work.
func edits(m *inventory.Machine) bool {
	return slices.Contains([]string{"laptop", "subsystem"}, m.Inventory.Machine.Kind)
}

// of are the machines that matter to a repository.
func (r *relevance) of(p *Prepared) resolve.Machines {
	out := r.building
	if len(p.Settings.BuiltBy) > 0 {
		out = resolve.Machines{}
		for _, tag := range p.Settings.BuiltBy {
			out = out.And(r.groups[tag])
		}
	}
	for _, name := range p.names() {
		out = out.And(r.holding[name])
	}
	return out.And(r.unknown)
}
