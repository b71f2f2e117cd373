package assess

import (
	"slices"

	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
)

var toolsIncompatible = Class{
	"tools-incompatible", 4, Error, "Tools incompatible", "Incompatible", "untied",
	"a rule of what must go together is broken: by what is asked for, or by what would run together",
	nil, // judged over all tools of a folder
}

// The ways in which tools do not go together.
const (
	AskedTogether   Kind = "asked"   // what is asked for cannot go together
	RunningTogether Kind = "running" // what runs together does not
	JointTogether   Kind = "joint"   // no rule alone is broken, and all together cannot hold
	SetUpTogether   Kind = "set-up"  // what a pipeline or container sets up does not go with the rest
)

// setups reports pipelines and containers that set up nothing of a tool that goes with the
// rest. Of all that one pipeline sets up it is enough that one does: the others are there on
// purpose.
func (v *viewCheck) setups(t *Tie, values []rule.Value) {
	for i, e := range t.Ends {
		if e.Of != OfTool || !v.Tools[e.N].Own || t.Rule.Brings {
			continue
		}
		list := v.Tools[e.N].Setups
		for n := range list {
			if list[n].With == n {
				v.setup(t, i, values, n)
			}
		}
	}
}

// setup looks at all that is set up together with the n-th matrix.
func (v *viewCheck) setup(t *Tie, end int, values []rule.Value, n int) {
	e := t.Ends[end]
	with := slices.Clone(values)
	var refs []Ref
	for k, m := range v.Tools[e.N].Setups {
		if m.With != n || m.Old {
			continue
		}
		for i, w := range m.Wants {
			s := resolve.SaidOn(w, v.on)
			if unreadable(&s) || s.Floating || s.Set.IsAll() {
				return // nobody knows what that is
			}
			if with[end].Set = s.Set; t.Rule.Admits(with) {
				return
			}
			refs = append(refs, Ref{Of: AtSetup, N: k, Value: i})
		}
	}
	if len(refs) == 0 {
		return
	}
	b := &Broken{Rule: t.Rule, Sure: true, Rows: t.Rule.Applying(with)}
	for i, o := range t.Ends {
		one := BrokenEnd{TieEnd: o, Set: values[i].Set}
		switch {
		case i == end:
			one.Setups = refs
		case o.Of == OfPart:
			b.Sure = b.Sure && v.Parts[o.N].Sure
		case o.Of == OfTool && len(v.tools[o.N].Resolved.Pins) > 0:
			one.Claims = []int{0}
		}
		b.Ends = append(b.Ends, one)
	}
	v.verdicts = append(v.verdicts, Verdict{Class: &toolsIncompatible, Kind: SetUpTogether, Tied: b, Cause: "set-up " + t.Rule.Name})
}
