// Package report puts what was judged into the report format and prints it, as text for
// people and as JSON for programs.
package report

import (
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
)

// Format is the name and version of the report format.
const Format = "wexo.report/2"

// Read is a repository that was judged, with what its reader noticed.
type Read struct {
	*assess.Result
	Notice string
	Unread string         // why it could not be read at all; empty where it could
	Taken  []assess.Taken // what its own rules take away
	Gaps   []unseen.Gap   // what was not seen of it
}

// Report is everything a survey found. What it holds is put into words while it is
// written: in words it is many times larger.
type Report struct {
	Wexo  string // the version that made it
	Day   time.Time
	Reads []Read // sorted by name
	// Machinery is what is wrong with machines themselves, whatever the repository.
	Machinery []*assess.Finding
	Summary   Summary
	Sought    []unseen.Gap // what else was not seen: folders, places that were named
	Wording
}

// Summary counts a report.
type Summary struct {
	Repositories int `json:"repositories"`
	Unread       int `json:"unread"` // repositories that could not be read
	Unseen       int `json:"unseen"` // what else was not seen on which something rests; the report lists all of it under unseen
	Claims       int `json:"claims"`
	Untold       int `json:"untold"` // folders and tools of which it cannot be told what runs on some machine, or nothing does
	Apart        int `json:"apart"`  // findings in folders of test data, examples or vendored code, which are counted nowhere else
	// Taken is what repositories' own rules take away, which is counted nowhere else.
	Taken      TakenAway      `json:"taken"`
	ByClass    map[string]int `json:"byClass"`
	BySeverity map[string]int `json:"bySeverity"`
}

// TakenAway is what rules of repositories' own take away.
type TakenAway struct {
	Repositories int            `json:"repositories"`
	Claims       int            `json:"claims"`
	BySeverity   map[string]int `json:"bySeverity"`
}

// Worst is the highest severity rank among the findings that were taken away; 0 where none was.
func (t TakenAway) Worst() int { return worst(t.BySeverity) }

func (t *TakenAway) add(list []assess.Taken) {
	if len(list) == 0 {
		return
	}
	t.Repositories++
	for _, one := range list {
		t.Claims += one.Claims
		for severity, n := range one.Findings {
			t.BySeverity[string(severity)] += n
		}
	}
}

// Build makes the report of a survey. Lists are sorted, so that two reports can be compared.
func Build(version string, reads []Read, fleet *resolve.Fleet, on time.Time) *Report {
	r := &Report{Wexo: version, Day: on, Reads: slices.Clone(reads), Wording: Wording{fleet, sentence.For(fleet, on)},
		Summary: Summary{Repositories: len(reads), Taken: TakenAway{BySeverity: map[string]int{}}, ByClass: map[string]int{}, BySeverity: map[string]int{}}}
	slices.SortStableFunc(r.Reads, func(a, b Read) int { return strings.Compare(a.Name, b.Name) })
	for _, read := range r.Reads {
		r.Summary.Claims += len(read.Claims)
		if read.Unread != "" {
			r.Summary.Unread++
		} else {
			r.Summary.Unseen += len(unseen.Blinding(read.Gaps))
		}
		r.Summary.count(assess.TallyOf(read.Findings))
		r.Summary.Untold += read.Untold()
		r.Summary.Taken.add(read.Taken)
	}
	return r
}

// NotSeen adds what else was not seen.
func (r *Report) NotSeen(gaps []unseen.Gap) {
	r.Sought = append(r.Sought, gaps...)
	r.Summary.Unseen += len(unseen.Blinding(gaps))
}

// Unseen is all that was not seen, sorted; never nil.
func (r *Report) Unseen() []unseen.Gap {
	out := append([]unseen.Gap{}, r.Sought...)
	for _, read := range r.Reads {
		out = append(out, read.Gaps...)
	}
	unseen.Sort(out)
	return out
}

// WithoutUnneeded takes away what is told of installations that serve nobody.
func (r *Report) WithoutUnneeded() {
	r.Machinery = slices.DeleteFunc(slices.Clone(r.Machinery), func(f *assess.Finding) bool {
		unneeded := f.Class.Name == "installation-unneeded"
		if unneeded {
			r.Summary.ByClass[f.Class.Name]--
			r.Summary.BySeverity[string(f.Severity)]--
		}
		return unneeded
	})
	if r.Summary.ByClass["installation-unneeded"] == 0 {
		delete(r.Summary.ByClass, "installation-unneeded")
	}
}

// OfMachines adds what is wrong with machines themselves.
func (r *Report) OfMachines(list []*assess.Finding) {
	r.Machinery = list
	r.Summary.count(assess.TallyOf(list))
}

// count adds what was counted.
func (s *Summary) count(t assess.Tally) {
	s.Apart += t.Apart
	for class, n := range t.ByClass {
		s.ByClass[class.Name] += n
	}
	for severity, n := range t.BySeverity {
		s.BySeverity[string(severity)] += n
	}
}

// Only leaves the findings that are asked for, and counts those alone. Repositories of which
// none can be are left out whole.
func (r *Report) Only(c assess.Choice) {
	if c.IsZero() {
		return
	}
	var reads []Read
	for _, read := range r.Reads {
		if !c.OfRepository(read.Prepared) {
			continue
		}
		only := *read.Result
		only.Findings = slices.DeleteFunc(slices.Clone(read.Findings), func(f *assess.Finding) bool { return !c.Has(f) })
		read.Result = &only
		read.Gaps = slices.DeleteFunc(slices.Clone(read.Gaps), func(g unseen.Gap) bool { return !c.Speaks(g.Tools) })
		reads = append(reads, read)
	}
	sought := r.Sought
	machinery := slices.DeleteFunc(slices.Clone(r.Machinery), func(f *assess.Finding) bool { return !c.Has(f) })
	*r = *Build(r.Wexo, reads, r.Fleet, r.Day)
	r.OfMachines(machinery)
	r.NotSeen(sought)
}

// Count is how many findings there are, but for those that count apart.
func (r Read) Count() int { return assess.TallyOf(r.Findings).Counted }

// Count is how many findings there are.
func (s Summary) Count() int {
	n := 0
	for _, count := range s.BySeverity {
		n += count
	}
	return n
}

// Worst is the highest severity rank among the findings; 0 where there is none.
func (s Summary) Worst() int { return worst(s.BySeverity) }

func worst(bySeverity map[string]int) int {
	worst := 0
	for severity, count := range bySeverity {
		if count > 0 {
			worst = max(worst, assess.Severity(severity).Rank())
		}
	}
	return worst
}
