package assess

import (
	"slices"
	"time"

	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// ViewJudged is a folder's case judged for a fleet, for as many days as its verdicts hold.
type ViewJudged struct {
	Case     *ViewCase
	Verdicts []Verdict
	Span     day.Span
	tools    []*Judged
	toolings []*resolve.Tooling // by which was found what would mend it; nil where there is nothing to mend
	fleet    *resolve.Fleet     // nil where nothing but what runs matters
}

// Broken is a rule or a demand that does not hold in a folder.
type Broken struct {
	Rule     *rule.Rule // nil where a baseline's demand is meant
	Rows     []*rule.Row
	Ends     []BrokenEnd // of the rule, or the one that a demand is of
	Baseline *rule.Baseline
	Demand   *rule.Demand
	Pack     *rule.Companion // that has to come along
	Beside   *rule.Baseline  // of two that contradict each other, the first, with its demand
	Against  *rule.Demand
	Adopted  bool     // otherwise the machines demand it that build the repository
	Sure     bool     // false where it rests on the range of a component
	Moves    []Move   // what would satisfy it, and everything else
	Best     []Chosen // of each tool what would satisfy all
	Brought  string   // what an installation tells that it brings; empty where none does
	Chain    []Link   // where no rule alone is broken: what cannot hold together
	Decided  bool     // whether there is a joint answer is known
	After    bool     // of a package: another installation has to run first
}

// BrokenEnd is one side of what does not hold.
type BrokenEnd struct {
	TieEnd
	Claims []int       // places among the tool's pins and behind them its bounds
	Set    version.Set // what is asked for, or what it is
	Runs   []Run       // what would run instead of it
	Setups []Ref       // what is set up instead of it
}

// viewCheck is a folder's case on a fleet and a day.
type viewCheck struct {
	*ViewCase
	tools    []*Judged
	toolings []*resolve.Tooling
	fleet    *resolve.Fleet
	on       *day.Day
	asked    []rule.Value // of each tool
	verdicts []Verdict
	answer   *Joint
}

// judgeView judges a case, unless that was done with the same for a span in which the day lies.
func judgeView(c *ViewCase, tools []*Judged, toolings []*resolve.Tooling, fleet *resolve.Fleet, on time.Time) *ViewJudged {
	var bound *resolve.Fleet
	if c.looksAtMachines() {
		bound = fleet
	}
	c.mu.Lock()
	for _, known := range c.judged {
		if known.fleet == bound && known.Span.Holds(on) && slices.Equal(known.tools, tools) && (known.toolings == nil || slices.Equal(known.toolings, toolings)) {
			c.mu.Unlock()
			return known
		}
	}
	c.mu.Unlock()
	v := &viewCheck{ViewCase: c, tools: tools, toolings: toolings, fleet: fleet, on: day.On(on)}
	for _, j := range tools {
		v.on.Note(j.Span)
	}
	v.judge()
	out := &ViewJudged{Case: c, Verdicts: v.verdicts, Span: v.on.Span(), tools: tools, fleet: bound}
	if len(out.Verdicts) > 0 {
		out.toolings = toolings
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	// What was judged of the same with other installations is of a fleet that was replaced.
	c.judged = slices.DeleteFunc(slices.Clone(c.judged), func(o *ViewJudged) bool {
		return o.Span == out.Span && o.fleet == bound && slices.Equal(o.tools, tools)
	})
	if len(c.judged) == mostSpans {
		c.judged = c.judged[1:]
	}
	c.judged = append(c.judged[:len(c.judged):len(c.judged)], out)
	return out
}

// looksAtMachines reports whether more matters than which version runs where.
func (c *ViewCase) looksAtMachines() bool {
	for _, t := range c.Ties {
		if t.Rule.Brings && t.Rule.Fixed || slices.ContainsFunc(t.Ends, func(e TieEnd) bool { return e.Of == OfLabel || e.Of == OfTheMachine }) {
			return true
		}
	}
	return len(c.Baselines) > 0
}

func (v *viewCheck) judge() {
	for _, j := range v.tools {
		v.asked = append(v.asked, askedOf(j.Resolved))
	}
	for i := range v.Ties {
		broken := len(v.verdicts)
		if v.tie(&v.Ties[i]); len(v.verdicts) == broken {
			v.unwritten(&v.Ties[i])
		}
	}
	if len(v.verdicts) == 0 && len(v.Ties) > 0 && len(v.Ties)+v.Adopted > 1 {
		v.jointly()
	}
	v.baselines()
	for i := range v.verdicts {
		v.settle(&v.verdicts[i])
	}
}

// askedOf is what pins and bounds ask for together; where they contradict each other, what
// the deciding pin does.
func askedOf(r *resolve.Resolved) rule.Value {
	set := r.Feasible
	if r.Conflict {
		if len(r.Pins) == 0 || !r.Pins[0].Judges() || r.Pins[0].Unknown != "" {
			return rule.Value{}
		}
		set = r.Pins[0].Set
	}
	if set.IsEmpty() || set.IsAll() {
		return rule.Value{}
	}
	return rule.Value{Set: set}
}

// boundsOf is what bounds alone ask for.
func boundsOf(r *resolve.Resolved) rule.Value {
	set := version.All(r.Tool.Scheme())
	for i := range r.Bounds {
		if r.Bounds[i].Judges() {
			set = set.Intersect(r.Bounds[i].Set)
		}
	}
	if set.IsEmpty() || set.IsAll() {
		return rule.Value{}
	}
	return rule.Value{Set: set}
}

// values are what is asked for at the ends of a rule.
func (v *viewCheck) values(t *Tie) []rule.Value {
	out := make([]rule.Value, len(t.Ends))
	for i := range t.Ends {
		out[i] = v.value(t, i)
	}
	return out
}

// value is what is asked for at an end.
func (v *viewCheck) value(t *Tie, end int) rule.Value {
	switch e := t.Ends[end]; e.Of {
	case OfTool:
		if v.elsewhere(t, end) {
			return boundsOf(v.tools[e.N].Resolved)
		}
		return v.asked[e.N]
	case OfPart:
		return rule.Value{Set: v.Parts[e.N].Set}
	case OfLabel:
		if pins := v.tools[e.N].Resolved.Pins; len(pins) > 0 {
			return rule.Value{Word: map[string]string{"vendor": pins[0].Vendor, "variant": pins[0].Variant, "package": pins[0].Package, "arch": pins[0].Arch}[t.Rule.Ends[end].Label]}
		}
	}
	return rule.Value{}
}

// elsewhere reports whether the pins of a tool say nothing of what a rule is about: it is
// about what runs the build, and they are about the code.
func (v *viewCheck) elsewhere(t *Tie, end int) bool {
	e := t.Ends[end]
	return e.Of == OfTool && t.Rule.Builds && v.Tools[e.N].CodeOnly
}

// tie reports a rule that does not hold with what is asked for, or with what would run.
func (v *viewCheck) tie(t *Tie) {
	values := v.values(t)
	if t.Rule.Brings && !t.Rule.Fixed && v.pinned(t, 1) {
		return // what is pinned for itself is not what comes along
	}
	if t.Rule.Brings && t.Rule.Fixed {
		v.brought(t, values)
		return
	}
	if !t.Rule.Admits(values) {
		v.report(t, values, nil)
		return
	}
	v.running(t, values)
	v.setups(t, values)
}

func (v *viewCheck) pinned(t *Tie, end int) bool {
	e := t.Ends[end]
	return e.Of == OfTool && len(v.tools[e.N].Resolved.Pins) > 0
}

func (v *viewCheck) everyone() resolve.Machines { return v.fleet.Everyone() }

// combination is what runs of several tools on machines that are alike in it.
type combination struct {
	values   []rule.Value
	outcomes []*resolve.Outcome // of each end, nil where nothing runs that is known
	machines resolve.Machines
}

// running reports a rule that does not hold with what would run somewhere.
func (v *viewCheck) running(t *Tie, values []rule.Value) {
	here := slices.ContainsFunc(t.Ends, func(e TieEnd) bool { return e.Of == OfPart || e.Of == OfTool && v.Tools[e.N].Decides })
	if !here || t.Rule.Brings || v.comesAlong(t) {
		return
	}
	var broken []combination
	for _, c := range v.combinations(t, values) {
		if !t.Rule.Admits(c.values) {
			broken = append(broken, c)
		}
	}
	if len(broken) > 0 {
		v.report(t, values, broken)
	}
}

// comesAlong reports whether one of a rule's tools comes with another of them and is not
// pinned: what runs then is what comes along, and not what a terminal finds first.
func (v *viewCheck) comesAlong(t *Tie) bool {
	return slices.ContainsFunc(t.Ends, func(e TieEnd) bool {
		if e.Of != OfTool || len(v.tools[e.N].Resolved.Pins) > 0 || v.Tools[e.N].Tool.BundledWith == "" {
			return false
		}
		return slices.ContainsFunc(t.Ends, func(o TieEnd) bool { return o.Of == OfTool && v.Tools[o.N].Tool.Name == v.Tools[e.N].Tool.BundledWith })
	})
}

// combinations are what runs of a rule's tools together, on which machines.
func (v *viewCheck) combinations(t *Tie, values []rule.Value) []combination {
	if slices.ContainsFunc(t.Ends, func(e TieEnd) bool { return e.Of == OfLabel || e.Of == OfTheMachine }) {
		return v.each(t, values)
	}
	list := []combination{{values: values, outcomes: make([]*resolve.Outcome, len(values)), machines: v.everyone()}}
	for i, e := range t.Ends {
		if e.Of != OfTool || v.elsewhere(t, i) {
			continue
		}
		var next []combination
		outcomes := v.tools[e.N].Resolved.Outcomes
		for _, c := range list {
			for k := range outcomes {
				o := &outcomes[k]
				if both := c.machines.Both(o.Machines); both.Len() > 0 {
					next = append(next, c.with(i, o, both))
				}
			}
		}
		list = next
	}
	return list
}

// with is a combination with what runs at one more end.
func (c combination) with(end int, o *resolve.Outcome, machines resolve.Machines) combination {
	out := combination{slices.Clone(c.values), slices.Clone(c.outcomes), machines}
	if !o.Number.IsZero() {
		out.values[end], out.outcomes[end] = rule.Value{Set: version.Exactly(o.Number)}, o
	}
	return out
}

// each looks at each machine for itself: at the installation that would run, what it brings,
// and at the machine.
func (v *viewCheck) each(t *Tie, values []rule.Value) []combination {
	var out []combination
	for i, m := range v.fleet.All() {
		c := combination{slices.Clone(values), make([]*resolve.Outcome, len(values)), resolve.Machines{}.With(i)}
		info := m.Inventory.Machine
		for k, e := range t.Ends {
			switch {
			case e.Of == OfTheMachine:
				c.values[k].Word = map[string]string{"os": info.OS, "arch": info.Arch}[t.Rule.Ends[k].Label]
			case e.Of == OfTool:
				if o := v.tools[e.N].Resolved.Comes(i); o != nil && !o.Number.IsZero() {
					c.values[k], c.outcomes[k] = rule.Value{Set: version.Exactly(o.Number)}, o
				}
			case e.Of == OfLabel:
				if in := v.installed(e.N, i); in != nil {
					c.values[k].Word = map[string]string{"vendor": in.Vendor, "variant": in.Variant, "package": in.Package, "arch": in.Arch}[t.Rule.Ends[k].Label]
				}
			}
		}
		out = append(out, c)
	}
	return out
}

// installed is what would run of a tool on a machine; nil where that is no installation.
func (v *viewCheck) installed(tool, machine int) *inventory.Installed {
	o := v.tools[tool].Resolved.Comes(machine)
	if o == nil || o.Number.IsZero() {
		return nil
	}
	t := v.toolings[tool]
	own := t.OutcomeOf(v.tools[tool].Resolved, t.Of[machine], day.On(v.on.Time()))
	for _, in := range v.fleet.Machines[machine].Installed(t.Tool.Name) {
		if in.Path == own.Path && in.Version == own.Version {
			return in
		}
	}
	return nil
}

// report adds that a rule does not hold: with what runs on some machines, or, where that is
// nothing, with what is asked for on all.
func (v *viewCheck) report(t *Tie, values []rule.Value, running []combination) {
	b := &Broken{Rule: t.Rule, Sure: true}
	known := slices.Clone(values)
	for i, e := range t.Ends {
		end := BrokenEnd{TieEnd: e, Set: values[i].Set}
		switch e.Of {
		case OfPart:
			b.Sure = b.Sure && v.Parts[e.N].Sure
		case OfTool:
			for _, c := range running {
				if o := c.outcomes[i]; o != nil {
					r := Run{Release: Release{Version: o.Version}, By: o.DecidedBy}
					if o.DecidedBy == resolve.ByOverride {
						r.Where = o.Where
					}
					end.Runs = addRun(end.Runs, r, c.machines)
				}
			}
			end.Claims = v.claims(t, i, values, len(running) > 0 && !(t.Rule.Brings && i > 0))
		}
		b.Ends = append(b.Ends, end)
	}
	if len(running) > 0 {
		known = running[0].values
	}
	b.Rows = t.Rule.Applying(known)
	if t.Rule.Brings && t.Ends[0].Of == OfTool && t.Ends[1].Of == OfTool {
		b.Brought = v.tellsOf(t.Ends[0].N, t.Ends[1].N)
	}
	b.Sure = b.Sure && !slices.ContainsFunc(b.Rows, func(r *rule.Row) bool { return r.Implied })
	kind, machines := AskedTogether, v.everyone()
	if len(running) > 0 {
		kind, machines = RunningTogether, resolve.Machines{}
	}
	for _, c := range running {
		machines = machines.And(c.machines)
	}
	v.verdicts = append(v.verdicts, Verdict{Class: &toolsIncompatible, Kind: kind, Machines: machines, Tied: b, Cause: t.Rule.Name})
}

// claims are of a tool's pins and bounds those that the rule is broken by: as few as come to
// it. Where something runs they are the deciding pin, or what bounds it.
func (v *viewCheck) claims(t *Tie, end int, values []rule.Value, running bool) []int {
	r := v.tools[t.Ends[end].N].Resolved
	n := len(r.Pins) + len(r.Bounds)
	from := 0
	if v.elsewhere(t, end) {
		from = len(r.Pins)
	}
	if running {
		if len(r.Pins) > 0 {
			return []int{0}
		}
		return nil
	}
	with := slices.Clone(values)
	for i := from; i < n; i++ { // one claim that alone will do
		if s := r.At(i); s.Judges() && !s.Set.IsEmpty() {
			if with[end].Set = s.Set; !t.Rule.Admits(with) {
				return []int{i}
			}
		}
	}
	var out []int
	for i := from; i < n; i++ {
		if s := r.At(i); s.Judges() && !s.Set.IsAll() {
			out = append(out, i)
		}
	}
	return out
}

// machinesOfGroup are the machines with a tag.
func (v *viewCheck) group(names []string) resolve.Machines {
	var out resolve.Machines
	for i, m := range v.fleet.All() {
		if slices.ContainsFunc(names, func(tag string) bool { return policy.InGroup(v.groups, m.Name(), tag) }) {
			out = out.With(i)
		}
	}
	return out
}
