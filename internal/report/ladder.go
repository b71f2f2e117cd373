package report

import (
	"iter"
	"slices"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/day"
	"wexo/internal/core/resolve"
)

// Rung is one place a version can come from, and what it says there. Where machines differ
// on it, each answer is one, with the machines that give it.
type Rung struct {
	Rung     int      `json:"rung"` // its place on the ladder, from 1, the strongest
	Source   string   `json:"source"`
	Says     bool     `json:"says"`
	Raw      string   `json:"raw,omitempty"`
	Where    string   `json:"where,omitempty"`
	Version  string   `json:"version,omitempty"`
	Path     string   `json:"path,omitempty"` // where the machines share it
	Decides  bool     `json:"decides"`
	Note     string   `json:"note,omitempty"`
	Machines []string `json:"machines,omitempty"` // where others give another answer
}

// Laddered are a subject's resolutions, of which machines that come to the same are one,
// each with its ladder. A ladder is built when it is taken.
func (w Wording) Laddered(s *assess.Subject, j *assess.Judged, on time.Time) iter.Seq[func() Resolution] {
	return func(yield func(func() Resolution) bool) {
		for _, g := range groups(j.Resolved.Outcomes) {
			if !yield(func() Resolution { return w.laddered(s, j, g, on) }) {
				return
			}
		}
	}
}

func (w Wording) laddered(s *assess.Subject, j *assess.Judged, g group, on time.Time) Resolution {
	r := w.resolution(g)
	var rungs [][]answer
	for _, c := range w.Fleet.Of(s.Tool).Classes {
		if !g.machines.Has(c.Machines.First()) {
			continue
		}
		if version, differs := assess.AsItIs(j.Resolved, c); differs {
			r.AsItIs = asItIs(r.AsItIs, version, w.Fleet.Names(c.Machines))
		}
		for n, rung := range resolve.Ladder(s.Subject, s.Case.Question, s.Pins, c, day.On(on)) {
			if n == len(rungs) {
				rungs = append(rungs, nil)
			}
			rungs[n] = together(rungs[n], answer{rung, c.Machines})
		}
	}
	for n, answers := range rungs {
		for _, a := range answers {
			rung := Rung{Rung: n + 1, Source: a.Source, Says: a.Says, Raw: a.Raw, Where: a.Where, Version: a.Version, Path: a.Path, Decides: a.Decides, Note: a.Note}
			if len(answers) > 1 {
				rung.Machines = w.Fleet.Names(a.machines)
			}
			r.Ladder = append(r.Ladder, rung)
		}
	}
	return r
}

// asItIs adds what PATH runs on some machines.
func asItIs(list []AsItIs, version string, machines []string) []AsItIs {
	for i := range list {
		if list[i].Version == version {
			list[i].Machines = append(list[i].Machines, machines...)
			return list
		}
	}
	return append(list, AsItIs{version, machines})
}

// answer is what some machines say on a rung.
type answer struct {
	resolve.Rung
	machines resolve.Machines
}

// together adds an answer. Those that differ in nothing but where the same lies are one,
// without a path.
func together(list []answer, one answer) []answer {
	at := slices.IndexFunc(list, func(a answer) bool { return a.like(one) })
	if at < 0 {
		return append(list, one)
	}
	a := &list[at]
	a.machines = a.machines.And(one.machines)
	if a.Path != one.Path || a.Where != one.Where {
		a.Path = ""
		if a.Source == resolve.ByPath {
			a.Where = ""
		}
	}
	return list
}

func (a answer) like(o answer) bool {
	return a.Source == o.Source && a.Says == o.Says && a.Raw == o.Raw && a.Version == o.Version && a.Decides == o.Decides && a.Note == o.Note &&
		(a.Where == o.Where || a.Source == resolve.ByPath)
}
