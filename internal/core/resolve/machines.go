package resolve

import (
	"iter"
	"math/bits"
	"slices"
)

// Machines is a choice of a fleet's machines, by their places in it. The zero value is none.
type Machines []uint64

// With is the choice with one more.
func (m Machines) With(i int) Machines {
	out := slices.Clone(m)
	for len(out) <= i/64 {
		out = append(out, 0)
	}
	out[i/64] |= 1 << (i % 64)
	return out
}

// And is both choices together.
func (m Machines) And(o Machines) Machines {
	if len(o) > len(m) {
		m, o = o, m
	}
	out := slices.Clone(m)
	for i, word := range o {
		out[i] |= word
	}
	return out
}

// Has reports whether the machine at a place is chosen.
func (m Machines) Has(i int) bool { return i/64 < len(m) && m[i/64]&(1<<(i%64)) != 0 }

// Len is how many are chosen.
func (m Machines) Len() int {
	n := 0
	for _, word := range m {
		n += bits.OnesCount64(word)
	}
	return n
}

// First is the lowest place chosen; -1 where none is.
func (m Machines) First() int {
	for i := range m.All() {
		return i
	}
	return -1
}

// All are the places chosen, in order.
func (m Machines) All() iter.Seq[int] {
	return func(yield func(int) bool) {
		for w, word := range m {
			for ; word != 0; word &= word - 1 {
				if !yield(64*w + bits.TrailingZeros64(word)) {
					return
				}
			}
		}
	}
}
