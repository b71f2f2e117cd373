package assess

import (
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// Lack is a folder and tool of which a machine has nothing that would do.
type Lack struct {
	Result  *Result
	Subject *Subject
	Tool    *catalogue.Tool
	Set     version.Set // what would do: by pins and bounds, and as far as rules leave something of that
	Build   inventory.Build
	Exact   string // the version that the pin names, where it names one alone
}

// Lacks are the folders and tools of a repository that cannot run on a machine, but for those
// that count apart and what comes with another tool.
func (r *Result) Lacks(fleet *resolve.Fleet, machine int, on time.Time) []Lack {
	if !r.Among.Has(machine) {
		return nil
	}
	var out []Lack
	for n, s := range r.Subjects {
		j := r.Judged[n]
		if s.Apart || s.Case.Brought {
			continue
		}
		o := j.Resolved.Comes(machine)
		if o == nil || !lacks(o, s) {
			continue
		}
		l := Lack{Result: r, Subject: s, Tool: s.Tool, Set: asks(j.Resolved)}
		if pins := j.Resolved.Pins; len(pins) > 0 {
			l.Build = pins[0].Build()
			if v, err := s.Tool.Scheme().Parse(pins[0].Raw); err == nil && l.Set.Contains(v) && l.Set.SubsetOf(version.Exactly(v)) {
				l.Exact = v.String()
			}
		}
		if left := r.left(n, l.Set, fleet, on); !left.IsEmpty() {
			l.Set = left
		}
		out = append(out, l)
	}
	return out
}

// lacks reports whether what a machine comes to means that something is to be installed.
func lacks(o *resolve.Outcome, s *Subject) bool {
	switch {
	case o.DecidedBy == resolve.ByOverride:
		return false // the variable decides, whatever is installed
	case o.State == resolve.Missing:
		return true
	case o.State == resolve.Conflict:
		return !o.Runs()
	}
	return o.State == resolve.Absent && s.Case.Needed
}

// asks is what a question comes to: of a contradiction what the first pin asks for.
func asks(r *resolve.Resolved) version.Set {
	if !r.Conflict {
		return r.Feasible
	}
	if len(r.Pins) > 0 && r.Pins[0].Judges() {
		return r.Pins[0].Set
	}
	return version.All(r.Tool.Scheme())
}

// left is what the folder's rules and adopted baselines leave of a set for the n-th subject.
func (r *Result) left(n int, set version.Set, fleet *resolve.Fleet, on time.Time) version.Set {
	for _, v := range r.Viewed {
		at := -1
		for i, place := range v.places {
			if place == n {
				at = i
			}
		}
		if at < 0 {
			continue
		}
		check := &viewCheck{ViewCase: v.Case, fleet: fleet.Among(r.Among), on: day.On(on)}
		for _, place := range v.places {
			check.tools = append(check.tools, r.Judged[place])
			check.asked = append(check.asked, askedOf(r.Judged[place].Resolved))
		}
		for i := range v.Case.Ties {
			t := &v.Case.Ties[i]
			values := check.values(t)
			for end := range t.Ends {
				if t.Ends[end].Of != OfTool || t.Ends[end].N != at || r.Judged[n].Resolved.Tool.Scheme() != t.Rule.Left(end, values).Scheme() {
					continue
				}
				values[end] = rule.Value{}
				set = set.Intersect(t.Rule.Left(end, values))
			}
		}
		for _, b := range v.Case.Baselines {
			for _, d := range b.Demands {
				if d.Name == r.Subjects[n].Tool.Name {
					set = set.Intersect(d.Set)
				}
			}
		}
	}
	return set
}

// Unready are the machines on which a repository cannot run as it is asked for: something of
// it is to be installed there.
func (r *Result) Unready() resolve.Machines {
	var out resolve.Machines
	for n, s := range r.Subjects {
		if s.Apart || s.Case.Brought {
			continue
		}
		for i := range r.Judged[n].Resolved.Outcomes {
			if o := &r.Judged[n].Resolved.Outcomes[i]; lacks(o, s) {
				out = out.And(o.Machines)
			}
		}
	}
	return out
}
