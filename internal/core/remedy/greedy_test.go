package remedy

import (
	"context"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/assess"
	"wexo/internal/core/day"
	"wexo/internal/core/version"
)

// TestTheBestOfATree: what the tree finds is what looking at every candidate finds, whoever has
// been served already.
func TestTheBestOfATree(t *testing.T) {
	tool := node(t)
	rapid.Check(t, func(t *rapid.T) {
		c := &choosing{tool: tool, on: day.On(november)}
		var lacks []assess.Lack
		for range rapid.IntRange(1, 12).Draw(t, "asks") {
			text := rapid.SampledFrom([]string{"24", "22", "20", ">=20", ">=22 <25", "24.11.1", "22.11.0", "20.1.0", "<24", ">=18 <20", "16 || 24", "18.0.0"}).Draw(t, "text")
			set, err := version.ParseRange("npm", tool.Scheme(), text)
			require.NoError(t, err)
			l := assess.Lack{Tool: tool, Set: set}
			if _, err := tool.Scheme().Parse(text); err == nil && len(text) > 4 {
				l.Exact = text
			}
			lacks = append(lacks, l)
		}
		asks := alike(lacks)
		cover := newCover(c.candidates(asks))
		left := map[*ask]bool{}
		for _, a := range asks {
			if a.runs = cover.runs(a.set); len(a.runs) > 0 {
				cover.add(a, len(a.lacks))
				left[a] = true
			}
		}
		for len(left) > 0 {
			best, most := -1, 0
			for place := range cover.list {
				n := 0
				for a := range left {
					for _, run := range a.runs {
						if run[0] <= place && place < run[1] {
							n += len(a.lacks)
						}
					}
				}
				if n > most || n == most && n > 0 && better(cover.list[place], cover.list[best]) {
					best, most = place, n
				}
			}
			require.Equal(t, cover.list[best].version.String(), cover.list[cover.best()].version.String())
			taken := cover.take(cover.best())
			require.NotEmpty(t, taken)
			for _, a := range taken {
				require.True(t, left[a])
				delete(left, a)
			}
		}
	})
}

// TestManyAsksAreAnswered: thousands that each ask for something else take no product of them all,
// and the search ends when nobody waits for it any more.
func TestManyAsksAreAnswered(t *testing.T) {
	tool := node(t)
	c := &choosing{tool: tool, on: day.On(november)}
	var texts []string
	for i := range 20_000 {
		texts = append(texts, fmt.Sprintf("%d.%d.%d", 10+i%14, i/14%20, i/280))
	}
	lacks := asking(t, c, texts...)
	got, err := c.choose(t.Context(), lacks)
	require.NoError(t, err)
	served := 0
	for _, in := range got {
		served += len(in.Asks)
	}
	assert.Equal(t, len(lacks), served)
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = c.choose(gone, lacks)
	assert.ErrorIs(t, err, context.Canceled)
}
