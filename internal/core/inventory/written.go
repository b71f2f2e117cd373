package inventory

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
)

// written is an inventory as it is meant that somebody wrote by hand: tools by the names that the
// catalogue gives them. Unmatched tells of what it speaks of and the catalogue does not know.
func written(inv Inventory, c *catalogue.Catalogue) (out Inventory, unmatched []string) {
	w := &writing{catalogue: c, told: map[string]bool{}}
	inv.Installations = named(w, inv.Installations, "installations", func(in *Installation) *string { return &in.Tool })
	inv.FirstOnPath = named(w, inv.FirstOnPath, "firstOnPath", func(p *OnPath) *string { return &p.Tool })
	inv.Defaults = named(w, inv.Defaults, "defaults", func(d *Default) *string { return &d.Tool })
	inv.Overrides = named(w, inv.Overrides, "overrides", func(o *Override) *string { return &o.Tool })
	inv.Proxies = named(w, inv.Proxies, "proxies", func(p *Proxy) *string { return &p.Tool })
	inv.Editors = named(w, inv.Editors, "editors", func(e *Wiring) *string { return &e.Tool })
	w.editors(inv.Editors)
	return inv, w.unmatched
}

type writing struct {
	catalogue *catalogue.Catalogue
	unmatched []string
	told      map[string]bool
}

func (w *writing) tell(key, format string, args ...any) {
	if !w.told[key] {
		w.told[key] = true
		w.unmatched = append(w.unmatched, fmt.Sprintf(format, args...))
	}
}

// named gives entries the tools' own names. The list that was given stays as it is.
func named[T any](w *writing, list []T, part string, tool func(*T) *string) []T {
	out := list
	for i := range list {
		name := *tool(&list[i])
		known, is := w.catalogue.Tool(name)
		switch {
		case !is && name != "":
			w.tell("tool "+name, "%s[%d] is of the tool %q, which is not known; %s", part, i, name, nearest.Hint(name, w.catalogue.Names()))
		case is && known.Name != name:
			if &out[0] == &list[0] {
				out = slices.Clone(list)
			}
			*tool(&out[i]) = known.Name
		}
	}
	return out
}

// editors tells of editors by whose name nothing is looked up.
func (w *writing) editors(list []Wiring) {
	var known []string
	for _, t := range w.catalogue.Places().Machines.Tables {
		known = append(known, t.Editor)
	}
	for i, e := range list {
		if e.Kind == WiredName && !slices.ContainsFunc(known, func(name string) bool { return sameName(name, e.Editor) }) {
			w.tell("editor "+e.Editor, "editors[%d] is of %q, by whose name no project looks anything up; %s", i, e.Editor, nearest.Hint(e.Editor, known))
		}
	}
}

// sameName reports whether two names of an editor differ in nothing that anybody would look at.
func sameName(a, b string) bool {
	fold := func(s string) string {
		return strings.NewReplacer(" ", "", "-", "", "_", "", ".", "").Replace(strings.ToLower(s))
	}
	return fold(a) == fold(b)
}

// implied is what comes with a tool and is not listed, where nobody looked along PATH: such an
// inventory was not probed. Which version it is, the installation that brings it may tell.
func implied(inv Inventory, c *catalogue.Catalogue) (list []Installation, first []OnPath) {
	if len(inv.SearchPath) > 0 {
		return nil, nil
	}
	for _, tool := range c.Tools() {
		is := func(name string) bool { return name == tool.Name }
		if tool.BundledWith == "" {
			continue
		}
		pathed := slices.ContainsFunc(inv.FirstOnPath, func(p OnPath) bool { return is(p.Tool) })
		for _, host := range inv.Installations {
			listed := func(in Installation) bool { return is(in.Tool) && in.Home == host.Home }
			if host.Tool != tool.BundledWith || host.Health == "broken" || slices.ContainsFunc(inv.Installations, listed) {
				continue
			}
			one := Installation{Tool: tool.Name, Version: host.Components[tool.Name], Path: path.Join(path.Dir(slashed(host.Path)), tool.Name), Home: host.Home, Origin: "bundled", Health: host.Health, Arch: host.Arch}
			list = append(list, one)
			if !pathed && slices.ContainsFunc(inv.FirstOnPath, func(p OnPath) bool { return p.Tool == host.Tool && p.Path == host.Path }) {
				first = append(first, OnPath{Tool: tool.Name, Path: one.Path, Version: one.Version})
			}
		}
	}
	return list, first
}
