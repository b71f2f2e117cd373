package assess

import "wexo/internal/core/resolve"

var residueStale = Class{
	"residue-stale", 6, Warning, "Residue stale", "Stale", "residue",
	"what an earlier build left (a build folder, a dependency folder, a cache) was made by a version that the pin, or a bound if nothing is pinned, does not admit",
	(*check).residues,
}

// residues compares what made a leftover with what is asked for now. A version of the same
// release line made what the next one can go on with.
func (k *check) residues() {
	for i := range k.Case.Residues {
		set, _ := k.Case.Residues[i].On(k.on)
		if k.Case.Residues[i].Err != nil || set.IsEmpty() {
			continue
		}
		for _, r := range k.judged() {
			s := k.said(r)
			if unreadable(s) || s.Set.Overlaps(set) || k.sameLine(s, i) {
				continue
			}
			at := Ref{Of: AtResidue, N: i}
			k.report(Verdict{Stands: at, Evidence: []Ref{at, r}, Cause: k.Case.Residues[i].Raw})
			break
		}
	}
}

func (k *check) sameLine(s *resolve.Said, residue int) bool {
	set, _ := k.Case.Residues[residue].On(k.on)
	l := k.Tool.LineFor(set)
	return l != nil && l == k.Tool.LineFor(s.Set)
}
