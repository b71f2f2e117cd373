package assess

import (
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// check is a case on a fleet and a day, of which each class asks whether it holds.
type check struct {
	*resolve.Resolved // the question as it stands on the day, and what would run
	Case              *Case
	Tooling           *resolve.Tooling
	on                *day.Day
	class             *Class
	verdicts          []Verdict
	admitted          *version.Set      // by the bounds, once it was asked for
	advised           *Advice           // once it was asked for
	reasoned          *reasoning        // once it was asked for
	pinned            **catalogue.Line  // once it was asked for
	phases            []phase           // of each of the tool's lines, once it was asked for
	lines             []*catalogue.Line // of each outcome, once they were asked for
}

// report adds a verdict of the class that is asked.
func (k *check) report(v Verdict) {
	if v.Class == nil {
		v.Class = k.class
	}
	k.verdicts = append(k.verdicts, v)
}

// first is the deciding pin; nil where nothing is pinned.
func (k *check) first() *resolve.Said {
	if len(k.Pins) == 0 {
		return nil
	}
	return &k.Pins[0]
}

// everyone is all machines.
func (k *check) everyone() resolve.Machines { return k.Tooling.Everyone }

func machinesOf(list []*resolve.Outcome) resolve.Machines {
	var out resolve.Machines
	for _, o := range list {
		out = out.And(o.Machines)
	}
	return out
}

// those are the outcomes for which something holds.
func (k *check) those(holds func(*resolve.Outcome) bool) []*resolve.Outcome {
	var out []*resolve.Outcome
	for i := range k.Outcomes {
		if holds(&k.Outcomes[i]) {
			out = append(out, &k.Outcomes[i])
		}
	}
	return out
}

func running(o *resolve.Outcome) bool { return o.Runs() }

// runs tells what would run on which machines and what decides that, in the order of the
// machines. What is the same but for what a pin's ladder says is one.
func runs(list []*resolve.Outcome) []Run {
	var out []Run
	for _, o := range list {
		r := Run{Release: Release{Version: o.Version}, By: o.DecidedBy}
		if o.DecidedBy == resolve.ByOverride {
			r.Where, r.Raw = o.Where, o.Raw
		}
		out = addRun(out, r, o.Machines)
	}
	return out
}

// addRun adds machines to a run, which is added where it is new.
func addRun(list []Run, r Run, m resolve.Machines) []Run {
	for i := range list {
		same := &list[i]
		if same.Release == r.Release && same.Other == r.Other && same.Path == r.Path && same.By == r.By && same.Where == r.Where && same.Raw == r.Raw {
			list[i].Machines = list[i].Machines.And(m)
			return list
		}
	}
	r.Machines = m
	return append(list, r)
}

// bounded is what all bounds that can be read admit.
func (k *check) bounded() version.Set {
	if k.admitted == nil {
		out := version.All(k.Tool.Scheme())
		for i := range k.Bounds {
			if k.Bounds[i].Err == nil {
				out = out.Intersect(k.Bounds[i].Set)
			}
		}
		k.admitted = &out
	}
	return *k.admitted
}

// ending reports whether a line is still supported but not for long enough.
func (k *check) ending(l *catalogue.Line) bool { return k.phase(l).ending }

func (k *check) endsSoon(l *catalogue.Line) bool {
	if l.End.IsZero() || l.EndedOn(k.on) {
		return false
	}
	return !k.Case.Ends.IsZero() && k.Case.Ends.After(l.End.Time) || k.on.Reached(policy.Warns(l.End.Time, k.Case.Horizon))
}

// judged are the claims that a wired version is compared with: the deciding pin, or the
// bounds where nothing is pinned.
func (k *check) judged() []Ref {
	if len(k.Pins) > 0 {
		return []Ref{{Of: AtPin}}
	}
	var out []Ref
	for i := range k.Bounds {
		out = append(out, Ref{Of: AtBound, N: i})
	}
	return out
}

func (k *check) said(r Ref) *resolve.Said {
	if r.Of == AtPin {
		return &k.Pins[r.N]
	}
	return &k.Bounds[r.N]
}

// unreadable reports whether a set says nothing.
func unreadable(s *resolve.Said) bool { return s.Silent() || s.Set.IsEmpty() }

// editing are the machines on which people edit.
func (k *check) editing() resolve.Machines {
	var out resolve.Machines
	for _, c := range k.Tooling.Classes {
		if editors(c) {
			out = out.And(c.Machines)
		}
	}
	return out
}

// editors reports whether people edit on machines of this kind.
func editors(c *resolve.Class) bool {
	kind := c.Inventory.Machine.Kind
	return kind != "build-agent" && kind != "image" && kind != "server"
}
