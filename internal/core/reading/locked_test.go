package reading_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/reading"
	"wexo/internal/core/version"
)

// lockOf is a package lock whose dependencies demand the ranges of Node.js.
func lockOf(ranges []string) string {
	var b strings.Builder
	b.WriteString(`{"lockfileVersion": 3, "packages": {"": {}`)
	for i, r := range ranges {
		fmt.Fprintf(&b, ",\n\"node_modules/plant-%d\": {\"version\": \"1.0.%d\", \"engines\": {\"node\": %q}}", i, i, r)
	}
	return b.String() + "}}"
}

func lockBound(t require.TestingT, r *reading.Reader, text string) (claim.Claim, bool) {
	for _, c := range r.Read(tree(map[string]string{"package-lock.json": text})).Claims {
		if c.Tool == "node" {
			return c, true
		}
	}
	return claim.Claim{}, false
}

// TestLockedDemandsTogether: the bound of a lock file is what all demands admit; the
// demands that are named come to the same range, none of them can be left out, and each
// stands in the line that is named.
func TestLockedDemandsTogether(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	node, _ := c.Tool("node")
	r := newReader(t)
	rapid.Check(t, func(t *rapid.T) {
		demand := rapid.Custom(func(t *rapid.T) string {
			low := rapid.IntRange(10, 24).Draw(t, "low")
			return rapid.SampledFrom([]string{fmt.Sprintf(">=%d", low), fmt.Sprintf(">=%d.%d", low, low%5), fmt.Sprintf("^%d.1.0 || >=%d", low, low+2), fmt.Sprintf("<%d", low+8), fmt.Sprintf(">=%d <%d", low-6, low+6), "*"}).Draw(t, "demand")
		})
		ranges := rapid.SliceOfN(demand, 1, 30).Draw(t, "ranges")
		text := lockOf(ranges)
		want := version.All(node.Scheme())
		counted := 0
		for _, raw := range ranges {
			if raw == "*" {
				continue
			}
			counted++
			set, err := version.ParseRange("npm", node.Scheme(), raw)
			require.NoError(t, err)
			want = want.Intersect(set)
		}
		got, found := lockBound(t, r, text)
		require.Equal(t, counted > 0, found)
		if !found {
			return
		}
		w, err := got.Want(node)
		require.NoError(t, err)
		require.True(t, w.Set.Equal(want), "%s, expected %s", w.Set, want)
		require.Equal(t, counted, got.Locked.Demands)
		lines := strings.Split(text, "\n")
		for left := range got.Locked.By {
			rest := version.All(node.Scheme())
			for i, d := range got.Locked.By {
				require.True(t, strings.HasPrefix(lines[d.Line-1][d.Column-1:], d.Raw))
				require.Contains(t, lines[d.Line-1], "node_modules/"+d.Dependency+"\"")
				if i != left {
					set, err := version.ParseRange("npm", node.Scheme(), d.Raw)
					require.NoError(t, err)
					rest = rest.Intersect(set)
				}
			}
			if len(got.Locked.By) > 1 {
				require.False(t, rest.Equal(want), "%s could be left out", got.Locked.By[left].Raw)
			}
		}
	})
}

func TestLocksThatNothingSatisfies(t *testing.T) {
	got, found := lockBound(t, newReader(t), lockOf([]string{">=10", ">=20", "<22", "<18", ">=12"}))
	require.True(t, found)
	assert.Equal(t, "none", got.Locked.Range)
	assert.Len(t, got.Locked.By, 2, "the two that cannot hold together")
	assert.Equal(t, ">=20", got.Locked.By[0].Raw)
	assert.Equal(t, "<18", got.Locked.By[1].Raw)
}

// TestOptionalDemandsDoNotCount, nor do those of the project itself and of its own parts.
func TestOptionalDemandsDoNotCount(t *testing.T) {
	got, found := lockBound(t, newReader(t), `{"lockfileVersion": 3, "packages": {"": {"engines": {"node": ">=99"}}, "web": {"engines": {"node": ">=98"}},
"node_modules/web": {"link": true, "resolved": "web", "engines": {"node": ">=97"}}, "node_modules/a": {"optional": true, "engines": {"node": ">=96"}}, "node_modules/b": {"engines": {"node": ">=18"}}}}`)
	require.True(t, found)
	assert.Equal(t, 1, got.Locked.Demands)
	assert.Equal(t, ">=18", got.Raw)
}
