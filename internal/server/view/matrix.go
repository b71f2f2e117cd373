package view

import (
	"fmt"
	"slices"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/report"
)

// Cell is one repository and tool in the matrix.
type Cell struct {
	Tool     string
	Kind     string // the worst finding's class, or a state where nothing is wrong
	Severity string // met, error, warning or note
	Asked    string
	Resolved string
	Classes  []string
	Folder   string
	Affected int // machines with the worst finding; 0 where it is not one of machines
	Among    int // machines that matter to the repository
}

// Row is one repository in the matrix.
type Row struct {
	Repository string
	Cells      []Cell
	Loose      int // findings that belong to no tool
	Tally      assess.Tally
	Quiet      bool // it has none since its own rules take them away
}

// Matrix gives a row for each repository.
func (v *View) Matrix() []Row {
	v.once.matrix.Do(func() {
		v.rows = make([]Row, 0, len(v.Reads))
		for _, r := range v.Reads {
			v.rows = append(v.rows, v.row(r))
			v.rows[len(v.rows)-1].Quiet = quiet(r)
		}
	})
	return v.rows
}

// standing is a subject with what became of it.
type standing struct {
	*assess.Subject
	*assess.Judged
}

func (v *View) row(r report.Read) Row {
	row := Row{Repository: r.Name, Cells: []Cell{}}
	byTool := map[*catalogue.Tool][]standing{}
	var order []*catalogue.Tool
	for i, s := range r.Subjects {
		if s.Apart {
			continue
		}
		if byTool[s.Tool] == nil {
			order = append(order, s.Tool)
		}
		byTool[s.Tool] = append(byTool[s.Tool], standing{s, r.Judged[i]})
	}
	slices.SortFunc(order, catalogue.ByName)
	for _, tool := range order {
		row.Cells = append(row.Cells, v.cell(r.Among.Len(), byTool[tool], findingsOf(r.Findings, tool), broughtWrong(r.Findings, tool)))
		row.Cells[len(row.Cells)-1].doubt(r.Gaps)
	}
	row.Tally = assess.TallyOf(r.Findings)
	row.Loose = len(findingsOf(r.Findings, nil))
	return row
}

// doubt takes back that all is well with a tool of which something was not seen.
func (c *Cell) doubt(gaps []unseen.Gap) {
	speaks := func(g unseen.Gap) bool { return g.Tools == nil || slices.Contains(g.Tools, c.Tool) }
	if c.Severity == "met" && slices.ContainsFunc(unseen.Blinding(gaps), speaks) {
		c.Kind, c.Severity = string(resolve.Unknown), string(assess.Note)
	}
}

func findingsOf(all []*assess.Finding, tool *catalogue.Tool) []*assess.Finding {
	var out []*assess.Finding
	for _, f := range all {
		if f.Tool == tool && !f.Apart {
			out = append(out, f)
		}
	}
	return out
}

// broughtWrong is the finding of another tool that it does not bring of this one what is
// asked for; nil where there is none.
func broughtWrong(all []*assess.Finding, tool *catalogue.Tool) *assess.Finding {
	for _, f := range all {
		if f.Verdict == nil || f.Verdict.Tied == nil || f.Apart {
			continue
		}
		if r := f.Verdict.Tied.Rule; r != nil && r.Brings && r.Ends[1].Of == tool.Name {
			return f
		}
	}
	return nil
}

// cell speaks of the subject with the worst finding, or of the topmost one. What is brought
// wrongly is a finding of the tool that brings it, and only drawn here.
func (v *View) cell(among int, subjects []standing, findings []*assess.Finding, brought *assess.Finding) Cell {
	s := subjects[0]
	c := Cell{Tool: s.Tool.Name, Severity: "met", Classes: []string{}, Among: among}
	slices.SortStableFunc(findings, assess.Worse)
	for _, f := range findings {
		if !slices.Contains(c.Classes, f.Class.Name) {
			c.Classes = append(c.Classes, f.Class.Name)
		}
	}
	if len(findings) > 0 {
		worst := findings[0]
		for _, other := range subjects {
			if other.Folder == worst.Folder || other.Subject == worst.Subject {
				s = other
			}
		}
		c.Kind, c.Severity, c.Affected = worst.Class.Name, string(worst.Severity), worst.Machines.Len()
	} else if brought != nil {
		c.Kind, c.Severity, c.Affected = brought.Class.Name, string(brought.Severity), brought.Machines.Len()
	} else if s.Judged.Case.Brought {
		c.Kind = string(resolve.Met)
	} else {
		state := stateOf(s)
		c.Kind = string(state)
		if state != resolve.Met && state != resolve.Unpinned {
			c.Severity = string(assess.Note) // nothing is wrong that is known of, and it is not sound either
		}
	}
	c.Folder = s.Folder
	c.Asked = sentence.Asked(s.Subject, s.Resolved)
	if s.Judged.Case.Brought && len(findings) == 0 {
		c.Resolved = "comes with another tool"
	} else if c.Resolved = resolved(s, among); c.Affected > 0 && c.Affected < among {
		c.Resolved = fmt.Sprintf("on %d of %d; %s", c.Affected, among, c.Resolved)
	}
	return c
}

// stateOf is the state that most deserves to be shown.
func stateOf(s standing) resolve.State {
	for _, state := range []resolve.State{resolve.Conflict, resolve.Missing, resolve.Unknown, resolve.Absent, resolve.Unpinned} {
		if slices.ContainsFunc(s.Resolved.Outcomes, func(o resolve.Outcome) bool { return o.State == state }) {
			return state
		}
	}
	return resolve.Met
}

// resolved says what would run and on how many of the machines that matter: "3.12.7 everywhere".
func resolved(s standing, n int) string {
	counts := map[string]int{}
	var order []string
	missing := 0
	for _, o := range s.Resolved.Outcomes {
		n := o.Machines.Len()
		if o.Version == "" {
			missing += n
			continue
		}
		if counts[o.Version] == 0 {
			order = append(order, o.Version)
		}
		counts[o.Version] += n
	}
	slices.SortStableFunc(order, func(a, b string) int { return counts[b] - counts[a] })
	switch {
	case n == 0:
		return "no machine"
	case len(order) == 0 && n == 1:
		return "not installed"
	case len(order) == 0:
		return "on no machine"
	case n == 1:
		return order[0]
	case len(order) == 1 && missing == 0:
		return order[0] + " everywhere"
	case len(order) == 1:
		return fmt.Sprintf("%s on %d of %d", order[0], counts[order[0]], n)
	}
	if missing > 0 {
		return fmt.Sprintf("%d versions on %d of %d", len(order), n-missing, n)
	}
	return fmt.Sprintf("%d different versions", len(order))
}
