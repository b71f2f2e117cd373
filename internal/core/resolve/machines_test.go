package resolve_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"wexo/internal/core/resolve"
)

// TestMachinesAreSets, however many there are.
func TestMachinesAreSets(t *testing.T) {
	places := rapid.SliceOfNDistinct(rapid.IntRange(0, 300), 0, 40, rapid.ID[int])
	rapid.Check(t, func(t *rapid.T) {
		a, b := places.Draw(t, "a"), places.Draw(t, "b")
		make := func(list []int) (m resolve.Machines) {
			for _, i := range list {
				m = m.With(i)
			}
			return m
		}
		x, y := make(a), make(b)
		both := slices.Compact(slices.Sorted(slices.Values(append(slices.Clone(a), b...))))
		assert.Equal(t, both, slices.Collect(x.And(y).All()))
		assert.Equal(t, len(both), y.And(x).Len())
		assert.ElementsMatch(t, a, slices.Collect(x.All()), "nothing changes it")
		for i := range 320 {
			assert.Equal(t, slices.Contains(a, i), x.Has(i))
		}
		if len(a) == 0 {
			assert.Equal(t, -1, x.First())
		} else {
			assert.Equal(t, slices.Min(a), x.First())
		}
	})
}
