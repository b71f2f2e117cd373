package api

import (
	"wexo/internal/core/unseen"
)

// gaps are what was not seen, in the form of the contract; never nil.
func gaps(list []unseen.Gap) []Gap {
	out := make([]Gap, 0, len(list))
	for _, g := range list {
		weight, _ := g.Weight.MarshalText() // which never fails
		out = append(out, Gap{Kind: GapKind(g.Kind), What: g.What, Weight: GapWeight(weight), Repository: given(g.Repository), Folder: given(g.Folder), File: given(g.File), Line: given(g.Line), Tools: some(g.Tools)})
	}
	return out
}

// given is a value that is left out where it is zero.
func given[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}
