package assess

import (
	"slices"
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

// Pathed is a folder and tool in which nothing pins what runs: what PATH finds, or the user's
// default.
type Pathed struct {
	Lack
	Wanting bool   // what runs is outside the bounds, or nothing does and something has to
	Default string // where the user's default stands that decides; empty where PATH does
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
		if o == nil || len(j.Resolved.Pins) == 0 && !baseline(o) {
			continue // what PATH finds
		}
		l := Lack{Result: r, Subject: s, Tool: s.Tool, Set: asks(j.Resolved)}
		switch {
		case lacks(o, s):
		case outgrown(o, j.Resolved):
			if l.Set = l.Set.Intersect(version.AtLeast(o.Number).Minus(version.Exactly(o.Number))); l.Set.IsEmpty() {
				continue // whatever is installed, the pin leads to what runs
			}
		default:
			continue
		}
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

// Pathed are the folders and tools of a repository in which nothing pins what runs on a machine
// and something is asked for, but for those that count apart and what comes with another tool.
func (r *Result) Pathed(fleet *resolve.Fleet, machine int, on time.Time) []Pathed {
	if !r.Among.Has(machine) {
		return nil
	}
	var out []Pathed
	for n, s := range r.Subjects {
		j := r.Judged[n]
		o := j.Resolved.Comes(machine)
		if s.Apart || s.Case.Brought || o == nil || len(j.Resolved.Pins) > 0 || o.DecidedBy == resolve.ByOverride || baseline(o) || j.Resolved.Conflict {
			continue
		}
		p := Pathed{Lack: Lack{Result: r, Subject: s, Tool: s.Tool, Set: asks(j.Resolved)}}
		p.Wanting = lacks(o, s) || outside(o, j.Resolved)
		if o.DecidedBy == resolve.ByDefault {
			p.Default = o.Where
		}
		if !p.Wanting && p.Set.IsAll() {
			continue // whatever runs will do
		}
		if left := r.left(n, p.Set, fleet, on); p.Wanting && !left.IsEmpty() {
			p.Set = left
		}
		out = append(out, p)
	}
	return out
}

// baseline reports whether an adopted baseline decides.
func baseline(o *resolve.Outcome) bool { return o.DecidedBy == resolve.ByBaseline }

// outside reports whether what runs is outside one of the bounds.
func outside(o *resolve.Outcome, r *resolve.Resolved) bool {
	return !o.Number.IsZero() && slices.ContainsFunc(r.Bounds, func(b resolve.Said) bool { return b.Err == nil && !b.Set.Contains(o.Number) })
}

// outgrown reports whether what runs by a pin is outside the bounds, and something newer that the
// pin admits is not.
func outgrown(o *resolve.Outcome, r *resolve.Resolved) bool {
	return (o.DecidedBy == resolve.ByPin || o.DecidedBy == resolve.ByInherited) && !r.Conflict && outside(o, r)
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

// Unready are the machines on which a repository does not run as it is asked for: something of
// it is to be installed there, or PATH runs another version and nothing follows version files.
func (r *Result) Unready(fleet *resolve.Fleet) resolve.Machines {
	out := r.unfollowed(fleet)
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
