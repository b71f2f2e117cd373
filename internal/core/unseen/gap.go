// Package unseen says what was not seen: what was named and not found, found and not read,
// written and not matched, asked and not decided. Every answer carries the gaps that it may rest
// on, says nothing well beside them, and lets no command end as if they were not there.
package unseen

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Kind is how something came to be unseen.
type Kind string

// The kinds.
const (
	Missing   Kind = "missing"   // named and not found
	Unread    Kind = "unread"    // found and not read
	Unmatched Kind = "unmatched" // written and not matched
	Undecided Kind = "undecided" // asked and not decided
)

// Weight is what a gap does to the exit status of a command that rests on it.
type Weight int

// The weights, lightest first.
const (
	// Told: what is said holds without it, as it would if the line were not written.
	Told Weight = iota
	// Open: what stands there cannot be understood, and so what rests on it is open; a gate that
	// lets everything pass lets it pass too.
	Open
	// Lost: it could not be had at all, so that the work was not done.
	Lost
)

// weights are how weights are written.
var weights = []string{"told", "open", "lost"}

// MarshalText writes the weight as a word.
func (w Weight) MarshalText() ([]byte, error) { return []byte(weights[w]), nil }

// UnmarshalText reads a weight; an unknown word is the heaviest, so that no newer word is taken
// for less than it is.
func (w *Weight) UnmarshalText(text []byte) error {
	*w = Lost
	if i := slices.Index(weights, string(text)); i >= 0 {
		*w = Weight(i)
	}
	return nil
}

// Gap is one thing that was not seen.
type Gap struct {
	Kind       Kind   `json:"kind"`
	Repository string `json:"repository,omitempty"` // "" where it belongs to none
	Folder     string `json:"folder,omitempty"`     // of the repository
	File       string `json:"file,omitempty"`       // of the repository, or the configuration's
	Line       int    `json:"line,omitempty"`       // 0 where the whole is meant
	What       string `json:"what"`                 // a sentence: what was not seen, and why
	Weight     Weight `json:"weight"`
	// Tools are those that it may speak of; nil where it may be any.
	Tools []string `json:"tools,omitempty"`
}

// Concerns reports whether it may speak of a tool in a folder: of all below the folder in which
// it stands.
func (g Gap) Concerns(folder, tool string) bool {
	if g.Tools != nil && tool != "" && !slices.Contains(g.Tools, tool) {
		return false
	}
	return g.Folder == "" || g.Folder == folder || strings.HasPrefix(folder, g.Folder+"/")
}

// Place is where it stands, for people: "seed-ledger/pom.xml:3".
func (g Gap) Place() string {
	at := g.Repository
	if g.Folder != "" && g.File == "" {
		at = strings.TrimPrefix(at+"/"+g.Folder, "/")
	}
	if g.File != "" {
		at = strings.TrimPrefix(at+"/"+g.File, "/")
		if g.Line > 0 {
			at = fmt.Sprintf("%s:%d", at, g.Line)
		}
	}
	return at
}

// String is the gap in one line.
func (g Gap) String() string {
	if place := g.Place(); place != "" {
		return place + ": " + g.What
	}
	return g.What
}

// Heaviest is the greatest weight among some gaps; Told where there is none.
func Heaviest(gaps []Gap) Weight {
	out := Told
	for _, g := range gaps {
		out = max(out, g.Weight)
	}
	return out
}

// Blinding are the gaps on which something rests: all that are more than told.
func Blinding(gaps []Gap) []Gap {
	var out []Gap
	for _, g := range gaps {
		if g.Weight > Told {
			out = append(out, g)
		}
	}
	return out
}

// ToldOnly are the gaps on which nothing rests.
func ToldOnly(gaps []Gap) []Gap {
	return slices.DeleteFunc(slices.Clone(gaps), func(g Gap) bool { return g.Weight > Told })
}

// For are gaps as an answer on a tool of a folder rests on them, or on all tools where tool is
// empty: those that cannot concern it are only told. It is never nil.
func For(gaps []Gap, folder, tool string) []Gap {
	out := append([]Gap{}, gaps...)
	for i := range out {
		if !out[i].Concerns(folder, tool) {
			out[i].Weight = Told
		}
	}
	return out
}

// Sort puts gaps in the order in which they are told: the heaviest first, then by place.
func Sort(gaps []Gap) {
	slices.SortStableFunc(gaps, func(a, b Gap) int {
		return cmp.Or(cmp.Compare(b.Weight, a.Weight), strings.Compare(a.Repository, b.Repository), strings.Compare(a.File, b.File), a.Line-b.Line, strings.Compare(a.What, b.What))
	})
}
