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
)

// danglings follows the paths that editors are pointed at.
func (k *check) danglings() {
	for i := range k.Case.Wirings {
		at, w := Ref{Of: AtWiring, N: i}, &k.Case.Wirings[i]
		switch {
		case w.Named || w.Kept:
		case w.Inside != nil:
			if !w.Inside.Exists && !k.Case.Committed { // a committed tree does not hold what is made on the machine
				k.report(Verdict{Kind: DanglingInside, Evidence: []Ref{at}, Machines: k.editing()})
			}
		case inventory.IsPath(w.Raw):
			k.danglingOutside(at, w)
		}
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
