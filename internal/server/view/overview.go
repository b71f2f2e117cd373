package view

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
)

// ClassCount counts a class's findings by the age of their first sight.
type ClassCount struct {
	Class    assess.Class
	Severity assess.Severity
	Total    int
	Week     int // 0 to 7 days
	Month    int // 8 to 30
	Quarter  int // 31 to 90
	Older    int
}

// Classes counts findings by class, worst first; classes without findings are left out.
func (v *View) Classes() []ClassCount {
	var out []ClassCount
	for _, known := range assess.Classes {
		c := ClassCount{Class: known.Class, Severity: known.Severity}
		for _, r := range v.Reads {
			for _, f := range r.Findings {
				if f.Class == known.Class {
					c.add(v.Age(f))
				}
			}
		}
		if c.Total > 0 {
			out = append(out, c)
		}
	}
	return out
}

func (c *ClassCount) add(days int) {
	c.Total++
	switch {
	case days <= 7:
		c.Week++
	case days <= 30:
		c.Month++
	case days <= 90:
		c.Quarter++
	default:
		c.Older++
	}
}

// Trouble is a repository with its counts of findings.
type Trouble struct {
	Repository       string
	Errors, Warnings int
}

// Worst lists the repositories with errors, most first, at most n.
func (v *View) Worst(n int) []Trouble {
	var out []Trouble
	for _, r := range v.Reads {
		t := Trouble{Repository: r.Repository.Name}
		for _, f := range r.Findings {
			switch f.Severity {
			case assess.Error:
				t.Errors++
			case assess.Warning:
				t.Warnings++
			}
		}
		if t.Errors > 0 {
			out = append(out, t)
		}
	}
	slices.SortFunc(out, func(a, b Trouble) int {
		return cmp.Or(b.Errors-a.Errors, b.Warnings-a.Warnings, strings.Compare(a.Repository, b.Repository))
	})
	return out[:min(n, len(out))]
}

// Healthy counts the repositories without findings.
func (v *View) Healthy() int {
	n := 0
	for _, r := range v.Reads {
		if len(r.Findings) == 0 {
			n++
		}
	}
	return n
}

// ToolsInUse lists the tools that any repository speaks of, sorted by title.
func (v *View) ToolsInUse() []*catalogue.Tool {
	var out []*catalogue.Tool
	for _, r := range v.Reads {
		for _, s := range r.Subjects {
			if !slices.Contains(out, s.Tool) {
				out = append(out, s.Tool)
			}
		}
	}
	slices.SortFunc(out, func(a, b *catalogue.Tool) int {
		return strings.Compare(strings.ToLower(a.Title), strings.ToLower(b.Title))
	})
	return out
}

// LineUse is a line with how many repositories chose it.
type LineUse struct {
	Tool         *catalogue.Tool
	Line         *catalogue.Line
	Repositories int
}

// Lines counts, for every line of the tools, the repositories that chose it: by their
// pin, or where nothing is pinned by what would run.
func (v *View) Lines(tools []*catalogue.Tool) []LineUse {
	counts := map[*catalogue.Line]int{}
	for _, r := range v.Reads {
		chosen := map[*catalogue.Line]bool{}
		for _, s := range r.Subjects {
			for _, l := range linesOf(s) {
				chosen[l] = true
			}
		}
		for l := range chosen {
			counts[l]++
		}
	}
	var out []LineUse
	for _, t := range tools {
		for _, l := range t.Lines {
			out = append(out, LineUse{t, l, counts[l]})
		}
	}
	return out
}

func linesOf(s assess.Subject) []*catalogue.Line {
	pins := s.Pins()
	if len(pins) > 0 && pins[0].Err == nil {
		if l := s.Tool.LineFor(pins[0].Set); l != nil {
			return []*catalogue.Line{l}
		}
	}
	var out []*catalogue.Line
	for _, r := range s.Resolutions {
		if r.Number.IsZero() {
			continue
		}
		if l := s.Tool.LineOf(r.Number); l != nil && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}

// Ending lists the lines in use whose support ends within the next twelve months, soonest first.
func (v *View) Ending() []LineUse {
	var out []LineUse
	until := v.Lens.Day.AddDate(1, 0, 0)
	for _, u := range v.Lines(v.ToolsInUse()) {
		if u.Repositories > 0 && !u.Line.End.IsZero() && !u.Line.EndedOn(v.Lens.Day) && !u.Line.End.After(until) {
			out = append(out, u)
		}
	}
	slices.SortStableFunc(out, func(a, b LineUse) int { return a.Line.End.Compare(b.Line.End.Time) })
	return out
}

// Days is how many whole days lie between a time and the view's day.
func (v *View) Days(t time.Time) int {
	return max(0, int(v.Lens.Day.AddDate(0, 0, 1).Sub(t).Hours()/24))
}
