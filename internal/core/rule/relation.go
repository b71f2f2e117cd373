package rule

import (
	"slices"
	"strings"

	"wexo/internal/core/version"
)

// relation is a rule as a list of what goes together: the order of each end divided into
// cells that no term divides, and the choices of one cell each that the rule admits.
type relation struct {
	cells  [][]cell
	admits [][]uint16 // each a cell of every end
	pairs  []uint64   // of two ends: for each cell of the first the cells of the second, where those are few
	too    bool       // there are too many choices to list
}

type cell struct {
	set  version.Set
	word string // "" of all other words
}

// mostTuples is how many choices a rule is written out for.
const mostTuples = 20_000

// related is the rule as a relation, made when it is first asked for.
func (r *Rule) related() *relation {
	r.once.Do(func() { r.relation = r.relate() })
	return r.relation
}

func (r *Rule) relate() *relation {
	out := &relation{}
	total := 1
	for i, e := range r.Ends {
		out.cells = append(out.cells, r.cellsOf(i, e))
		if total *= len(out.cells[i]); total > mostTuples {
			out.too = true
			return out
		}
	}
	choice := make([]uint16, len(r.Ends))
	for n := range total {
		for i, rest := 0, n; i < len(choice); i++ {
			choice[i], rest = uint16(rest%len(out.cells[i])), rest/len(out.cells[i])
		}
		if r.admitsCells(out, choice) {
			out.admits = append(out.admits, slices.Clone(choice))
		}
	}
	if len(out.cells) == 2 && len(out.cells[1]) <= 64 {
		out.pairs = make([]uint64, len(out.cells[0]))
		for _, choice := range out.admits {
			out.pairs[choice[0]] |= 1 << choice[1]
		}
	}
	return out
}

func (r *Rule) cellsOf(end int, e End) []cell {
	var sets []version.Set
	words := []cell{{}}
	for i := range r.Rows {
		for _, t := range slices.Concat(r.Rows[i].When, r.Rows[i].Need) {
			switch {
			case t.End != end:
			case e.Label == "":
				sets = append(sets, t.Set)
			case !slices.ContainsFunc(words, func(c cell) bool { return strings.EqualFold(c.word, t.Word) }):
				words = append(words, cell{word: t.Word})
			}
		}
	}
	if e.Label != "" {
		return words
	}
	// Parts of the order that all terms hold alike are one cell.
	var out []cell
	alike := map[string]int{}
	for _, c := range version.Cells(version.All(sets[0].Scheme()), sets) {
		key := make([]byte, len(c.In))
		for i, in := range c.In {
			if in {
				key[i] = 1
			}
		}
		at, known := alike[string(key)]
		if !known {
			alike[string(key)] = len(out)
			out = append(out, cell{set: c.Set})
			continue
		}
		out[at].set = out[at].set.Unite(c.Set)
	}
	return out
}

func (r *Rule) admitsCells(rel *relation, choice []uint16) bool {
	value := func(t *Term) Value { c := rel.cells[t.End][choice[t.End]]; return Value{c.set, c.word} }
	for i := range r.Rows {
		row := &r.Rows[i]
		if slices.ContainsFunc(row.When, func(t Term) bool { return !t.within(value(&t)) }) {
			continue
		}
		if slices.ContainsFunc(row.Need, func(t Term) bool { return !t.within(value(&t)) }) {
			return false
		}
	}
	return true
}

// within reports whether a cell lies in the term: it lies in it wholly or not at all.
func (t *Term) within(v Value) bool {
	if t.Word != "" {
		return strings.EqualFold(t.Word, v.Word)
	}
	return t.Set.Meets(v.Set)
}

func (c *cell) meets(v Value) bool {
	switch {
	case v.IsZero():
		return true
	case v.Word != "" && c.word != "":
		return strings.EqualFold(c.word, v.Word)
	case v.Word != "":
		return false // the cell of all other words; whoever asks has tried those before
	}
	return c.set.Meets(v.Set)
}

// meets are the cells of an end that a value meets, of which there are few.
func (rel *relation) meets(end int, v Value) uint64 {
	var out uint64
	for i := range rel.cells[end] {
		if rel.cells[end][i].meets(v) {
			out |= 1 << i
		}
	}
	if out == 0 && v.Word != "" {
		return 1 // a word that no term names
	}
	return out
}

// admitsPair reports whether two ends can go together.
func (rel *relation) admitsPair(values []Value) bool {
	second := rel.meets(1, values[1])
	named := false
	for i, with := range rel.pairs {
		if !rel.cells[0][i].meets(values[0]) {
			continue
		}
		if named = true; with&second != 0 {
			return true
		}
	}
	return !named && values[0].Word != "" && rel.pairs[0]&second != 0 // a word that no term names
}

// leftOfPair are the cells of an end that go with what is known of the other.
func (rel *relation) leftOfPair(end int, values []Value) []bool {
	kept := make([]bool, len(rel.cells[end]))
	if end == 0 {
		second := rel.meets(1, values[1])
		for i, with := range rel.pairs {
			kept[i] = with&second != 0
		}
		return kept
	}
	var all uint64
	for i, met := range rel.meeting(0, values[0]) {
		if met {
			all |= rel.pairs[i]
		}
	}
	for i := range kept {
		kept[i] = all>>i&1 == 1
	}
	return kept
}

// meeting are the cells of an end that a value meets.
func (rel *relation) meeting(end int, v Value) []bool {
	out := make([]bool, len(rel.cells[end]))
	any := false
	for i := range out {
		out[i] = rel.cells[end][i].meets(v)
		any = any || out[i]
	}
	if !any && v.Word != "" {
		out[0] = true // a word that no term names
	}
	return out
}

// Admits reports whether the rule can hold with what is known of its ends.
func (r *Rule) Admits(values []Value) bool {
	rel := r.related()
	if rel.too {
		return r.admitsDefinite(values)
	}
	if rel.pairs != nil {
		return rel.admitsPair(values)
	}
	met := make([][]bool, len(values))
	for i, v := range values {
		met[i] = rel.meeting(i, v)
	}
	return slices.ContainsFunc(rel.admits, func(choice []uint16) bool {
		for i, c := range choice {
			if !met[i][c] {
				return false
			}
		}
		return true
	})
}

// admitsDefinite looks only at rows whose conditions surely hold.
func (r *Rule) admitsDefinite(values []Value) bool {
	for i := range r.Rows {
		row := &r.Rows[i]
		if slices.ContainsFunc(row.When, func(t Term) bool { return values[t.End].IsZero() || !t.holds(values[t.End]) }) {
			continue
		}
		if slices.ContainsFunc(row.Need, func(t Term) bool { return !values[t.End].IsZero() && !t.meets(values[t.End]) }) {
			return false
		}
	}
	return true
}

// Left is what the rule leaves of an end's versions beside what is known of the others.
func (r *Rule) Left(end int, values []Value) version.Set {
	rel := r.related()
	scheme := r.scheme(end)
	if rel.too || scheme == version.NoScheme {
		return version.All(scheme)
	}
	kept := rel.left(end, values)
	if !slices.Contains(kept, false) {
		return version.All(scheme)
	}
	out := version.None(scheme)
	for i, keep := range kept {
		if keep {
			out = out.Unite(rel.cells[end][i].set)
		}
	}
	return out
}

// left are the cells of an end that go with what is known of the others.
func (rel *relation) left(end int, values []Value) []bool {
	if rel.pairs != nil {
		return rel.leftOfPair(end, values)
	}
	met := make([][]bool, len(values))
	for i, v := range values {
		if i == end {
			v = Value{}
		}
		met[i] = rel.meeting(i, v)
	}
	kept := make([]bool, len(rel.cells[end]))
	for _, choice := range rel.admits {
		fits := true
		for i, c := range choice {
			fits = fits && met[i][c]
		}
		if fits {
			kept[choice[end]] = true
		}
	}
	return kept
}

// scheme is the order of an end's versions; NoScheme of one that has none.
func (r *Rule) scheme(end int) version.Scheme {
	for i := range r.Rows {
		for _, t := range slices.Concat(r.Rows[i].When, r.Rows[i].Need) {
			if t.End == end {
				return t.Set.Scheme()
			}
		}
	}
	return version.NoScheme
}
