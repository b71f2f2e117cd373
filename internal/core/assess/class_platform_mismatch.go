package assess

import (
	"slices"

	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

var platformMismatch = Class{
	"platform-mismatch", 5, Error, "Platform mismatch", "Platform", "platform",
	"a baseline that the repository adopts, or that a group of machines demands, is not met",
	nil, // judged over all tools of a folder
}

var companionMissing = Class{
	"companion-missing", 8, Error, "Companion missing", "Companion", "companion",
	"a package that a baseline wants in the chosen installation is not there, or is of another version",
	nil, // judged over all tools of a folder
}

// The ways in which a platform is not met.
const (
	AskedPlatform   Kind = "asked"   // what is asked for is not what it demands
	RunningPlatform Kind = "running" // what would run is not
	MissingPlatform Kind = "missing" // nothing that it demands is installed
	TornPlatform    Kind = "torn"    // two baselines that are adopted demand what no version is
	AbsentCompanion Kind = "absent"
	OtherCompanion  Kind = "other" // it is there in another version
)

// baselines reports demands that are not met.
func (v *viewCheck) baselines() {
	v.torn()
	for i, b := range v.Baselines {
		where := v.everyone()
		adopted := i < v.Adopted
		if len(b.Machines) > 0 {
			where = v.group(b.Machines)
		}
		for k := range b.Demands {
			v.demand(b, &b.Demands[k], adopted, where)
		}
		for k := range b.Companions {
			v.companion(b, &b.Companions[k], adopted, where)
		}
	}
}

// torn reports pairs of adopted baselines that demand what no version is.
func (v *viewCheck) torn() {
	for i, b := range v.Baselines[:v.Adopted] {
		for k := range b.Demands {
			for _, other := range v.Baselines[:i] {
				v.tornBy(b, &b.Demands[k], other)
			}
		}
	}
}

func (v *viewCheck) tornBy(b *rule.Baseline, d *rule.Demand, other *rule.Baseline) {
	at := slices.IndexFunc(v.Tools, func(t ToolEnd) bool { return t.Tool.Name == d.Name })
	n := slices.IndexFunc(other.Demands, func(o rule.Demand) bool { return o.Name == d.Name })
	if at < 0 || n < 0 || !v.Tools[at].Own || other.Demands[n].Set.Meets(d.Set) {
		return
	}
	end := BrokenEnd{TieEnd: TieEnd{OfTool, at}}
	v.verdicts = append(v.verdicts, Verdict{Class: &platformMismatch, Kind: TornPlatform, Machines: v.everyone(), Cause: other.Name + " " + b.Name + " " + d.Name,
		Tied: &Broken{Baseline: b, Demand: d, Adopted: true, Sure: true, Ends: []BrokenEnd{end}, Beside: other, Against: &other.Demands[n]}})
}

func (v *viewCheck) demand(b *rule.Baseline, d *rule.Demand, adopted bool, where resolve.Machines) {
	for n, p := range v.Parts {
		if p.Name == d.Name && !p.Set.Meets(d.Set) {
			end := BrokenEnd{TieEnd: TieEnd{OfPart, n}, Set: p.Set}
			v.verdicts = append(v.verdicts, Verdict{Class: &platformMismatch, Kind: AskedPlatform, Machines: where, Cause: b.Name + " " + d.Name,
				Tied: &Broken{Baseline: b, Demand: d, Adopted: adopted, Sure: p.Sure, Ends: []BrokenEnd{end}}})
		}
	}
	at := slices.IndexFunc(v.Tools, func(t ToolEnd) bool { return t.Tool.Name == d.Name })
	if at < 0 || !v.Tools[at].Own {
		return
	}
	r := v.tools[at].Resolved
	out := Verdict{Class: &platformMismatch, Cause: b.Name + " " + d.Name}
	end := BrokenEnd{TieEnd: TieEnd{OfTool, at}, Set: v.asked[at].Set}
	if asked := v.asked[at]; !asked.IsZero() && !asked.Set.Meets(d.Set) {
		out.Kind, out.Machines = AskedPlatform, where
		end.Claims = against(r, d.Set)
	} else {
		v.outside(r, d.Set, where, &out, &end)
	}
	if out.Kind != "" {
		out.Tied = &Broken{Baseline: b, Demand: d, Adopted: adopted, Sure: true, Ends: []BrokenEnd{end}}
		v.verdicts = append(v.verdicts, out)
	}
}

// against are the claims that leave nothing of a demand: one where one alone does.
func against(r *resolve.Resolved, demanded version.Set) []int {
	var out []int
	for i := range len(r.Pins) + len(r.Bounds) {
		s := r.At(i)
		if !s.Judges() || s.Set.IsAll() {
			continue
		}
		if !s.Set.Meets(demanded) {
			return []int{i}
		}
		out = append(out, i)
	}
	return out
}

// outside finds what would run outside a demand, and where the baseline decides and nothing
// that it demands is there.
func (v *viewCheck) outside(r *resolve.Resolved, demanded version.Set, where resolve.Machines, out *Verdict, end *BrokenEnd) {
	for i := range r.Outcomes {
		o := &r.Outcomes[i]
		m := o.Machines.Both(where)
		switch {
		case m.Len() == 0:
		case o.Number.IsZero() && o.DecidedBy == resolve.ByBaseline:
			out.Kind, out.Machines = MissingPlatform, out.Machines.And(m)
		case !o.Number.IsZero() && !demanded.Contains(o.Number):
			run := Run{Release: Release{Version: o.Version}, By: o.DecidedBy}
			if o.DecidedBy == resolve.ByOverride {
				run.Where = o.Where
			}
			if len(r.Pins) > 0 {
				end.Claims = []int{0}
			}
			end.Runs = addRun(end.Runs, run, m)
			out.Machines = out.Machines.And(m)
		}
	}
	if len(end.Runs) > 0 {
		out.Kind = RunningPlatform
	}
}

// companion reports packages that are not in the installation that would run.
func (v *viewCheck) companion(b *rule.Baseline, c *rule.Companion, adopted bool, where resolve.Machines) {
	at := slices.IndexFunc(v.Tools, func(t ToolEnd) bool { return t.Tool.Name == c.Tool })
	if at < 0 || !v.Tools[at].Own {
		return
	}
	out := Verdict{Class: &companionMissing, Kind: AbsentCompanion, Cause: b.Name + " " + c.Tool + " " + c.Package}
	end := BrokenEnd{TieEnd: TieEnd{OfTool, at}}
	for i := range where.All() {
		in := v.installed(at, i)
		if in == nil || len(in.Packages) == 0 && len(v.Tools[at].Tool.Installation.Packages) == 0 {
			continue // what is in it was not told
		}
		has, there := in.Packages[c.Package]
		number, err := v.Tools[at].Tool.Scheme().Parse(has)
		if there && (err != nil || c.Set.Contains(number)) {
			continue
		}
		if there {
			out.Kind = OtherCompanion
		}
		m := resolve.Machines{}.With(i)
		end.Runs = addRun(end.Runs, Run{Release: Release{Version: in.Version}, Other: Release{Version: has}}, m)
		out.Machines = out.Machines.And(m)
	}
	if len(end.Runs) == 0 {
		return
	}
	if len(v.tools[at].Resolved.Pins) > 0 {
		end.Claims = []int{0}
	}
	after := slices.ContainsFunc(v.verdicts, func(o Verdict) bool {
		return o.Class == &platformMismatch && o.Tied.Baseline == b && o.Tied.Demand.Name == c.Tool
	})
	out.Tied = &Broken{Baseline: b, Pack: c, Adopted: adopted, Sure: true, After: after, Ends: []BrokenEnd{end}}
	v.verdicts = append(v.verdicts, out)
}
