// Package remedy turns what is wrong into what to do: what to install on a machine so that
// repositories run there as they ask, and what could go.
package remedy

import (
	"cmp"
	"path"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// Needs are what a machine lacks, and what nothing on it serves.
type Needs struct {
	Install []Install
	Spare   []*assess.Serving // the largest first
	Asking  int               // how many repositories the machine builds or holds, of those that were asked
}

// Install is one toolchain to install, with all that it would serve.
type Install struct {
	Tool    *catalogue.Tool
	Version version.Version // zero where no version is known that would do
	Text    string          // what to take: a version, or a line of which the newest patch will do
	Build   inventory.Build
	Set     version.Set // what all that it serves admit
	Line    *catalogue.Line
	Ended   bool // its line is out of support, and nothing newer is admitted
	Asks    []assess.Lack
}

// Of finds what a machine needs for some repositories: of each tool the fewest versions that
// serve all, each the newest supported one that everybody admits whom it serves.
func Of(results []*assess.Result, serving []*assess.Serving, fleet *resolve.Fleet, machine int, on time.Time) Needs {
	byKind := map[kind][]assess.Lack{}
	var order []kind
	var out Needs
	for _, r := range results {
		if r.Among.Has(machine) {
			out.Asking++
		}
		for _, l := range withoutBundled(r.Lacks(fleet, machine, on)) {
			k := kind{l.Tool, l.Build}
			if byKind[k] == nil {
				order = append(order, k)
			}
			byKind[k] = append(byKind[k], l)
		}
	}
	slices.SortFunc(order, kind.compare)
	for _, k := range order {
		c := &choosing{tool: k.tool, on: day.On(on)}
		for _, in := range c.choose(byKind[k]) {
			in.Build = k.Build
			out.Install = append(out.Install, in)
		}
	}
	out.Spare = assess.Spare(results, serving, machine)
	return out
}

// withoutBundled leaves out what comes with something else that the same folder lacks.
func withoutBundled(list []assess.Lack) []assess.Lack {
	return slices.DeleteFunc(slices.Clone(list), func(l assess.Lack) bool {
		return l.Tool.BundledWith != "" && l.Exact == "" && slices.ContainsFunc(list, func(o assess.Lack) bool {
			return o.Tool.Name == l.Tool.BundledWith && o.Subject.Folder == l.Subject.Folder
		})
	})
}

// kind is what one installation is of: what differs in it is never served by the same.
type kind struct {
	tool *catalogue.Tool
	inventory.Build
}

func (k kind) compare(o kind) int {
	return cmp.Or(strings.Compare(k.tool.Name, o.tool.Name), strings.Compare(k.Vendor, o.Vendor), strings.Compare(k.Variant, o.Variant), strings.Compare(k.Package, o.Package), strings.Compare(k.Arch, o.Arch))
}

// candidate is a version that could be installed.
type candidate struct {
	version version.Version
	text    string // what to take, where that is not the version itself
	line    *catalogue.Line
	ended   bool
	long    bool // it has long-term support on the day
}

// choosing chooses the versions of one tool.
type choosing struct {
	tool *catalogue.Tool
	on   *day.Day
}

// choose covers all asks with few versions: again and again the one that serves the most of
// those that are left, of several the one that is best for its own sake.
func (c *choosing) choose(asks []assess.Lack) []Install {
	options := make([][]candidate, len(asks))
	var named []version.Version // by somebody, as the only one that will do, and released
	for _, a := range asks {
		v, err := c.tool.Scheme().Parse(a.Exact)
		if err == nil && a.Exact != "" && c.tool.Unreleased(version.Exactly(v), c.on) == "" {
			named = append(named, v)
		}
	}
	for i, a := range asks {
		options[i] = c.options(a, named)
	}
	left := make([]bool, len(asks))
	n := 0
	var out []Install
	for i := range asks {
		if left[i] = len(options[i]) > 0; left[i] {
			n++
		} else {
			out = append(out, Install{Tool: c.tool, Set: asks[i].Set, Asks: asks[i : i+1]})
		}
	}
	for n > 0 {
		best, most := candidate{}, 0
		for i := range asks {
			if !left[i] {
				continue
			}
			for _, o := range options[i] {
				if served := c.serves(o, options, left); served > most || served == most && better(o, best) {
					best, most = o, served
				}
			}
		}
		in := Install{Tool: c.tool, Version: best.version, Text: cmp.Or(best.text, best.version.String()), Line: best.line, Ended: best.ended, Set: version.All(c.tool.Scheme())}
		for i, a := range asks {
			if left[i] && has(options[i], best) {
				left[i] = false
				n--
				in.Asks, in.Set = append(in.Asks, a), in.Set.Intersect(a.Set)
			}
		}
		out = append(out, in)
	}
	slices.SortStableFunc(out, func(a, b Install) int { return b.Version.Compare(a.Version) })
	return out
}

func (c *choosing) serves(o candidate, options [][]candidate, left []bool) int {
	n := 0
	for i := range options {
		if left[i] && has(options[i], o) {
			n++
		}
	}
	return n
}

func has(list []candidate, o candidate) bool {
	return slices.ContainsFunc(list, func(p candidate) bool { return p.version.Compare(o.version) == 0 })
}

// better reports whether a version is to be preferred to one that serves as many: a supported
// one, one with long-term support, the newer one.
func better(a, b candidate) bool {
	switch {
	case b.version.IsZero():
		return true
	case a.ended != b.ended:
		return b.ended
	case a.long != b.long:
		return a.long
	}
	return a.version.Compare(b.version) > 0
}

// options are the versions that would serve an ask: the newest of each line that it admits,
// and those that somebody names, who could then share one with it. Where a supported one will do, the others are none.
func (c *choosing) options(a assess.Lack, named []version.Version) []candidate {
	if c.tool.Unreleased(a.Set, c.on) != "" {
		return nil // nobody can install what was never released
	}
	var out []candidate
	add := func(v version.Version, text string) {
		if v.IsZero() || !a.Set.Contains(v) || has(out, candidate{version: v}) {
			return
		}
		l := c.tool.LineOf(v)
		ended := l != nil && l.EndedOn(c.on) || l == nil && c.tool.EndedBefore(v, c.on)
		long := l != nil && !l.LongTerm.IsZero() && c.on.Reached(l.LongTerm.Time) && !ended
		out = append(out, candidate{v, text, l, ended, long})
	}
	for _, v := range named {
		add(v, "")
	}
	for _, l := range c.tool.Lines {
		if c.on.Reached(l.Released.Time) {
			if add(l.Newest(), ""); l.Newest().IsZero() { // nobody has noted which patch is the newest
				if least, ok := a.Set.Intersect(l.Set()).Least(); ok {
					add(least, l.Line)
				}
			}
		}
	}
	if len(out) == 0 { // a patch that the set names, or begins with
		if least, ok := a.Set.Least(); ok {
			add(least, "")
		}
	}
	supported := slices.DeleteFunc(slices.Clone(out), func(o candidate) bool { return o.ended })
	if len(supported) > 0 {
		return supported
	}
	return out
}

// AskedBy are the folders that an installation would serve, as repository and folder, sorted.
func (in Install) AskedBy() []string {
	out := []string{}
	for _, a := range in.Asks {
		out = append(out, path.Join(a.Result.Name, a.Subject.Folder))
	}
	slices.Sort(out)
	return slices.Compact(out)
}
