package view

import (
	"math"
	"slices"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Ruler is a tool's versions as an axis: lines are columns, positions are counted in them.
type Ruler struct {
	Lines    []*catalogue.Line
	Bars     []Bar
	Ticks    []Tick
	Feasible []Span
	day      time.Time
}

// Span is from one place on the axis to another.
type Span struct{ From, To float64 }

// Bar is a claim on the axis.
type Bar struct {
	Span
	Claim  claim.Claim
	Agrees bool // shares versions with every other claim together
}

// Tick is an installed version.
type Tick struct {
	Version  string
	At       float64
	Machines int
	Chosen   bool
}

// most is how many lines a ruler shows.
const most = 9

// RulerOf draws a subject: the lines around what is asked for and installed.
func (v *View) RulerOf(s assess.Subject) Ruler {
	r := Ruler{day: v.Lens.Day}
	r.Lines = v.columns(s)
	if len(r.Lines) == 0 {
		return r
	}
	feasible := s.Feasible()
	for _, a := range s.Claims {
		if !a.Judges() {
			continue
		}
		rest := version.All(s.Tool.Scheme())
		for _, b := range s.Claims {
			if b.Judges() && b.Claim != a.Claim {
				rest = rest.Intersect(b.Set)
			}
		}
		for _, span := range r.spans(s.Tool, a.Set) {
			r.Bars = append(r.Bars, Bar{span, a.Claim, !rest.Intersect(a.Set).IsEmpty() || rest.IsEmpty() && len(s.Claims) == 1})
			break // one bar a claim: from its first interval's start
		}
		if n := len(r.Bars); n > 0 {
			if all := r.spans(s.Tool, a.Set); len(all) > 1 {
				r.Bars[n-1].To = all[len(all)-1].To
			}
		}
	}
	r.Feasible = r.spans(s.Tool, feasible)
	r.ticks(v, s)
	return r
}

// columns picks the lines to show: those of claims and installations and what lies between.
func (v *View) columns(s assess.Subject) []*catalogue.Line {
	lines := s.Tool.Lines
	low, high := len(lines), -1
	mark := func(i int) { low, high = min(low, i), max(high, i) }
	for i, l := range lines {
		for _, a := range s.Claims {
			if !a.Judges() || a.Set.Intersect(l.Set()).IsEmpty() {
				continue
			}
			if a.Role == claim.Pin || i == 0 || a.Set.Intersect(lines[i-1].Set()).IsEmpty() {
				mark(i)
			}
		}
		for _, m := range v.Inputs.Machines {
			for _, in := range m.Installed(s.Tool.Name) {
				if l.Set().Contains(in.Number) {
					mark(i)
				}
			}
		}
	}
	if high < 0 {
		return nil
	}
	for high < len(lines)-1 && !v.Lens.Day.Before(lines[high+1].Released.Time) && high-low < most {
		high++
	}
	if high-low >= most {
		low = high - most + 1
	}
	return lines[low : high+1]
}

// spans places a set's intervals on the axis; parts outside it are cut off.
func (r *Ruler) spans(t *catalogue.Tool, set version.Set) []Span {
	var out []Span
	for i, l := range r.Lines {
		part := set.Intersect(l.Set())
		for _, iv := range part.Intervals() {
			from, to := float64(i), float64(i+1)
			if !iv.From.Unbounded() && iv.From.Text() != l.Set().Intervals()[0].From.Text() {
				from += place(t, l, iv.From.Text())
			}
			if !iv.To.Unbounded() && iv.To.Text() != l.Set().Intervals()[0].To.Text() {
				to = float64(i) + place(t, l, iv.To.Text())
			}
			if to <= from {
				to = from + 0.06
			}
			if n := len(out); n > 0 && math.Abs(out[n-1].To-from) < 1e-9 {
				out[n-1].To = to
			} else {
				out = append(out, Span{from, to})
			}
		}
	}
	return out
}

// place is where in its line a version lies, from 0 to 1: early numbers take most room.
func place(t *catalogue.Tool, l *catalogue.Line, text string) float64 {
	v, err := t.Scheme().Parse(text)
	if err != nil {
		return 0
	}
	first, err := t.Scheme().Parse(l.Line)
	if err != nil {
		return 0
	}
	return 0.04 + 0.92*version.Share(first, v)
}

func (r *Ruler) ticks(v *View, s assess.Subject) {
	chosen := map[string]bool{}
	for _, res := range s.Resolutions {
		chosen[res.Version] = true
	}
	for i, l := range r.Lines {
		counts := map[string]*Tick{}
		for _, m := range v.Inputs.Machines {
			for _, in := range m.Installed(s.Tool.Name) {
				r.count(counts, s.Tool, l, i, in)
			}
		}
		var ticks []Tick
		for _, t := range counts {
			t.Chosen = chosen[t.Version]
			ticks = append(ticks, *t)
		}
		slices.SortFunc(ticks, func(a, b Tick) int {
			if a.At < b.At {
				return -1
			}
			return 1
		})
		r.Ticks = append(r.Ticks, ticks...)
	}
}

func (r *Ruler) count(counts map[string]*Tick, t *catalogue.Tool, l *catalogue.Line, column int, in *inventory.Installed) {
	if !l.Set().Contains(in.Number) {
		return
	}
	if counts[in.Version] == nil {
		counts[in.Version] = &Tick{Version: in.Version, At: float64(column) + place(t, l, in.Version)}
	}
	counts[in.Version].Machines++
}

// Ended tells whether a line is out of support on the ruler's day.
func (r *Ruler) Ended(l *catalogue.Line) bool { return l.EndedOn(r.day) }
