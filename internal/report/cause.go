package report

import (
	"cmp"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
)

// Cause is findings that one act would mend.
type Cause struct {
	Class        string          `json:"class"`
	Severity     assess.Severity `json:"severity"`
	Tool         string          `json:"tool"`
	Title        string          `json:"title"`
	Repositories int             `json:"repositories"` // that it touches
	Machines     int             `json:"machines"`
	Findings     []string        `json:"findings"` // fingerprints

	touched  map[string]bool
	machines resolve.Machines
}

// Causes puts findings together that ask for the same and are wrong in the same way, those
// that touch most first.
func (r *Report) Causes() []Cause {
	type key struct{ class, tool, title string }
	at := map[key]*Cause{}
	var order []*Cause
	for _, f := range r.all() {
		k := key{class: f.Class.Name, title: sentence.Cause(f)}
		if f.Tool != nil {
			k.tool = f.Tool.Name
		}
		c := at[k]
		if c == nil {
			c = &Cause{Class: k.class, Severity: f.Severity, Tool: k.tool, Title: k.title, touched: map[string]bool{}}
			at[k] = c
			order = append(order, c)
		}
		if f.Severity.Rank() > c.Severity.Rank() {
			c.Severity = f.Severity
		}
		c.touched[f.Repository.Name] = true
		c.machines = c.machines.And(f.Machines)
		c.Findings = append(c.Findings, f.Fingerprint)
	}
	out := make([]Cause, 0, len(order))
	for _, c := range order {
		c.Repositories, c.Machines = len(c.touched), c.machines.Len()
		out = append(out, *c)
	}
	slices.SortFunc(out, func(a, b Cause) int {
		return cmp.Or(b.Severity.Rank()-a.Severity.Rank(), b.Repositories-a.Repositories, b.Machines-a.Machines,
			strings.Compare(a.Class, b.Class), strings.Compare(a.Tool, b.Tool), strings.Compare(a.Title, b.Title))
	})
	return out
}

func (l *line) cause(c Cause) {
	l.open('{')
	l.text("class", c.Class)
	l.text("severity", string(c.Severity))
	l.text("tool", c.Tool)
	l.text("title", c.Title)
	l.number("repositories", c.Repositories)
	l.number("machines", c.Machines)
	l.texts("findings", c.Findings)
	l.close('}')
}
