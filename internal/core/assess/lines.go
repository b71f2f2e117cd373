package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

// Lines are the lines that a subject chose: the pin's where it names one, otherwise those
// of what would run.
func (j *Judged) Lines() []*catalogue.Line {
	if l := pinnedLine(j.Resolved); l != nil {
		return []*catalogue.Line{l}
	}
	var out []*catalogue.Line
	for _, o := range j.Resolved.Outcomes {
		if o.Number.IsZero() {
			continue
		}
		if l := j.Resolved.Tool.LineOf(o.Number); l != nil && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}

// pinnedLine is the line that the pin names; nil where it names none.
func pinnedLine(r *resolve.Resolved) *catalogue.Line {
	if len(r.Pins) == 0 || r.Pins[0].Err != nil || r.Pins[0].Floating {
		return nil
	}
	return r.Tool.LineFor(r.Pins[0].Set)
}

// lineOf is the line of what would run; what is older than all known lines counts as the
// oldest, once that has ended.
func (k *check) lineOf(o *resolve.Outcome) *catalogue.Line {
	if o.Number.IsZero() {
		return nil
	}
	l := k.Tooling.LineOf(o.Number)
	if l == nil && k.Tool.EndedBefore(o.Number, k.on) {
		return k.Tool.Lines[0]
	}
	return l
}

// Worse orders findings by how bad they are, worst first.
func Worse(a, b *Finding) int {
	if r := b.Severity.Rank() - a.Severity.Rank(); r != 0 {
		return r
	}
	return slices.Index(classes, a.Class) - slices.Index(classes, b.Class)
}
