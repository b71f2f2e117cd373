package view

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/report"
)

// Overview counts what needs attention.
type Overview struct {
	Healthy int // repositories without findings of which everything can be told
	Untold  int // those without findings of which something cannot
	Claims  int
	Apart   int // findings in folders that count apart
	Taken   Taken
	Classes []ClassCount // worst first; those without findings are left out
	Worst   []Trouble    // repositories with errors, most first
	Tools   []*catalogue.Tool
	Lines   map[*catalogue.Line]int // how many repositories use each
	Ending  []LineUse
	Bad     map[assess.Severity]int
}

// Taken is what repositories' own rules take away.
type Taken struct {
	Repositories     []string
	Claims, Findings int
	Quiet            int // repositories without findings whose own rules take some away
}

// quiet reports whether a repository has no findings since its own rules take them away.
func quiet(r report.Read) bool {
	return r.Count() == 0 && slices.ContainsFunc(r.Taken, func(t assess.Taken) bool { return t.Count() > 0 })
}

// ClassCount counts a class's findings by the age of their first sight.
type ClassCount struct {
	Class    *assess.Class
	Severity assess.Severity // the worst that one of them has
	Total    int
	Week     int // 0 to 7 days
	Month    int // 8 to 30
	Quarter  int // 31 to 90
	Older    int
}

// Overview counts, once for each view.
func (v *View) Overview() *Overview {
	v.once.overview.Do(func() { v.summary = v.overview() })
	return &v.summary
}

func (v *View) overview() Overview {
	out := Overview{Bad: map[assess.Severity]int{}, Lines: map[*catalogue.Line]int{}}
	byClass := map[*assess.Class]*ClassCount{}
	tools := map[*catalogue.Tool]bool{}
	count := func(f *assess.Finding) {
		c := byClass[f.Class]
		if c == nil {
			c = &ClassCount{Class: f.Class, Severity: f.Severity}
			byClass[f.Class] = c
		}
		if f.Severity.Rank() > c.Severity.Rank() {
			c.Severity = f.Severity
		}
		c.add(v.Age(f))
		out.Bad[f.Severity]++
	}
	for _, f := range v.Machinery() {
		count(f)
	}
	for _, r := range v.Reads {
		out.Claims += len(r.Claims)
		t := Trouble{Repository: r.Name}
		if len(r.Taken) > 0 {
			out.Taken.Repositories = append(out.Taken.Repositories, r.Name)
		}
		for _, one := range r.Taken {
			out.Taken.Claims += one.Claims
			out.Taken.Findings += one.Count()
		}
		for _, f := range r.Findings {
			if f.Standing() != assess.Apart {
				count(f)
			}
		}
		own := assess.TallyOf(r.Findings)
		counted := own.Counted
		out.Apart += own.Apart
		t.Errors, t.Warnings = own.BySeverity[assess.Error], own.BySeverity[assess.Warning]
		switch {
		case counted > 0:
		case quiet(r):
			out.Taken.Quiet++
		case r.Untold() > 0:
			out.Untold++
		default:
			out.Healthy++
		}
		if t.Errors > 0 {
			out.Worst = append(out.Worst, t)
		}
		used := map[*catalogue.Line]bool{}
		for i, s := range r.Subjects {
			if s.Apart {
				continue
			}
			tools[s.Tool] = true
			for _, l := range r.Judged[i].Lines {
				used[l] = true
			}
		}
		for l := range used {
			out.Lines[l]++
		}
	}
	for _, known := range assess.Classes() {
		if c := byClass[known]; c != nil {
			out.Classes = append(out.Classes, *c)
		}
	}
	slices.SortFunc(out.Worst, func(a, b Trouble) int {
		return cmp.Or(b.Errors-a.Errors, b.Warnings-a.Warnings, strings.Compare(a.Repository, b.Repository))
	})
	for t := range tools {
		out.Tools = append(out.Tools, t)
	}
	slices.SortFunc(out.Tools, func(a, b *catalogue.Tool) int {
		return strings.Compare(strings.ToLower(a.Title), strings.ToLower(b.Title))
	})
	out.Ending = v.ending(&out)
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

// LineUse is a line with how many repositories use it.
type LineUse struct {
	Tool         *catalogue.Tool
	Line         *catalogue.Line
	Repositories int
}

// Lines counts, for every line of the tools, the repositories that use it: by their pin, or
// because it would run.
func (v *View) Lines(tools []*catalogue.Tool) []LineUse { return v.Overview().uses(tools) }

func (o *Overview) uses(tools []*catalogue.Tool) []LineUse {
	var out []LineUse
	for _, t := range tools {
		for _, l := range t.Lines {
			out = append(out, LineUse{t, l, o.Lines[l]})
		}
	}
	return out
}

// ending lists the lines in use whose support ends within the next twelve months, soonest first.
func (v *View) ending(o *Overview) []LineUse {
	var out []LineUse
	until := v.Day.AddDate(1, 0, 0)
	for _, u := range o.uses(o.Tools) {
		if u.Repositories > 0 && !u.Line.End.IsZero() && !u.Line.EndedOn(day.On(v.Day)) && !u.Line.End.After(until) {
			out = append(out, u)
		}
	}
	slices.SortStableFunc(out, func(a, b LineUse) int { return a.Line.End.Compare(b.Line.End.Time) })
	return out
}

// Days is how many whole days lie between a time and the view's day, or today where the
// view looks ahead: nothing grows old by being looked at from later on.
func (v *View) Days(t, today time.Time) int {
	day := v.Day
	if today.Before(day) {
		day = today
	}
	return max(0, int(day.AddDate(0, 0, 1).Sub(t).Hours()/24))
}
