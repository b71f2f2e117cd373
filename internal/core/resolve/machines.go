package resolve

import (
	"encoding/binary"
	"iter"
	"math/bits"
	"slices"
	"strings"
)

// Machines is a choice of a fleet's machines, by their places in it. The zero value is
// none. It is a value: nothing changes it.
type Machines struct {
	first uint64   // the first 64
	more  []uint64 // the others, of a large fleet
}

// With is the choice with one more.
func (m Machines) With(i int) Machines {
	if i < 64 {
		m.first |= 1 << i
		return m
	}
	m.more = slices.Clone(m.more)
	for len(m.more) < i/64 {
		m.more = append(m.more, 0)
	}
	m.more[i/64-1] |= 1 << (i % 64)
	return m
}

// And is both choices together.
func (m Machines) And(o Machines) Machines {
	m.first |= o.first
	if len(o.more) == 0 {
		return m
	}
	long, short := m.more, o.more
	if len(short) > len(long) {
		long, short = short, long
	}
	m.more = slices.Clone(long)
	for i, word := range short {
		m.more[i] |= word
	}
	return m
}

// Both is what is in both choices.
func (m Machines) Both(o Machines) Machines {
	out := Machines{first: m.first & o.first}
	for i := range min(len(m.more), len(o.more)) {
		out.more = append(out.more, m.more[i]&o.more[i])
	}
	return out
}

// Has reports whether the machine at a place is chosen.
func (m Machines) Has(i int) bool {
	switch {
	case i < 0:
		return false
	case i < 64:
		return m.first&(1<<i) != 0
	}
	return i/64 <= len(m.more) && m.more[i/64-1]&(1<<(i%64)) != 0
}

// Len is how many are chosen.
func (m Machines) Len() int {
	n := bits.OnesCount64(m.first)
	for _, word := range m.more {
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
		for word := m.first; word != 0; word &= word - 1 {
			if !yield(bits.TrailingZeros64(word)) {
				return
			}
		}
		for w, word := range m.more {
			for ; word != 0; word &= word - 1 {
				if !yield(64*(w+1) + bits.TrailingZeros64(word)) {
					return
				}
			}
		}
	}
}

// key tells choices apart.
func (m Machines) key() string {
	b := binary.LittleEndian.AppendUint64(nil, m.first)
	for _, word := range m.more {
		b = binary.LittleEndian.AppendUint64(b, word)
	}
	return strings.TrimRight(string(b), "\x00")
}

// Equal reports whether two choices are the same.
func (m Machines) Equal(o Machines) bool { return m.key() == o.key() }
