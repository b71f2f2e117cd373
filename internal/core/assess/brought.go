package assess

import (
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// brought judges what comes with a tool: on machines that have the tool by what its
// installation tells of it, elsewhere by the rule's table.
func (v *viewCheck) brought(t *Tie, values []rule.Value) {
	host, part := t.Ends[0], t.Ends[1]
	if host.Of != OfTool || part.Of != OfTool {
		return
	}
	asked := values[1]
	if asked.IsZero() {
		return
	}
	var broken []combination
	there := false
	for i := range v.fleet.All() {
		c := combination{[]rule.Value{values[0], asked}, make([]*resolve.Outcome, 2), resolve.Machines{}.With(i)}
		if o := v.tools[host.N].Resolved.Comes(i); o != nil && !o.Number.IsZero() {
			c.values[0], c.outcomes[0] = rule.Value{Set: version.Exactly(o.Number)}, o
		}
		has := v.comesWith(v.installed(host.N, i), v.Tools[part.N].Tool.Name, part.N)
		there = there || !has.IsZero()
		if !has.IsZero() && !asked.Set.Contains(has) || has.IsZero() && c.outcomes[0] != nil && !t.Rule.Admits(c.values) {
			broken = append(broken, c)
		}
	}
	switch {
	case !there && !t.Rule.Admits(values): // no installation says otherwise
		v.report(t, values, nil)
	case len(broken) > 0:
		v.report(t, values, broken)
	}
}

// comesWith is the version of a tool that an installation of another tells that it brings;
// zero where it tells none.
func (v *viewCheck) comesWith(in *inventory.Installed, name string, tool int) version.Version {
	if in == nil || in.Components[name] == "" {
		return version.Version{}
	}
	number, err := v.Tools[tool].Tool.Scheme().Parse(in.Components[name])
	if err != nil {
		return version.Version{}
	}
	return number
}

// tellsOf is what installations of a tool tell that they bring, of those that are asked for:
// the first that tells something.
func (v *viewCheck) tellsOf(host, part int) string {
	for _, m := range v.fleet.All() {
		for _, in := range m.Installed(v.Tools[host].Tool.Name) {
			if asked := v.asked[host]; !in.Number.IsZero() && (asked.IsZero() || asked.Set.Contains(in.Number)) && in.Components[v.Tools[part].Tool.Name] != "" {
				return in.Components[v.Tools[part].Tool.Name]
			}
		}
	}
	return ""
}
