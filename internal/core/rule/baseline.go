package rule

import (
	"cmp"
	"slices"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
)

// Baseline is what a target platform demands: ranges of tools and components, and packages
// that come along with an installation.
type Baseline struct {
	Name, Title string
	Demands     []Demand // sorted by name
	Companions  []Companion
	Machines    []string // groups that must meet it; all machines where none is named
	At          Place
}

// Demand is a range that a baseline demands of a tool or component.
type Demand struct {
	Name string
	Text string
	Set  version.Set
	At   Place
}

// Companion is a package that must be installed into the installation of a tool.
type Companion struct {
	Tool, Package string
	Text          string
	Set           version.Set
	At            Place
}

var baselineKeys = []string{"baseline", "title", "demands", "companions", "machines"}

// ParseBaseline reads a baseline. What cannot be understood is told with its place.
func ParseBaseline(c *catalogue.Catalogue, file string, n *yaml.Node) (*Baseline, []Problem) {
	p := &parser{catalogue: c, file: file}
	f := p.fields(n, "a baseline", baselineKeys)
	if f == nil {
		return nil, p.problems
	}
	b := &Baseline{Name: p.text(f, "baseline"), At: p.place(n)}
	b.Title = cmp.Or(p.text(f, "title"), b.Name)
	if b.Name == "" {
		p.fail(n, "a baseline should have its name in baseline")
	}
	if f["demands"] == nil && f["companions"] == nil {
		p.fail(n, "a baseline should have demands, companions or both")
	}
	p.pairs(f["demands"], "demands", func(name, value *yaml.Node) {
		if d, ok := p.demand(name, value); ok {
			b.Demands = append(b.Demands, d)
		}
	})
	p.pairs(f["companions"], "companions", func(name, packages *yaml.Node) {
		tool, known := c.Tool(name.Value)
		if !known {
			p.fail(name, "%q is no tool that the catalogue knows; %s", name.Value, nearest.Hint(name.Value, c.Names()))
			return
		}
		p.pairs(packages, "the companions of "+tool.Name, func(pack, value *yaml.Node) {
			set, err := catalogue.Range(tool.Scheme(), value.Value)
			if err != nil {
				p.fail(value, "%s: %v", pack.Value, err)
				return
			}
			b.Companions = append(b.Companions, Companion{tool.Name, pack.Value, value.Value, set, p.place(pack)})
		})
	})
	if m := f["machines"]; m != nil {
		for _, item := range listed(m) {
			if item.Kind != yaml.ScalarNode || item.Value == "" {
				p.fail(item, "machines should be a list of groups, and this is %s", catalogue.KindOf(item))
				continue
			}
			b.Machines = append(b.Machines, item.Value)
		}
	}
	slices.SortFunc(b.Demands, func(a, b Demand) int { return cmp.Compare(a.Name, b.Name) })
	return b, p.problems
}

func listed(n *yaml.Node) []*yaml.Node {
	if n.Kind == yaml.SequenceNode {
		return n.Content
	}
	return []*yaml.Node{n}
}

// pairs calls do for each entry of a mapping that may be left out.
func (p *parser) pairs(n *yaml.Node, what string, do func(key, value *yaml.Node)) {
	if n == nil {
		return
	}
	if n.Kind != yaml.MappingNode {
		p.fail(n, "%s should be a mapping, and it is %s", what, catalogue.KindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		do(n.Content[i], n.Content[i+1])
	}
}

func (p *parser) demand(name, value *yaml.Node) (Demand, bool) {
	d := Demand{Text: value.Value, At: p.place(name)}
	if t, known := p.catalogue.Tool(name.Value); known {
		d.Name = t.Name
	} else {
		d.Name = name.Value
	}
	scheme, known := p.catalogue.SchemeNamed(d.Name)
	if !known {
		p.fail(name, "%v", unknown(p.catalogue, name.Value))
		return d, false
	}
	set, err := catalogue.Range(scheme, value.Value)
	switch {
	case err != nil:
		p.fail(value, "%s: %v", d.Name, err)
	case set.IsEmpty():
		p.fail(value, "%s: no version is in %q", d.Name, value.Value)
	}
	d.Set = set
	return d, err == nil && !set.IsEmpty()
}
