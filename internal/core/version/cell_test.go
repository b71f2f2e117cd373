package version_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/version"
)

func npm(t require.TestingT, text string) version.Set {
	set, err := version.ParseRange("npm", version.Semver, text)
	require.NoError(t, err)
	return set
}

// TestCells: cells are disjoint, make up the whole, and no set divides one.
func TestCells(t *testing.T) {
	texts := []string{"^20.19.0 || >=22.12.0", ">=14", "18.x", "20.19.0", "<12 || >13.1.0", ">=22.12.0 <24", "*"}
	rapid.Check(t, func(t *rapid.T) {
		var sets []version.Set
		for _, text := range rapid.SliceOfN(rapid.SampledFrom(texts), 0, 5).Draw(t, "sets") {
			sets = append(sets, npm(t, text))
		}
		within := npm(t, rapid.SampledFrom(texts).Draw(t, "within"))
		all := version.None(version.Semver)
		for _, c := range version.Cells(within, sets) {
			assert.False(t, c.SharesRelease(all), "disjoint")
			all = all.Unite(c.Set)
			for i, s := range sets {
				assert.Equal(t, c.In[i], c.SharesRelease(s))
				assert.Equal(t, c.In[i], c.WithoutPrereleases().SubsetOf(s))
			}
		}
		assert.True(t, all.WithoutPrereleases().Equal(within.WithoutPrereleases()), "%s and %s", all, within)
	})
}

func TestLeast(t *testing.T) {
	for text, want := range map[string]string{"^20.19.0 || >=22.12.0": "20.19.0", "<3": "", ">1.2.3": "", "18.x": "18.0.0", "*": ""} {
		least, ok := npm(t, text).Least()
		assert.Equal(t, want != "", ok, text)
		if ok {
			assert.Equal(t, want, least.String(), text)
		}
	}
}
