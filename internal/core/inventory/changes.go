package inventory

import (
	"cmp"
	"slices"
	"strings"
)

// The kinds of things that change on a machine.
const (
	OfInstallation = "installation"
	OfHealth       = "health"
	OfPath         = "path" // what PATH runs
	OfDefault      = "default"
	OfOverride     = "override"
	OfProxy        = "proxy" // what a proxy picks
)

// Change is one difference between two inventories of a machine. Before is empty for what
// came, Now for what went.
type Change struct{ What, Tool, Path, Before, Now string }

// Came reports whether something is there that was not.
func (c Change) Came() bool { return c.Before == "" }

// Went reports whether something is not there any more.
func (c Change) Went() bool { return c.Now == "" }

// Changes are the differences between two inventories, by tool. An installation that was
// replaced where it lies has changed.
func Changes(before, now Inventory) []Change {
	var out []Change
	compare := func(what string, was, is map[[2]string]string) {
		for key, text := range is {
			if was[key] != text {
				out = append(out, Change{what, key[0], key[1], was[key], text})
			}
		}
		for key, text := range was {
			if _, there := is[key]; !there {
				out = append(out, Change{what, key[0], key[1], text, ""})
			}
		}
	}
	compare(OfInstallation, installed(before), installed(now))
	compare(OfHealth, health(before, now), health(now, before))
	compare(OfPath, paths(before), paths(now))
	compare(OfDefault, defaulted(before), defaulted(now))
	compare(OfOverride, overridden(before), overridden(now))
	compare(OfProxy, picked(before), picked(now))
	slices.SortFunc(out, func(a, b Change) int {
		return cmp.Or(strings.Compare(a.Tool, b.Tool), strings.Compare(a.What, b.What), strings.Compare(a.Path, b.Path), strings.Compare(a.Before+a.Now, b.Before+b.Now))
	})
	return out
}

// installed are the versions by tool and path; of several that share an executable all.
func installed(inv Inventory) map[[2]string]string {
	out := map[[2]string]string{}
	for _, in := range inv.Installations {
		key := [2]string{in.Tool, in.Path}
		text := cmp.Or(in.Version, "unknown version")
		if in.Vendor != "" {
			text += " " + in.Vendor
		}
		if was := out[key]; was != "" {
			text = was + ", " + text
		}
		out[key] = text
	}
	return out
}

// health is of each installation that both inventories have how it is.
func health(inv, other Inventory) map[[2]string]string {
	both := installed(other)
	out := map[[2]string]string{}
	for _, in := range inv.Installations {
		key := [2]string{in.Tool, in.Path}
		if _, there := both[key]; there {
			out[key] = strings.TrimSuffix(cmp.Or(in.Health, "good")+": "+in.HealthReason, ": ")
		}
	}
	return out
}

func paths(inv Inventory) map[[2]string]string {
	out := map[[2]string]string{}
	for _, p := range inv.FirstOnPath {
		out[[2]string{p.Tool, ""}] = strings.TrimSpace(p.Version + " at " + p.Path)
	}
	return out
}

func defaulted(inv Inventory) map[[2]string]string {
	out := map[[2]string]string{}
	for _, d := range inv.Defaults {
		out[[2]string{d.Tool, d.Source}] = d.Raw
	}
	return out
}

func overridden(inv Inventory) map[[2]string]string {
	out := map[[2]string]string{}
	for _, o := range inv.Overrides {
		out[[2]string{o.Tool, o.Variable}] = o.Raw
	}
	return out
}

func picked(inv Inventory) map[[2]string]string {
	out := map[[2]string]string{}
	for _, x := range inv.Proxies {
		if x.Picks != "" {
			out[[2]string{x.Tool, x.Path}] = strings.TrimSpace(x.Version + " at " + x.Picks)
		}
	}
	return out
}
