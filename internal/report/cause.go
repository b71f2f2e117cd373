package report

import (
	"wexo/internal/core/assess"
)

// Cause is findings that one act, or one decision, would mend.
type Cause struct {
	ID           string          `json:"id"`
	Class        string          `json:"class"`
	Severity     assess.Severity `json:"severity"`
	Tool         string          `json:"tool"`
	Title        string          `json:"title"`
	Repositories int             `json:"repositories"` // that it touches
	Machines     int             `json:"machines"`
	Findings     []string        `json:"findings"` // fingerprints, the one that tells most first
}

// Causes are the causes of the report's findings, the worst and widest first.
func (r *Report) Causes() []Cause {
	caused := assess.Causes(r.all())
	out := make([]Cause, 0, len(caused))
	for _, c := range caused {
		out = append(out, r.Cause(c))
	}
	return out
}

// Cause is a cause in words.
func (w Wording) Cause(c *assess.Caused) Cause {
	out := Cause{ID: c.ID(), Class: c.Class.Name, Severity: c.Severity, Title: w.Teller.Cause(c), Repositories: c.Repositories, Machines: c.Machines.Len()}
	if c.Tool != nil {
		out.Tool = c.Tool.Name
	}
	for _, f := range c.Findings {
		out.Findings = append(out.Findings, f.Fingerprint)
	}
	return out
}

func (l *line) cause(c Cause) {
	l.open('{')
	l.text("id", c.ID)
	l.text("class", c.Class)
	l.text("severity", string(c.Severity))
	l.text("tool", c.Tool)
	l.text("title", c.Title)
	l.number("repositories", c.Repositories)
	l.number("machines", c.Machines)
	l.texts("findings", c.Findings)
	l.close('}')
}
