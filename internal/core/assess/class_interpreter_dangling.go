package assess

import (
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

var interpreterDangling = Class{
	"interpreter-dangling", 7, Error, "Interpreter dangling", "Dangling", "dangling",
	"the editor is pointed at a path that leads to no installation",
	(*check).danglings,
}

// The ways in which an editor's path leads nowhere.
const (
	DanglingInside  Kind = "inside"  // the repository
	DanglingOutside Kind = "outside" // on machines
	DanglingName    Kind = "name"    // by a name that the editor there does not know
	DanglingEntry   Kind = "entry"   // by a name that the editor there knows for a path
)

// danglings follows the paths that editors are pointed at.
func (k *check) danglings() {
	for i := range k.Case.Wirings {
		at, w := Ref{Of: AtWiring, N: i}, &k.Case.Wirings[i]
		switch {
		case w.Named:
			k.danglingName(at, w)
		case w.Kept:
		case w.Inside != nil:
			if !w.Inside.Exists && !k.Case.Committed { // a committed tree does not hold what is made on the machine
				k.report(Verdict{Kind: DanglingInside, Evidence: []Ref{at}, Machines: k.editing()})
			}
		case inventory.IsPath(w.Raw):
			k.danglingOutside(at, w)
		}
	}
}

// danglingName looks a name up where the editor's table is known.
func (k *check) danglingName(at Ref, w *Wiring) {
	if w.Table == "" {
		return
	}
	var unknown resolve.Machines
	entry := Verdict{Kind: DanglingEntry, Evidence: []Ref{at}, Cause: w.Raw + " entry"}
	for _, c := range k.Tooling.Classes {
		e, found, knows := c.Named(w.Table, k.Tool.Name, w.Raw)
		switch {
		case !knows || !editors(c):
		case !found:
			unknown = unknown.And(c.Machines)
		case e.Path != "" && e.Version == "":
			if _, there := c.LeadsTo(e.Path); !there {
				entry.Near = addRun(entry.Near, Run{Path: e.Path, Where: e.Source}, c.Machines)
				entry.Machines = entry.Machines.And(c.Machines)
			}
		}
	}
	if unknown.Len() > 0 {
		k.report(Verdict{Kind: DanglingName, Evidence: []Ref{at}, Cause: w.Raw, Reason: w.Table, Machines: unknown})
	}
	if entry.Machines.Len() > 0 {
		entry.Reason = w.Table
		k.report(entry)
	}
}

func (k *check) danglingOutside(at Ref, w *Wiring) {
	var nowhere resolve.Machines
	for _, c := range k.Tooling.Classes {
		if !editors(c) {
			continue
		}
		if _, there := c.LeadsTo(w.Raw); !there {
			nowhere = nowhere.And(c.Machines)
		}
	}
	if nowhere.Len() > 0 {
		v := Verdict{Kind: DanglingOutside, Evidence: []Ref{at}, Machines: nowhere}
		v.Runs, v.Home = k.chosen(nowhere)
		k.report(v)
	}
}
