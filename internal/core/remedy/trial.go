package remedy

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

// Left is what installing does not mend: findings that are there still once all is done that is
// advised. They are judged as every finding is, on a fleet of the one machine.
type Left struct {
	Fleet  *resolve.Fleet
	Causes []*assess.Caused
}

// mended are the classes of which needs speak: what is left of them is told.
var mended = []string{"toolchain-missing", "bound-violated", "version-unknown"}

// try judges the repositories that matter to the machine, with another inventory of it.
func (q Question) try(ctx context.Context, inv inventory.Inventory) (*resolve.Fleet, []*assess.Finding, error) {
	var list []*assess.Prepared
	for _, r := range q.Results {
		if r.Among.Has(q.Machine) {
			list = append(list, r.Prepared)
		}
	}
	fleet := q.Try(inv)
	results, err := assess.All(ctx, list, fleet, q.On, assess.Earlier{})
	if err != nil {
		return nil, nil, err
	}
	var out []*assess.Finding
	for _, r := range results {
		for _, f := range r.Findings {
			if !f.Apart && f.Machines.Len() > 0 {
				out = append(out, f)
			}
		}
	}
	return fleet, out, nil
}

// left is what is left once all is done.
func (q Question) left(ctx context.Context, n Needs) (Left, error) {
	inv := q.Fleet.Machines[q.Machine].Inventory
	fleet, found, err := q.try(ctx, done(inv, n))
	if err != nil {
		return Left{}, err
	}
	comes := map[string]bool{} // with what is installed
	for _, in := range n.Install {
		if !in.Version.IsZero() {
			comes[in.Tool.Name] = true
		}
	}
	told := map[*assess.Subject]bool{} // as what nobody can install
	for _, in := range n.Install {
		for _, a := range in.Asks {
			told[a.Subject] = in.Version.IsZero()
		}
	}
	found = slices.DeleteFunc(found, func(f *assess.Finding) bool {
		return !slices.Contains(mended, f.Class.Name) || f.Verdict.Severity == assess.Note || f.Tool != nil && comes[f.Tool.BundledWith] || told[f.Subject]
	})
	return Left{fleet, assess.Causes(found)}, nil
}

// done is an inventory once all is done that is advised.
func done(inv inventory.Inventory, n Needs) inventory.Inventory {
	out := inv
	out.Installations, out.FirstOnPath, out.Defaults = slices.Clone(inv.Installations), slices.Clone(inv.FirstOnPath), slices.Clone(inv.Defaults)
	lead := func(tool, version, path, byDefault string) {
		out.FirstOnPath = slices.DeleteFunc(out.FirstOnPath, func(p inventory.OnPath) bool { return p.Tool == tool })
		out.FirstOnPath = append(out.FirstOnPath, inventory.OnPath{Tool: tool, Path: path, Version: version})
		for i := range out.Defaults {
			if d := &out.Defaults[i]; d.Tool == tool && byDefault != "" {
				d.Raw, d.Path = version, ""
			}
		}
	}
	for i, in := range n.Install {
		if in.Version.IsZero() {
			continue
		}
		home := fmt.Sprintf("/wexo-needs/%d", i)
		one := inventory.Installation{Tool: in.Tool.Name, Version: in.Version.String(), Vendor: in.Build.Vendor, Variant: in.Build.Variant, Package: in.Build.Package,
			Path: home + "/bin/" + in.Tool.Name, Home: home, Origin: "versioned-root", Health: "good", Arch: cmp.Or(in.Build.Arch, inv.Machine.Arch)}
		out.Installations = append(out.Installations, one)
		if in.First {
			lead(one.Tool, one.Version, one.Path, in.Default)
		}
	}
	for _, r := range n.Reach {
		lead(r.Tool.Name, r.Install.Version, r.Install.Path, r.Default)
	}
	return out
}

// without is an inventory without some installations.
func without(inv inventory.Inventory, gone []*assess.Serving) inventory.Inventory {
	out := inv
	out.Installations = slices.DeleteFunc(slices.Clone(inv.Installations), func(in inventory.Installation) bool {
		return slices.ContainsFunc(gone, func(s *assess.Serving) bool {
			return s.Tool.Name == in.Tool && s.Path == in.Path && s.Version == in.Version
		})
	})
	return out
}

// harmless leaves of what could go what brings nothing when it goes: it is tried.
func (q Question) harmless(ctx context.Context, n Needs) ([]*assess.Serving, error) {
	spare := slices.DeleteFunc(slices.Clone(n.Spare), func(s *assess.Serving) bool {
		return slices.ContainsFunc(n.Reach, func(r Reach) bool { return r.Install == s.Installed })
	})
	if len(spare) == 0 {
		return spare, nil
	}
	inv := q.Fleet.Machines[q.Machine].Inventory
	_, found, err := q.try(ctx, inv)
	if err != nil {
		return nil, err
	}
	before := map[finding]bool{}
	for _, f := range found {
		before[findingOf(f)] = true
	}
	brings := func(gone []*assess.Serving) (bool, error) {
		_, after, err := q.try(ctx, without(inv, gone))
		return slices.ContainsFunc(after, func(f *assess.Finding) bool { return !before[findingOf(f)] }), err
	}
	if bad, err := brings(spare); err != nil || !bad {
		return spare, err
	}
	var out []*assess.Serving
	for _, s := range spare {
		bad, err := brings(append(out[:len(out):len(out)], s))
		if err != nil {
			return nil, err
		}
		if !bad {
			out = append(out, s)
		}
	}
	return out, nil
}

// finding tells findings of one machine apart, whatever they are judged with.
type finding struct{ repository, fingerprint string }

func findingOf(f *assess.Finding) finding { return finding{f.Repository.Name, f.Fingerprint} }
