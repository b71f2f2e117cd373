package resolve

import (
	"fmt"

	"wexo/internal/core/day"
)

// Rung is one place a version can come from, and what it says.
type Rung struct {
	Source  string // one of the By constants
	Says    bool   // false where this rung says nothing
	Raw     string // as written
	Where   string // file:line, variable or path
	Version string // of the installation it leads to; empty where there is none
	Path    string
	Decides bool
	Note    string
	pin     int // place among the question's pins, from 1
}

// Ladder is every rung that leads to what runs for a subject on a class of machines,
// strongest first, beaten pins of the folders above among them. Pins are the places of the
// question's pins among the subject's claims.
func Ladder(s *Subject, q *Question, pins []int, c *Class, on *day.Day) []Rung {
	var out []Rung
	beaten := func() {
		for _, a := range s.Beaten {
			out = append(out, Rung{Source: ByInherited, Says: true, Raw: a.Raw, Where: spot(a), Note: "beaten by the nearer pin"})
		}
	}
	a := q.On(on)
	climb(a, c.tooling.narrow(a, on), c, on, func(r Rung) {
		if r.pin > 0 {
			a := s.Claims[pins[r.pin-1]]
			r.Raw, r.Where = a.Raw, spot(a)
		}
		if r.Source == ByInherited && !r.Says && len(s.Beaten) > 0 {
			beaten()
			return
		}
		if r.Source == ByBaseline && !q.Own && len(q.Pins) > 0 {
			beaten()
		}
		out = append(out, r)
	})
	return out
}

func spot(a Asked) string { return fmt.Sprintf("%s:%d", a.File, a.Line) }
