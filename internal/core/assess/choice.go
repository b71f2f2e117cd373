package assess

import "slices"

// Choice says which findings are asked for. The zero value asks for all; of each list a
// finding has to be like one of its entries.
type Choice struct {
	Repositories []string // names
	Tools        []string // names; a finding on what goes together is about several
	Classes      []string
	Severities   []Severity
	Tags         []string // of repositories
}

// IsZero reports whether all findings are asked for.
func (c Choice) IsZero() bool {
	return c.Repositories == nil && c.Tools == nil && c.Classes == nil && c.Severities == nil && c.Tags == nil
}

// Has reports whether a finding is asked for.
func (c Choice) Has(f *Finding) bool {
	return (c.Classes == nil || slices.Contains(c.Classes, f.Class.Name)) && (c.Severities == nil || slices.Contains(c.Severities, f.Severity)) && c.Of(f)
}

// Of reports whether a finding is of a repository and a tool that are asked for.
func (c Choice) Of(f *Finding) bool {
	return c.OfRepository(f.Repository) && (c.Tools == nil || slices.ContainsFunc(f.Tools(), func(name string) bool { return slices.Contains(c.Tools, name) }))
}

// Speaks reports whether one of some tools is asked for; no tools stand for any.
func (c Choice) Speaks(tools []string) bool {
	return c.Tools == nil || tools == nil || slices.ContainsFunc(tools, func(name string) bool { return slices.Contains(c.Tools, name) })
}

// OfRepository reports whether findings of a repository are asked for.
func (c Choice) OfRepository(p *Prepared) bool {
	return (c.Repositories == nil || slices.Contains(c.Repositories, p.Name)) &&
		(c.Tags == nil || slices.ContainsFunc(p.Settings.Tags, func(tag string) bool { return slices.Contains(c.Tags, tag) }))
}
