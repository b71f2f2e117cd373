package view

import (
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
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
}

// Row is one repository in the matrix.
type Row struct {
	Repository string
	Cells      []Cell
	Loose      int // findings that belong to no tool
}

// Matrix gives a row for each repository.
func (v *View) Matrix() []Row {
	out := make([]Row, 0, len(v.Reads))
	for _, r := range v.Reads {
		row := Row{Repository: r.Repository.Name, Cells: []Cell{}}
		byTool := map[string][]assess.Subject{}
		var order []string
		for _, s := range r.Subjects {
			if byTool[s.Tool.Name] == nil {
				order = append(order, s.Tool.Name)
			}
			byTool[s.Tool.Name] = append(byTool[s.Tool.Name], s)
		}
		slices.Sort(order)
		for _, tool := range order {
			row.Cells = append(row.Cells, cell(byTool[tool], findingsOf(r.Findings, tool)))
		}
		row.Loose = len(findingsOf(r.Findings, ""))
		out = append(out, row)
	}
	return out
}

func findingsOf(all []assess.Finding, tool string) []assess.Finding {
	var out []assess.Finding
	for _, f := range all {
		if f.Tool == tool {
			out = append(out, f)
		}
	}
	return out
}

// cell speaks of the subject with the worst finding, or of the topmost one.
func cell(subjects []assess.Subject, findings []assess.Finding) Cell {
	s := subjects[0]
	c := Cell{Tool: s.Tool.Name, Severity: "met", Classes: []string{}}
	var worst *assess.Finding
	for _, known := range assess.Classes {
		for i, f := range findings {
			if f.Class != known.Class {
				continue
			}
			if worst == nil {
				worst = &findings[i]
			}
			if !slices.Contains(c.Classes, string(f.Class)) {
				c.Classes = append(c.Classes, string(f.Class))
			}
		}
	}
	if worst != nil {
		for _, other := range subjects {
			if other.Folder == worst.Folder {
				s = other
			}
		}
		c.Kind, c.Severity = string(worst.Class), string(worst.Severity)
	} else {
		c.Kind = string(stateOf(s))
	}
	c.Folder = s.Folder
	c.Asked = asked(s)
	c.Resolved = resolved(s)
	return c
}

// stateOf is the state that most deserves to be shown.
func stateOf(s assess.Subject) resolve.State {
	for _, state := range []resolve.State{resolve.Conflict, resolve.Missing, resolve.Unknown, resolve.Unpinned, resolve.Absent} {
		if slices.ContainsFunc(s.Resolutions, func(r resolve.Resolution) bool { return r.State == state }) {
			return state
		}
	}
	return resolve.Met
}

// asked is the deciding pin, or the bound that the others allow too; a minimum is shown as
// one, and a text that stands for another, such as a lock file's format, as that.
func asked(s assess.Subject) string {
	claims := append(s.Pins(), s.Bounds()...)
	if len(claims) == 0 {
		return "no pin"
	}
	first := claims[0]
	if first.Role == claim.Bound {
		for _, b := range claims[1:] {
			if b.Err == nil && b.Set.SubsetOf(first.Set) {
				first = b
			}
		}
	}
	if first.Means != "" {
		return strings.Replace(first.Means, ">=", "≥", 1)
	}
	if first.Err == nil && (first.Reading == "minimum" || first.Dialect == "go-minimum") {
		return "≥" + first.Raw
	}
	return first.Raw
}

// resolved says what would run and on how many machines: "3.12.7 everywhere".
func resolved(s assess.Subject) string {
	counts := map[string]int{}
	var order []string
	missing := 0
	for _, r := range s.Resolutions {
		if r.Version == "" {
			missing++
			continue
		}
		if counts[r.Version] == 0 {
			order = append(order, r.Version)
		}
		counts[r.Version]++
	}
	n := len(s.Resolutions)
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
