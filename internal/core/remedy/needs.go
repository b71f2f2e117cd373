// Package remedy turns what is wrong into what to do: what to install on a machine so that
// repositories run there as they ask, and what could go.
package remedy

import (
	"cmp"
	"context"
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
	Reach   []Reach
	Left    Left              // what all this does not mend
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
	Ended   bool   // its line is out of support, and nothing newer is admitted
	First   bool   // it has to be what PATH finds, or what the user's default leads to
	Default string // where that default stands; empty where there is none
	Asks    []assess.Lack
}

// Question is what is asked: what one machine of a fleet needs for some repositories.
type Question struct {
	Results []*assess.Result
	Serving []*assess.Serving
	Fleet   *resolve.Fleet
	Machine int // its place in the fleet
	On      time.Time
	// Try is a fleet of the machine alone, with another inventory of it.
	Try func(inventory.Inventory) *resolve.Fleet
}

// Of finds what a machine needs: of each tool the fewest versions that serve all, each the newest
// supported one that everybody admits whom it serves; what PATH has to lead to where nothing is
// pinned; what that leaves; and what could go and brings nothing when it does. What is told has
// been tried.
func Of(ctx context.Context, q Question) (Needs, error) {
	byKind := map[kind][]assess.Lack{}
	var order []kind
	var out Needs
	var pathed []assess.Pathed
	for _, r := range q.Results {
		if r.Among.Has(q.Machine) {
			out.Asking++
		}
		if ctx.Err() != nil {
			return out, ctx.Err()
		}
		for _, l := range withoutBundled(r.Lacks(q.Fleet, q.Machine, q.On)) {
			k := kind{l.Tool, l.Build}
			if byKind[k] == nil {
				order = append(order, k)
			}
			byKind[k] = append(byKind[k], l)
		}
		pathed = append(pathed, r.Pathed(q.Fleet, q.Machine, q.On)...)
	}
	slices.SortFunc(order, kind.compare)
	for _, k := range order {
		c := &choosing{tool: k.tool, on: day.On(q.On)}
		chosen, err := c.choose(ctx, byKind[k])
		if err != nil {
			return out, err
		}
		for _, in := range chosen {
			in.Build = k.Build
			out.Install = append(out.Install, in)
		}
	}
	reach, first, err := q.pathed(ctx, pathed)
	if err != nil {
		return out, err
	}
	out.Reach, out.Install = reach, joined(out.Install, first)
	out.Spare = assess.Spare(q.Results, q.Serving, q.Machine)
	if out.Left, err = q.left(ctx, out); err != nil {
		return out, err
	}
	out.Spare, err = q.harmless(ctx, out)
	return out, err
}

// joined are installations with those that PATH has to lead to: of what is to be installed anyway
// one will do.
func joined(list, first []Install) []Install {
	for _, f := range first {
		at := slices.IndexFunc(list, func(in Install) bool {
			return in.Tool == f.Tool && !in.Version.IsZero() && !f.Version.IsZero() && f.Set.Contains(in.Version)
		})
		if at < 0 {
			list = append(list, f)
			continue
		}
		list[at].First, list[at].Default = true, f.Default
		list[at].Asks, list[at].Set = append(list[at].Asks, f.Asks...), list[at].Set.Intersect(f.Set)
	}
	slices.SortStableFunc(list, func(a, b Install) int { return strings.Compare(a.Tool.Name, b.Tool.Name) })
	return list
}

// withoutBundled leaves out what comes with something else that the same folder lacks.
func withoutBundled(list []assess.Lack) []assess.Lack {
	type place struct{ tool, folder string }
	lacking := make(map[place]bool, len(list))
	for _, l := range list {
		lacking[place{l.Tool.Name, l.Subject.Folder}] = true
	}
	return slices.DeleteFunc(slices.Clone(list), func(l assess.Lack) bool {
		return l.Tool.BundledWith != "" && l.Exact == "" && lacking[place{l.Tool.BundledWith, l.Subject.Folder}]
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

// AskedBy are the folders that an installation would serve, as repository and folder, sorted.
func (in Install) AskedBy() []string { return AskedBy(in.Asks) }

// AskedBy are the folders that lack something, as repository and folder, sorted.
func AskedBy(list []assess.Lack) []string {
	out := []string{}
	for _, a := range list {
		out = append(out, path.Join(a.Result.Name, a.Subject.Folder))
	}
	slices.Sort(out)
	return slices.Compact(out)
}
