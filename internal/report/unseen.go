package report

import (
	"fmt"

	"wexo/internal/core/unseen"
	"wexo/internal/terminal"
)

// UnseenOn is what was not seen of the repositories that matter to a machine; never nil.
func UnseenOn(reads []Read, machine int) []unseen.Gap {
	out := []unseen.Gap{}
	for _, r := range reads {
		if r.Among.Has(machine) || r.Among.Len() == 0 {
			out = append(out, r.Gaps...)
		}
	}
	unseen.Sort(out)
	return out
}

// mostUnseen is how many things that were not seen are listed.
const mostUnseen = 20

// unseen prints what was not seen: on which something rests, and behind that what has none.
func (p *printer) unseen(gaps []unseen.Gap) {
	blinding := unseen.Blinding(gaps)
	p.gaps("Not seen, and so what rests on it is not known", blinding)
	p.gaps("Not seen; what is said holds without it", unseen.ToldOnly(gaps))
}

func (p *printer) gaps(title string, gaps []unseen.Gap) {
	if len(gaps) == 0 {
		return
	}
	p.linef("\n%s", p.bold(title))
	for _, g := range gaps[:min(len(gaps), mostUnseen)] {
		for i, line := range wrap(terminal.Clean(g.String()), p.style.Width-4) {
			lead := p.paint("33", "?")
			if i > 0 {
				lead = " "
			}
			p.linef("  %s %s", lead, line)
		}
	}
	if more := len(gaps) - mostUnseen; more > 0 {
		p.linef("  and %d more (--output json has them all)", more)
	}
}

// Unseen says how much was not seen; empty where everything was.
func Unseen(gaps []unseen.Gap) string {
	blinding := unseen.Blinding(gaps)
	switch len(blinding) {
	case 0:
		return ""
	case 1:
		return "Not seen, and so what rests on it is not known: " + blinding[0].String()
	}
	return fmt.Sprintf("%d things were not seen, and so what rests on them is not known; the first: %s", len(blinding), blinding[0])
}
