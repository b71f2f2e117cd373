package catalogue

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"wexo/internal/core/day"
	"wexo/internal/core/version"
)

// Line is a release line with its dated support phases.
type Line struct {
	Line         string      `yaml:"line"`          // its numbers, in quotes: "3.12"
	Name         string      `yaml:"name"`          // code name
	Released     Date        `yaml:"released"`      // the day of its first release
	LongTerm     Date        `yaml:"long-term"`     // start of long-term support; zero where there is none
	Maintenance  Date        `yaml:"maintenance"`   // start of fixes only
	End          Date        `yaml:"end"`           // last day of support; zero where none is announced
	NewestText   string      `yaml:"newest"`        // newest release known when the data was checked
	PatchesBelow int         `yaml:"patches-below"` // no release of the line has a last number this high
	set, early   version.Set // its releases; with their prereleases
	first        version.Version
	newest       version.Version
	ended        time.Time // the first day without support; zero where no end is announced
	place        int
	awaits       int // how many newer lines have to be out until its end follows
}

// Set is every release of the line.
func (l *Line) Set() version.Set { return l.set }

// Newest is the newest release that was known when the data was checked; zero where none is.
func (l *Line) Newest() version.Version { return l.newest }

// Place is the line's among its tool's lines, oldest first.
func (l *Line) Place() int { return l.place }

// WithPrereleases is every release of the line and the prereleases of each.
func (l *Line) WithPrereleases() version.Set { return l.early }

// Phase is where a line stands in its life on a day.
type Phase string

// The phases, in the order a line goes through them.
const (
	Upcoming    Phase = "upcoming"
	Current     Phase = "current"
	LongTerm    Phase = "long-term"
	Maintenance Phase = "maintenance"
	Ended       Phase = "ended"
)

// PhaseOn is the line's phase on a day.
func (l *Line) PhaseOn(on *day.Day) Phase {
	begun := func(d Date) bool { return !d.IsZero() && on.Reached(d.Time) }
	switch {
	case !begun(l.Released):
		return Upcoming
	case l.EndedOn(on):
		return Ended
	case begun(l.Maintenance):
		return Maintenance
	case begun(l.LongTerm):
		return LongTerm
	}
	return Current
}

// EndedOn tells whether the last day of support lies before the day.
func (l *Line) EndedOn(on *day.Day) bool {
	return !l.End.IsZero() && on.Reached(l.ended)
}

// lines prepares the release lines and tells what is wrong with them.
func (c *checking) lines() {
	t := c.tool
	for i, l := range t.Lines {
		if at, reason := t.readLine(l); reason != "" {
			c.fail(c.at("lines", strconv.Itoa(i), at), "line %q %s", l.Line, reason)
		}
	}
	if len(c.problems) > 0 {
		return
	}
	slices.SortStableFunc(t.Lines, func(a, b *Line) int { return a.first.Compare(b.first) })
	for i, l := range t.Lines {
		if l.place = i; i > 0 && t.Lines[i-1].first.Compare(l.first) == 0 {
			c.fail(c.at("lines"), "line %q stands twice", l.Line)
		}
	}
	switch t.Ends {
	case "":
	case "second-next-release": // as catalogue folders said before there was support
		t.Support.Newest = 2
	default:
		c.fail(c.at("ends"), "ends should be second-next-release; support says more: {newest: 2}")
	}
	if t.Support.InFull > t.Support.Newest {
		c.fail(c.at("support", "in-full"), "more lines are in full support (%d) than are supported (%d)", t.Support.InFull, t.Support.Newest)
	}
	t.Support.supported(t.Lines)
	for _, l := range t.Lines {
		if !l.End.IsZero() {
			l.ended = l.End.AddDate(0, 0, 1)
		}
	}
}

// readLine prepares one line; it gives the key that is wrong and why, "" where none is.
func (t *Tool) readLine(l *Line) (key, reason string) {
	if l.Released.IsZero() {
		return "line", "has no release date: released"
	}
	set, err := version.ParseRange("plain", t.scheme, l.Line)
	if err == nil {
		l.first, err = t.scheme.Parse(l.Line)
	}
	if err != nil {
		return "line", "is no version: " + err.Error()
	}
	l.set, l.early = set, set.WithPrereleases()
	if l.NewestText != "" {
		if l.newest, err = t.scheme.Parse(l.NewestText); err != nil {
			return "newest", fmt.Sprintf("has %q as its newest release, which is no version: %v", l.NewestText, err)
		}
		if !set.Contains(l.newest) {
			return "newest", "has " + l.NewestText + " as its newest release, which does not belong to it"
		}
	}
	for _, later := range []struct {
		key string
		Date
	}{{"long-term", l.LongTerm}, {"maintenance", l.Maintenance}, {"end", l.End}} {
		if !later.IsZero() && later.Before(l.Released.Time) {
			return later.key, fmt.Sprintf("was released on %s, after its %s on %s", l.Released.Format(time.DateOnly), later.key, later.Format(time.DateOnly))
		}
	}
	return "", ""
}

// LineOf is the line a version belongs to, nil where none is known.
func (t *Tool) LineOf(v version.Version) *Line {
	for _, l := range t.Lines {
		if l.early.Contains(v) {
			return l
		}
	}
	return nil
}

// LineFor is the only line a set can choose from; nil where it spans several or none.
func (t *Tool) LineFor(set version.Set) *Line {
	for _, l := range t.Lines {
		if set.SubsetOf(l.early) {
			return l
		}
	}
	return nil
}

// NewestLine is the newest line released by the day, of those with long-term support
// (begun by the day and not ended) where longTerm is asked for.
func (t *Tool) NewestLine(on *day.Day, longTerm bool) *Line {
	for _, l := range slices.Backward(t.Lines) {
		if !on.Reached(l.Released.Time) {
			continue
		}
		if !longTerm || !l.LongTerm.IsZero() && on.Reached(l.LongTerm.Time) && !l.EndedOn(on) {
			return l
		}
	}
	return nil
}

// EndedBefore tells whether everything older than the oldest known line, such as v, is out of support.
func (t *Tool) EndedBefore(v version.Version, on *day.Day) bool {
	return len(t.Lines) > 0 && v.Compare(t.Lines[0].first) < 0 && t.Lines[0].EndedOn(on)
}

// Older is every release below the oldest known line; none where no line is known.
func (t *Tool) Older() version.Set {
	if len(t.Lines) == 0 {
		return version.None(t.scheme)
	}
	return older(t.scheme, t.Lines[0].first)
}

// Unreleased tells why no release can be in the set; "" where one is or may be. What
// may have come out after the catalogue was checked counts as possible.
func (t *Tool) Unreleased(set version.Set, on *day.Day) string {
	if len(t.Lines) == 0 || len(set.Intervals()) == 0 || set.IsAll() {
		return "" // of prereleases, and of everything, nothing is recorded
	}
	oldest, newest := t.Lines[0], t.Lines[len(t.Lines)-1]
	if set.Overlaps(older(t.scheme, oldest.first)) {
		return ""
	}
	reason := ""
	for _, l := range slices.Backward(t.Lines) {
		if !set.Overlaps(l.set) {
			continue
		}
		why := t.unreleasedIn(l, set.Intersect(l.set), on)
		if why == "" {
			return ""
		}
		if reason == "" {
			reason = why
		}
	}
	if set.Overlaps(t.after(newest, on)) {
		return ""
	}
	if reason == "" {
		reason = fmt.Sprintf("no %s line covers it (known on %s)", t.Title, t.Checked.Format(time.DateOnly))
	}
	return reason
}

func (t *Tool) unreleasedIn(l *Line, part version.Set, on *day.Day) string {
	if !l.newest.IsZero() {
		if !part.SubsetOf(version.AtLeast(l.newest)) || part.Contains(l.newest) {
			return "" // on no day
		}
		limit, ok := t.mayExist(l, on)
		if ok && part.SubsetOf(version.AtLeast(limit)) {
			return fmt.Sprintf("the newest release of line %s is %s (known on %s)", l.Line, l.newest, t.Checked.Format(time.DateOnly))
		}
		return ""
	}
	limit := l.PatchesBelow
	if limit == 0 {
		limit = t.PatchesBelow
	}
	if limit == 0 {
		return ""
	}
	first, err := t.scheme.Parse(patchZero(l.Line, limit))
	if err == nil && part.SubsetOf(version.AtLeast(first)) {
		return fmt.Sprintf("line %s never had a release numbered %s or higher", l.Line, first)
	}
	return ""
}

// lagging is by how many weeks a catalogue may be behind on the day on which it was checked.
const lagging = 8

// NewerThanKnown is the newest known release of a line that is still made, where a set asks for
// nothing but newer ones of it: whether they exist is not known. It is zero elsewhere.
func (t *Tool) NewerThanKnown(set version.Set) version.Version {
	l := t.LineFor(set)
	if l == nil || l.newest.IsZero() || set.IsEmpty() || set.Contains(l.newest) || !set.SubsetOf(version.AtLeast(l.newest)) {
		return version.Version{}
	}
	return l.newest
}

// mayExist is the version from which on no release of the line can exist on the day: the
// newest known one for a line that had ended when the data was checked; otherwise its number may
// have grown by one a week, by two more, and by as much as the
// catalogue may have been behind.
func (t *Tool) mayExist(l *Line, on *day.Day) (version.Version, bool) {
	if !l.End.IsZero() && t.Checked.After(l.End.Time) {
		return l.newest, true
	}
	weeks := 0
	if on.Reached(t.Checked.AddDate(0, 0, 1)) {
		weeks = t.sinceChecked(on) / 7
		on.Reached(t.Checked.AddDate(0, 0, 7*weeks)) // from here to there it is the same
		on.Reached(t.Checked.AddDate(0, 0, 7*weeks+7))
	}
	numbers := strings.Split(l.newest.String(), ".")
	at := strings.Count(l.Line, ".") + 1
	if at >= len(numbers) {
		return l.newest, false
	}
	n, err := strconv.Atoi(numbers[at])
	if err != nil {
		return l.newest, false
	}
	limit, err := t.scheme.Parse(strings.Join(append(numbers[:at:at], strconv.Itoa(n+3+weeks+lagging)), "."))
	return limit, err == nil
}

// sinceChecked is the days since the tool's data was checked.
func (t *Tool) sinceChecked(on *day.Day) int {
	return int(on.Time().Sub(t.Checked.Time).Hours() / 24)
}

// patchZero is the line's number with its last part at limit: 3.12.40, 17.0.60.
func patchZero(line string, limit int) string {
	for strings.Count(line, ".") < 1 {
		line += ".0"
	}
	return line + "." + strconv.Itoa(limit)
}

// after is what may have been released after the newest known line: nothing up to the
// day the data was checked, then two lines a year.
func (t *Tool) after(newest *Line, on *day.Day) version.Set {
	if !on.Reached(t.Checked.AddDate(0, 0, 1)) {
		return version.None(t.scheme)
	}
	halves := 2 * t.sinceChecked(on) / 365 // half years, of which each may bring a line
	on.Reached(t.Checked.AddDate(0, 0, (halves*365+1)/2))
	on.Reached(t.Checked.AddDate(0, 0, ((halves+1)*365+1)/2))
	numbers := strings.Split(newest.Line, ".")
	last, err := strconv.Atoi(numbers[len(numbers)-1])
	if err != nil {
		return version.None(t.scheme)
	}
	numbers[len(numbers)-1] = strconv.Itoa(last + 2 + halves)
	limit, err := t.scheme.Parse(strings.Join(numbers, "."))
	if err != nil {
		return version.None(t.scheme)
	}
	return version.AtLeast(newest.first).Intersect(older(t.scheme, limit)).Intersect(newest.set.Complement())
}

// older is every release below v.
func older(s version.Scheme, v version.Version) version.Set {
	return version.LessThan(v).WithoutPrereleases()
}
