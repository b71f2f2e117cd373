package assess

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// components are those that a folder speaks of, sorted by name. What a lock file of the
// folder says beats what its manifest asks for, and one of a folder above tells what the
// range of a manifest below came to.
func (t *tying) components(v *resolve.View) []Component {
	out := t.parts[v.Folder]
	if out == nil {
		return nil
	}
	out = slices.Clone(out)
	for i := range out {
		if !out[i].Sure {
			t.locked(v.Folder, &out[i])
		}
	}
	return out
}

// locked narrows a component to what a lock file of a folder above holds.
func (t *tying) locked(folder string, c *Component) {
	for folder != "" {
		folder = claim.Above(folder)
		for _, above := range t.parts[folder] {
			if above.Name == c.Name && above.Sure && above.Set.SubsetOf(c.Set) && Locks(above.Claims[0]) {
				c.Set, c.Sure = above.Set, true
				c.Claims = append([]*claim.Claim{above.Claims[0]}, c.Claims...)
				return
			}
		}
	}
}

// Locks reports whether a claim says which version was taken, and not what is asked for.
func Locks(c *claim.Claim) bool {
	base := path.Base(c.File)
	return c.Dialect == "plain" && (strings.Contains(base, "lock") || strings.Contains(base, "shrinkwrap"))
}

// readComponents puts together what is said of each component in each folder, of those that
// rules or baselines speak of.
func (t *tying) readComponents() {
	t.parts = map[string][]Component{}
	for _, v := range t.prepared.Views {
		var list []Component
		for _, c := range v.Components {
			if c.Err != nil || c.Set.IsEmpty() || !t.spoken(c.Name) {
				continue
			}
			at := slices.IndexFunc(list, func(o Component) bool { return o.Name == c.Name })
			if at < 0 {
				at = len(list)
				list = append(list, Component{Part: Part{Name: c.Name, Set: version.All(c.Set.Scheme())}})
			}
			list[at].take(c)
		}
		if list != nil {
			slices.SortFunc(list, func(a, b Component) int { return strings.Compare(a.Name, b.Name) })
			t.parts[v.Folder] = list
		}
	}
}

// spoken reports whether a rule or a baseline speaks of a component.
func (t *tying) spoken(name string) bool {
	return len(t.book.Of(name)) > 0 || slices.ContainsFunc(t.demanded, func(b *rule.Baseline) bool {
		return slices.ContainsFunc(b.Demands, func(d rule.Demand) bool { return d.Name == name })
	})
}

// take adds what a claim says: a surer one comes first, and claims that cannot both be true
// do not narrow each other.
func (c *Component) take(said resolve.Component) {
	surer := Locks(said.Claim) && !(len(c.Claims) > 0 && Locks(c.Claims[0]))
	switch {
	case said.Set.Meets(c.Set):
		c.Set = said.Set.Intersect(c.Set)
	case surer:
		c.Set = said.Set
	default:
		return
	}
	if surer {
		c.Claims = append([]*claim.Claim{said.Claim}, c.Claims...)
	} else {
		c.Claims = append(c.Claims, said.Claim)
	}
	c.Sure = single(c.Set) || Locks(c.Claims[0]) || c.Claims[0].Tells != ""
}

// single reports whether a set names one version, as far as its text says.
func single(s version.Set) bool {
	list := s.Intervals()
	if len(list) == 0 {
		return true // a prerelease
	}
	return len(list) == 1 && !strings.ContainsAny(list[0].String(), "<>*")
}
