package assess

// undecided reports that it is not known whether what is said can hold together.
func (v *viewCheck) undecided(b *Broken, cause string) {
	v.verdicts = append(v.verdicts, Verdict{Class: &rulesUndecided, Machines: v.everyone(), Tied: b, Cause: cause})
}

// unwritten reports a rule that is judged by what is sure of each end alone, unless it is broken
// by that already.
func (v *viewCheck) unwritten(t *Tie) {
	if !t.Rule.Undecidable() {
		return
	}
	b := &Broken{Rule: t.Rule}
	for _, e := range t.Ends {
		switch e.Of {
		case OfTool:
			b.Ends = append(b.Ends, v.allOf(e.N))
		case OfPart:
			b.Ends = append(b.Ends, BrokenEnd{TieEnd: e, Set: v.Parts[e.N].Set})
		}
	}
	v.undecided(b, t.Rule.Name)
}

// allOf is a tool with all that asks for it.
func (v *viewCheck) allOf(tool int) BrokenEnd {
	out := BrokenEnd{TieEnd: TieEnd{OfTool, tool}}
	r := v.tools[tool].Resolved
	for n := range len(r.Pins) + len(r.Bounds) {
		out.Claims = append(out.Claims, n)
	}
	return out
}
