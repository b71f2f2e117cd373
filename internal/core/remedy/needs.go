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
func Of(ctx context.Context, results []*assess.Result, serving []*assess.Serving, fleet *resolve.Fleet, machine int, on time.Time) (Needs, error) {
	byKind := map[kind][]assess.Lack{}
	var order []kind
	var out Needs
	for _, r := range results {
		if r.Among.Has(machine) {
			out.Asking++
		}
		if ctx.Err() != nil {
			return out, ctx.Err()
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
		chosen, err := c.choose(ctx, byKind[k])
		if err != nil {
			return out, err
		}
		for _, in := range chosen {
			in.Build = k.Build
			out.Install = append(out.Install, in)
		}
	}
	out.Spare = assess.Spare(results, serving, machine)
	return out, nil
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
func (in Install) AskedBy() []string {
	out := []string{}
	for _, a := range in.Asks {
		out = append(out, path.Join(a.Result.Name, a.Subject.Folder))
	}
	slices.Sort(out)
	return slices.Compact(out)
}
