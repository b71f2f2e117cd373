package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

// pinnedLine is the line that the pin names; nil where it names none.
func (k *check) pinnedLine() *catalogue.Line {
	if k.pinned == nil {
		l := pinnedLine(k.Resolved)
		k.pinned = &l
	}
	return *k.pinned
}

func pinnedLine(r *resolve.Resolved) *catalogue.Line {
	if len(r.Pins) == 0 || r.Pins[0].Err != nil || r.Pins[0].Floating {
		return nil
	}
	return r.Tool.LineFor(r.Pins[0].Set)
}

// linesInUse are the lines that the pin names and that would run, each once.
func (k *check) linesInUse() []*catalogue.Line {
	var out []*catalogue.Line
	for _, l := range append([]*catalogue.Line{k.pinnedLine()}, k.inUse()...) {
		if l != nil && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
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
