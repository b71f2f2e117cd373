package reading

import (
	"fmt"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/version"
)

// demanded is a demand with the range it comes to.
type demanded struct {
	claim.Demand
	offset int
	set    version.Set
}

// locked takes the demands of a lock file's dependencies together into one bound. The
// claim stands at the demand that narrows it most.
func (s *scanning) locked(found catalogue.Found, doc document.Document) {
	tree, ok := doc.(*document.Tree)
	if !ok {
		return
	}
	rule, tool := found.Rule, found.Tool
	distinct := map[string]int{} // raw text to its place in the list
	var list []demanded
	demands := 0
	for _, entry := range tree.Nodes(rule.Locked.Each) {
		at := entry.Below(rule.Locked.Demand)
		if at == nil || at.Kind != document.Scalar || !counts(entry, rule.Locked) {
			continue
		}
		raw := strings.TrimSpace(at.Text)
		if raw == "" || raw == "*" {
			continue
		}
		i, seen := distinct[raw]
		if !seen && len(list) == maxDemands {
			s.Partial(fmt.Sprintf("its dependencies demand %s in more than %d ways; the others are left out", tool.Title, maxDemands))
			break
		}
		if !seen {
			w, err := claim.WantOf(tool, rule.Dialect, rule.Reading, raw)
			if err != nil { // a demand that its own tool could not read either
				distinct[raw] = -1
				continue
			}
			distinct[raw] = len(list)
			list = append(list, demanded{demandOf(entry, rule.Locked, raw), at.Offset, w.Set})
		} else if i < 0 {
			continue
		}
		demands++
	}
	if len(list) == 0 {
		return
	}
	all, by := narrowing(tool.Scheme(), list)
	first := list[by[0]]
	c := s.Claim(tool, claim.Role(rule.Role), document.Value{Text: first.Raw, Offset: first.offset}, rule.Dialect, found.Folder)
	c.Reading = rule.Reading
	c.Locked = &claim.Locked{Demands: demands, Range: all.Canonical()}
	for _, i := range by {
		d := list[i].Demand
		d.Line, d.Column = s.Position(list[i].offset)
		c.Locked.By = append(c.Locked.By, d)
	}
	s.Add(c)
}

// counts tells whether an entry is a dependency whose demand holds.
func counts(entry *document.Node, l *catalogue.Locked) bool {
	if l.Key.Regexp != nil && !l.Key.MatchString(entry.Key) {
		return false
	}
	for _, key := range l.Unless {
		if at := entry.Child(key); at != nil && at.Text == "true" {
			return false
		}
	}
	return true
}

func demandOf(entry *document.Node, l *catalogue.Locked, raw string) claim.Demand {
	d := claim.Demand{Raw: raw, Dependency: entry.Key}
	if l.Key.Regexp != nil {
		m := l.Key.FindStringSubmatch(entry.Key)
		d.Dependency = m[1]
		if len(m) > 2 {
			d.Version = m[2]
		}
	}
	if n := entry.Child(l.Name); n != nil {
		d.Dependency = n.Text
	}
	if n := entry.Child(l.Version); n != nil {
		d.Version = n.Text
	}
	return d
}

// narrowing intersects all demands and picks those without which the range would be
// another: a smallest contradiction where nothing is left, otherwise demands that come
// to the whole range and of which none can be left out.
func narrowing(scheme version.Scheme, list []demanded) (version.Set, []int) {
	all := version.All(scheme)
	sets := make([]version.Set, len(list))
	for i, d := range list {
		sets[i] = d.set
		all = all.Intersect(d.set)
	}
	if all.IsEmpty() {
		return all, version.Contradiction(sets)
	}
	// The demands that narrow most are taken first, then those that the rest make needless left out.
	var by []int
	left := version.All(scheme)
	for !left.Equal(all) {
		best := -1
		var narrowest version.Set
		for i, set := range sets {
			next := left.Intersect(set)
			if next.Equal(left) {
				continue
			}
			if best < 0 || next.SubsetOf(narrowest) && !next.Equal(narrowest) {
				best, narrowest = i, next
			}
		}
		if best < 0 {
			break
		}
		by, left = append(by, best), narrowest
	}
	for i := 0; i < len(by) && len(by) > 1; {
		rest := version.All(scheme)
		for k, j := range by {
			if k != i {
				rest = rest.Intersect(sets[j])
			}
		}
		if rest.Equal(all) {
			by = append(by[:i:i], by[i+1:]...)
			continue
		}
		i++
	}
	if len(by) == 0 {
		by = []int{0}
	}
	return all, by
}
