package view

import (
	"math"
	"slices"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Ruler is a tool's versions as an axis: lines are columns, positions are counted in them.
type Ruler struct {
	Lines    []*catalogue.Line
	Bars     []Bar
	Ticks    []Tick
	Points   []Point
	Feasible []Span
	day      time.Time
	gaps     map[*catalogue.Line]bool
	places   map[string]float64 // a version's place in its line, from 0 to 1
}

// Span is from one place on the axis to another.
type Span struct{ From, To float64 }

// Bar is a claim on the axis.
type Bar struct {
	Span
	Gaps   []Span // what the claim leaves out inside; one version alone has no width
	Claim  claim.Claim
	Agrees bool // not one of those that cannot hold together
}

// Tick is an installed version.
type Tick struct {
	Version  string
	At       float64
	Machines int
	Chosen   bool
}

// Point is a version that an editor is wired to.
type Point struct {
	Version string
	At      float64
	Agrees  bool // in the set that pins and bounds allow together
}

// most is how many lines a ruler shows.
const most = 9

// RulerOf draws a subject: the lines around what is asked for and installed.
func (v *View) RulerOf(r *assess.Result, n int) Ruler {
	return v.ruler(standing{r.Subjects[n], r.Judged[n]})
}

func (v *View) ruler(s standing) Ruler {
	r := Ruler{day: v.Day}
	r.Lines = v.columns(s)
	if len(r.Lines) == 0 {
		return r
	}
	r.gaps = map[*catalogue.Line]bool{}
	for i := 1; i < len(r.Lines); i++ {
		before := slices.Index(s.Tool.Lines, r.Lines[i]) - 1
		r.gaps[r.Lines[i]] = s.Tool.Lines[before] != r.Lines[i-1]
	}
	r.place(v, s)
	conflict := s.Resolved.Contradiction()
	for i := range len(s.Pins) + len(s.Bounds) {
		said := s.Resolved.At(i)
		spans := r.spans(s.Tool, said.Set)
		if !said.Judges() || len(spans) == 0 {
			continue
		}
		whole := Span{spans[0].From, spans[len(spans)-1].To}
		r.Bars = append(r.Bars, Bar{whole, r.leftOut(s.Tool, said.Set, spans), *s.Asked(i).Claim, !slices.Contains(conflict, i)})
	}
	r.Feasible = r.spans(s.Tool, s.Resolved.Feasible)
	r.ticks(v, s)
	r.points(v, s)
	return r
}

// columns picks the lines to show: those of claims and installations and what lies between.
func (v *View) columns(s standing) []*catalogue.Line {
	lines := s.Tool.Lines
	low, high := len(lines), -1
	marked := map[*catalogue.Line]bool{}
	mark := func(i int) { low, high, marked[lines[i]] = min(low, i), max(high, i), true }
	for i, l := range lines {
		for n := range len(s.Pins) + len(s.Bounds) {
			said := s.Resolved.At(n)
			if !said.Judges() || !said.Set.Overlaps(l.Set()) {
				continue
			}
			if n < len(s.Pins) || i == 0 || !said.Set.Overlaps(lines[i-1].Set()) {
				mark(i)
			}
		}
		for _, m := range v.Machines {
			for _, in := range m.Installed(s.Tool.Name) {
				if !in.Private && l.Set().Contains(in.Number) {
					mark(i)
				}
			}
		}
	}
	if high < 0 {
		return nil
	}
	for high < len(lines)-1 && !v.Day.Before(lines[high+1].Released.Time) {
		high++
	}
	return v.thinned(lines[low:high+1], marked)
}

// thinned leaves out ended lines that nothing speaks of, oldest first, until few enough are left.
func (v *View) thinned(lines []*catalogue.Line, marked map[*catalogue.Line]bool) []*catalogue.Line {
	out := slices.Clone(lines)
	for _, l := range lines {
		if len(out) <= most {
			break
		}
		if !marked[l] && l.EndedOn(day.On(v.Day)) {
			out = slices.DeleteFunc(out, func(x *catalogue.Line) bool { return x == l })
		}
	}
	return out[max(0, len(out)-most):]
}

// spans places a set's intervals on the axis; parts outside it are cut off.
func (r *Ruler) spans(t *catalogue.Tool, set version.Set) []Span {
	var out []Span
	for i, l := range r.Lines {
		part := set.Intersect(l.Set())
		for _, iv := range part.Intervals() {
			from, to := float64(i), float64(i+1)
			if !iv.From.Unbounded() && iv.From.Text() != l.Set().Intervals()[0].From.Text() {
				from += r.within(t, iv.From.Text())
			}
			if !iv.To.Unbounded() && iv.To.Text() != l.Set().Intervals()[0].To.Text() {
				to = float64(i) + r.within(t, iv.To.Text())
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

// leftOut is the gaps between a claim's spans, and the single versions it leaves out by name.
func (r *Ruler) leftOut(t *catalogue.Tool, set version.Set, spans []Span) []Span {
	var out []Span
	for n := 1; n < len(spans); n++ {
		out = append(out, Span{spans[n-1].To, spans[n].From})
	}
	for _, gap := range set.Gaps() {
		number, err := t.Scheme().Parse(gap.From.Text())
		if !gap.Hole || err != nil {
			continue
		}
		for i, l := range r.Lines {
			if at := float64(i) + r.within(t, gap.From.Text()); l.Set().Contains(number) {
				out = append(out, Span{at, at})
			}
		}
	}
	return out
}

// place finds where in its line each version stands that is installed or bounds a
// claim: evenly spaced in their order, so that none hides another.
func (r *Ruler) place(v *View, s standing) {
	r.places = map[string]float64{}
	for _, l := range r.Lines {
		var found []version.Version
		add := func(text string) {
			number, err := s.Tool.Scheme().Parse(text)
			if err == nil && l.Set().Contains(number) && !slices.ContainsFunc(found, func(o version.Version) bool { return o.String() == number.String() }) {
				found = append(found, number)
			}
		}
		for _, m := range v.Machines {
			for _, in := range m.Installed(s.Tool.Name) {
				if !in.Private {
					add(in.Version)
				}
			}
		}
		whole := l.Set().Intervals()[0]
		for n := range len(s.Pins) + len(s.Bounds) {
			for _, iv := range s.Resolved.At(n).Set.Intervals() {
				for _, cut := range []version.Cut{iv.From, iv.To} {
					if !cut.Unbounded() && cut.Text() != whole.From.Text() && cut.Text() != whole.To.Text() {
						add(cut.Text())
					}
				}
			}
		}
		slices.SortFunc(found, version.Version.Compare)
		for i, number := range found {
			r.places[number.String()] = float64(i+1) / float64(len(found)+1)
		}
	}
}

// within is where in its line a version stands, from 0 to 1.
func (r *Ruler) within(t *catalogue.Tool, text string) float64 {
	number, err := t.Scheme().Parse(text)
	if err != nil {
		return 0
	}
	return r.places[number.String()]
}

func (r *Ruler) ticks(v *View, s standing) {
	chosen := map[string]bool{}
	for _, o := range s.Resolved.Outcomes {
		chosen[o.Version] = true
	}
	for i, l := range r.Lines {
		counts := map[string]*Tick{}
		for _, m := range v.Machines {
			for _, in := range m.Installed(s.Tool.Name) {
				if !in.Private {
					r.count(counts, s.Tool, l, i, in)
				}
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

// points follows the wirings of the subject on every machine.
func (r *Ruler) points(v *View, s standing) {
	feasible := s.Resolved.Feasible
	for _, w := range s.With(claim.Wiring) {
		for _, m := range v.Machines {
			in, _ := m.At(s.Tool.Name, w.Raw)
			if in == nil || w.Serves == "editor" || slices.ContainsFunc(r.Points, func(p Point) bool { return p.Version == in.Version }) {
				continue
			}
			for i, l := range r.Lines {
				if l.Set().Contains(in.Number) {
					r.Points = append(r.Points, Point{in.Version, float64(i) + r.within(s.Tool, in.Version), feasible.Contains(in.Number)})
				}
			}
		}
	}
}

func (r *Ruler) count(counts map[string]*Tick, t *catalogue.Tool, l *catalogue.Line, column int, in *inventory.Installed) {
	if !l.Set().Contains(in.Number) {
		return
	}
	if counts[in.Version] == nil {
		counts[in.Version] = &Tick{Version: in.Version, At: float64(column) + r.within(t, in.Version)}
	}
	counts[in.Version].Machines++
}

// Gap tells whether lines were left out before the one at i.
func (r *Ruler) Gap(i int) bool { return i > 0 && r.gaps[r.Lines[i]] }

// Ended tells whether a line is out of support on the ruler's day.
func (r *Ruler) Ended(l *catalogue.Line) bool { return l.EndedOn(day.On(r.day)) }
