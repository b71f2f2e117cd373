package view

import (
	"cmp"
	"iter"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/report"
)

// Choice says which findings are asked for. The zero value asks for all.
type Choice struct {
	assess.Choice
	Cause *string  // of one cause
	Days  *int     // not open for longer
	Over  *int     // open for longer
	Apart bool     // of folders that count apart, instead of the others
	Words []string // in lower case; all of them are held
	// ByNeed puts the worst first, and of those the ones that reach furthest; otherwise findings
	// come in the order of the repositories.
	ByNeed bool
}

// listed is a finding with what it is chosen by most often beside it: looking at every one
// of some ten thousand takes longer than all else that a page costs.
type listed struct {
	*assess.Finding
	class    uint64 // one bit
	severity uint8  // its rank
}

// listing is every finding: in the order of the repositories, then those of machines.
func (v *View) listing() []listed {
	v.once.listing.Do(func() {
		n := len(v.Machinery())
		for _, read := range v.Reads {
			n += len(read.Findings)
		}
		v.listed = make([]listed, 0, n)
		for _, read := range v.Reads {
			for _, f := range read.Findings {
				v.listed = append(v.listed, listed{f, bitOf(f.Class.Name), uint8(f.Severity.Rank())})
			}
		}
		for _, f := range v.Machinery() {
			v.listed = append(v.listed, listed{f, bitOf(f.Class.Name), uint8(f.Severity.Rank())})
		}
	})
	return v.listed
}

// byNeed is the listing with the worst first: by severity, class, and how many machines a
// finding is about.
func (v *View) byNeed() []listed {
	v.once.needed.Do(func() {
		v.needed = slices.Clone(v.listing())
		slices.SortStableFunc(v.needed, func(a, b listed) int {
			return cmp.Or(int(b.severity)-int(a.severity), cmp.Compare(a.class, b.class), b.Machines.Len()-a.Machines.Len())
		})
	})
	return v.needed
}

// bitOf is the bit that stands for a class; 0 for what is none.
func bitOf(class string) uint64 {
	at := slices.IndexFunc(assess.Classes(), func(c *assess.Class) bool { return c.Name == class })
	if at < 0 {
		return 0
	}
	return 1 << at
}

// Choose gives the findings that are asked for, in the order of the repositories.
func (v *View) Choose(c Choice) iter.Seq[*assess.Finding] {
	classes, severities := uint64(0), uint8(0)
	for _, class := range c.Classes {
		classes |= bitOf(class)
	}
	for _, s := range c.Severities {
		severities |= 1 << s.Rank()
	}
	var caused map[*assess.Finding]bool
	if c.Cause != nil {
		caused = v.caused(*c.Cause)
	}
	return func(yield func(*assess.Finding) bool) {
		list := v.listing()
		if c.ByNeed {
			list = v.byNeed()
		}
		for _, f := range list {
			if caused != nil && !caused[f.Finding] {
				continue
			}
			if f.Apart != c.Apart || c.Classes != nil && f.class&classes == 0 || c.Severities != nil && severities&(1<<f.severity) == 0 {
				continue
			}
			if v.chosen(f.Finding, c) && !yield(f.Finding) {
				return
			}
		}
	}
}

// chosen reports whether a finding is asked for by what is not beside it in the listing.
func (v *View) chosen(f *assess.Finding, c Choice) bool {
	return c.Of(f) &&
		(c.Days == nil || v.Age(f) <= *c.Days) && (c.Over == nil || v.Age(f) > *c.Over) && (len(c.Words) == 0 || holds(v.Finding(f), c.Words))
}

func holds(f report.Finding, words []string) bool {
	text := strings.ToLower(f.Repository + " " + f.Tool + " " + f.Class + " " + f.Message)
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

// Causes are the causes of all findings, the worst and widest first.
func (v *View) Causes() []*assess.Caused {
	v.once.causes.Do(func() {
		all := slices.Clone(v.Machinery())
		for _, read := range v.Reads {
			all = append(all, read.Findings...)
		}
		v.causes = assess.Causes(all)
	})
	return v.causes
}

// ChooseCauses are the causes of the findings that are asked for.
func (v *View) ChooseCauses(c Choice) []*assess.Caused {
	if c.IsZero() && c.Days == nil && c.Over == nil && len(c.Words) == 0 {
		return v.Causes()
	}
	return assess.Causes(slices.Collect(v.Choose(c)))
}

// caused are the findings of a cause.
func (v *View) caused(id string) map[*assess.Finding]bool {
	out := map[*assess.Finding]bool{}
	for _, c := range v.Causes() {
		if c.ID() == id {
			for _, f := range c.Findings {
				out[f] = true
			}
		}
	}
	return out
}
