// Package policy is what the user decides: what matters where, and how bad it is. It is an
// input of judging and of nothing before that, so changing it reads no repository again.
package policy

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/glob"
)

// Policy is what the user decides for all repositories.
type Policy struct {
	Settings
	Repositories []Named // of those whose name begins with TagMark, what is decided for a tag
	Machines     []Machines
	Groups       []Group
}

// TagMark stands before a tag where a name could stand too.
const TagMark = "tag:"

// TitleOf is what a group is called; its tag where nothing else is decided.
func (p Policy) TitleOf(tag string) string {
	for _, g := range p.Groups {
		if g.Tag == tag {
			return g.Title
		}
	}
	return tag
}

// TagsOf are the tags of a machine, in the order in which they are decided.
func (p Policy) TagsOf(machine string) []string {
	var out []string
	for _, m := range p.Machines {
		if !glob.Name(m.Name, machine) {
			continue
		}
		for _, tag := range m.Tags {
			if !slices.Contains(out, tag) {
				out = append(out, tag)
			}
		}
	}
	return out
}

// ReportsWithin is the time in which a machine is expected to report: as decided, or else
// twice what it says that it takes between two reports, or a week. Zero never expects it: an
// image stays what it is.
func (p Policy) ReportsWithin(machine, kind string, every time.Duration) time.Duration {
	for _, m := range slices.Backward(p.Machines) {
		if m.Within > 0 && glob.Name(m.Name, machine) {
			return m.Within
		}
	}
	switch {
	case every > 0:
		return 2 * every
	case kind == "image":
		return 0
	}
	return UsualReport
}

// UsualReport is in which time a machine reports of which nothing else is known.
const UsualReport = 7 * 24 * time.Hour

// Machines are what is decided for the machines whose name matches a glob.
type Machines struct {
	Name   string
	Tags   []string      // machines with one tag are a group
	Within time.Duration // in which they are expected to report; zero leaves it to the machine
	Line   int           // where it is written
}

// Group is a tag of machines with what it is called.
type Group struct {
	Tag, Title string
	Line       int // where it is written
}

// InGroup reports whether a machine has a tag.
func InGroup(list []Machines, machine, tag string) bool {
	return slices.ContainsFunc(list, func(m Machines) bool {
		return glob.Name(m.Name, machine) && slices.Contains(m.Tags, tag)
	})
}

// Rule is a rule of what must go together as the user wrote it: an entry of rules, as YAML.
type Rule struct {
	Text string `json:"text"`
	File string `json:"file,omitempty"`
	Line int    `json:"line"`
}

// Named is what is decided for the repositories whose name matches a glob.
type Named struct {
	Name string
	Line int // where it is written
	Settings
}

// Settings are what is decided for one repository, or for several alike. The zero value
// decides nothing.
type Settings struct {
	Tags       []string    `json:"tags,omitempty"`
	PlannedEnd string      `json:"plannedEnd,omitempty"` // a day, 2027-05-01; until then the repository is meant to live
	Baselines  []string    `json:"baselines,omitempty"`
	Unpinned   []Unpinned  `json:"unpinned,omitempty"`
	Apart      []string    `json:"apart,omitempty"`      // globs of folders that count apart; behind a "!", that do not
	Horizon    int         `json:"horizon,omitempty"`    // in days: how long before its end a line is reported; 0 for the usual
	Severities []Weighting `json:"severities,omitempty"` // the last that names a class counts
	Rules      []Rule      `json:"rules,omitempty"`      // of what must go together
	// Written are the rules as the repository's own file has them; none of the estate's.
	Written []OwnRule `json:"written,omitempty"`
	// Decides says which of its own rules hold; the estate alone says that.
	Decides Decides  `json:"-"`
	BuiltBy []string `json:"builtBy,omitempty"` // groups of machines, by their tags; none leaves it to the kinds of machines
	// BuiltByLine is where the estate says so.
	BuiltByLine int `json:"-"`
}

// Unpinned is a use of a tool that needs no pin, in some folders or in all.
type Unpinned struct {
	Tool    string   `json:"tool"`
	Folders []string `json:"folders,omitempty"` // globs
}

// Weighting is how bad findings of a class are.
type Weighting struct {
	Class    string `json:"class"`
	Severity string `json:"severity"`
	Line     int    `json:"-"` // where it is written
}

// UsualHorizon is half a year, in days.
const UsualHorizon = 183

// For is what is decided for one repository, with what the repository says of itself, which
// is nearer and so counts where only one can, as far as that is allowed. But a repository cannot
// lower what is held against it: its own severities and horizon do not count, the tags that it
// gives itself choose no policy unless it is said that they may, of two ends the later one holds,
// and it is built by no group that has no machine.
func (p Policy) For(called Called, own Settings) Settings {
	out := p.Settings
	for _, one := range p.Repositories {
		if called.Is(one.Name) {
			out = out.with(one.Settings)
		}
	}
	own = own.allowed(out.Decides)
	tags := choosing(out, own)
	for _, one := range p.Repositories {
		if tag, ok := strings.CutPrefix(one.Name, TagMark); ok && slices.Contains(tags, tag) {
			out = out.with(one.Settings)
		}
	}
	if len(out.BuiltBy) > 0 {
		own.BuiltBy = nil
	}
	own.BuiltBy = slices.DeleteFunc(slices.Clone(own.BuiltBy), func(tag string) bool { return !p.isGroup(tag) })
	if own.PlannedEnd < out.PlannedEnd { // both are days, as 2027-05-01
		own.PlannedEnd = ""
	}
	return out.with(own)
}

// choosing are the tags by which policies are chosen: those that the estate gives, and the
// repository's own where it is said that they may.
func choosing(estate, own Settings) []string {
	if estate.Decides.Said { // and so its tags are allowed, or gone
		return slices.Concat(estate.Tags, own.Tags)
	}
	return estate.Tags
}

// isGroup reports whether machines may have a tag.
func (p Policy) isGroup(tag string) bool {
	return slices.ContainsFunc(p.Machines, func(m Machines) bool { return slices.Contains(m.Tags, tag) })
}

func (s Settings) with(o Settings) Settings {
	s.Tags = slices.Concat(s.Tags, o.Tags)
	s.Baselines = slices.Concat(s.Baselines, o.Baselines)
	s.Unpinned = slices.Concat(s.Unpinned, o.Unpinned)
	s.Apart = slices.Concat(s.Apart, o.Apart)
	s.Severities = slices.Concat(s.Severities, o.Severities)
	s.Rules = slices.Concat(s.Rules, o.Rules)
	if len(o.BuiltBy) > 0 {
		s.BuiltBy, s.BuiltByLine = o.BuiltBy, o.BuiltByLine
	}
	if o.PlannedEnd != "" {
		s.PlannedEnd = o.PlannedEnd
	}
	s.Written = o.Written
	s.Decides = s.Decides.Or(o.Decides)
	if o.Horizon != 0 {
		s.Horizon = o.Horizon
	}
	return s
}

// NeedsNoPin reports whether a use of the tool in the folder is fine without a pin.
func (s Settings) NeedsNoPin(tool, folder string) bool {
	return slices.ContainsFunc(s.Unpinned, func(u Unpinned) bool {
		return u.Tool == tool && (len(u.Folders) == 0 || glob.Any(u.Folders, folder))
	})
}

// CountsApart reports what is decided of a folder: the last glob that names it counts.
func (s Settings) CountsApart(folder string) (apart, decided bool) {
	for _, text := range slices.Backward(s.Apart) {
		text, not := strings.CutPrefix(text, "!")
		if glob.Match(text, folder) {
			return !not, true
		}
	}
	return false, false
}

// Ends is the day until which the repository is meant to live; zero where none is planned.
func (s Settings) Ends() time.Time {
	day, err := time.Parse(time.DateOnly, s.PlannedEnd)
	if err != nil {
		return time.Time{}
	}
	return day
}

// Warns is the first day on which a line that ends on a day is reported, for a horizon in
// days; 0 is the usual one.
func Warns(end time.Time, horizon int) time.Time {
	return end.AddDate(0, 0, 1-cmp.Or(horizon, UsualHorizon))
}

// Severity is how bad findings of a class are, where that is decided.
func (s Settings) Severity(class string) (string, bool) {
	for _, w := range slices.Backward(s.Severities) {
		if w.Class == class {
			return w.Severity, true
		}
	}
	return "", false
}
