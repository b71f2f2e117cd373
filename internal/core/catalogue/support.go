package catalogue

import (
	"fmt"
	"regexp"
	"strconv"
	"time"

	"go.yaml.in/yaml/v3"
)

// Support is how long lines are supported that state no end of their own, where that follows
// from the lines that come after them.
type Support struct {
	Newest int  `yaml:"newest"`  // so many lines are supported; one ends when as many newer ones are out
	InFull int  `yaml:"in-full"` // of these so many are in full support; the others get security fixes only
	After  Span `yaml:"after"`   // how long after that release support goes on: 90d or 6mo; not at all where left out
}

// Span is a time in days and months.
type Span struct{ Days, Months int }

var spanText = regexp.MustCompile(`^([1-9]\d{0,3})(d|mo)$`)

// UnmarshalYAML reads 90d or 6mo.
func (s *Span) UnmarshalYAML(n *yaml.Node) error {
	m := spanText.FindStringSubmatch(n.Value)
	if m == nil {
		return fmt.Errorf("%q is no time such as 90d or 6mo", n.Value)
	}
	count, err := strconv.Atoi(m[1])
	if err != nil {
		return err
	}
	if m[2] == "d" {
		*s = Span{Days: count}
	} else {
		*s = Span{Months: count}
	}
	return nil
}

func (s Span) from(t time.Time) time.Time { return t.AddDate(0, s.Months, s.Days) }

// supported fills in what follows for lines, oldest first, that do not say it themselves.
func (s Support) supported(lines []*Line) {
	if s.Newest == 0 {
		return
	}
	for i, l := range lines {
		if s.InFull > 0 && l.Maintenance.IsZero() && i+s.InFull < len(lines) {
			l.Maintenance = lines[i+s.InFull].Released
		}
		switch next := i + s.Newest; {
		case !l.End.IsZero():
		case next < len(lines):
			l.End = Date{s.After.from(lines[next].Released.Time)}
		case l.LongTerm.IsZero():
			l.awaits = next - len(lines) + 1
		}
	}
}

// Awaits is how many newer lines have to be released until the line's end follows; 0 where
// its end is known, or follows from nothing.
func (l *Line) Awaits() int { return l.awaits }
