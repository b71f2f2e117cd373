package version_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/version"
)

// TestSetupRanges: what setup steps take, for tools whose versions have schemes of their own.
func TestSetupRanges(t *testing.T) {
	for _, c := range []struct {
		scheme   version.Scheme
		text     string
		in, out_ []string
	}{
		{version.Go, "^1.22", []string{"1.22.0", "1.22.5", "1.25.1"}, []string{"1.21.9", "2.0.0", "1.22rc1"}},
		{version.Go, ">=1.19 <1.20", []string{"1.19.0", "1.19.13"}, []string{"1.20.0", "1.18.2", "1.20rc1"}},
		{version.Go, "~1.12", []string{"1.12.0", "1.12.17"}, []string{"1.13.0", "1.11.1"}},
		{version.Go, "1.x", []string{"1.9.0", "1.25.1"}, []string{"2.0.0"}},
		{version.PEP440, "3.x", []string{"3.9.0", "3.12.4"}, []string{"2.7.18", "4.0"}},
		{version.PEP440, ">=3.9, <3.13", []string{"3.9.0", "3.12.9"}, []string{"3.13.0", "3.8.1", "3.13.0rc1"}},
		{version.PEP440, "3.8 - 3.10", []string{"3.8.0", "3.10.9"}, []string{"3.11.0", "3.7.9"}},
		{version.PEP440, ">3.8", []string{"3.9.0"}, []string{"3.8.0", "3.8.18"}},
		{version.PEP440, "<=3.8", []string{"3.8.0", "3.8.18", "3.7.1"}, []string{"3.9.0"}},
		{version.PEP440, "~3.9.0-0", []string{"3.9.0", "3.9.0a1", "3.9.18"}, []string{"3.10.0", "3.10.0a1", "3.8.19"}},
		{version.PEP440, ">=3.9.0-0", []string{"3.9.0rc1", "3.12.1"}, []string{"3.8.19", "3.12.0rc1"}},
		{version.PEP440, "3.13.0-rc.1", []string{"3.13.0rc1"}, []string{"3.13.0", "3.13.0rc2", "3.13.1"}},
		{version.PEP440, "3.13.0-rc.1 - 3.13", []string{"3.13.0rc1", "3.13.0rc3", "3.13.0", "3.13.4"}, []string{"3.13.0a1", "3.12.9", "3.14.0"}},
		{version.PEP440, ">=3.13.0-alpha.1 <3.14", []string{"3.13.0a1", "3.13.2"}, []string{"3.14.0", "3.14.0a1", "3.13.1rc1"}},
		{version.Semver, ">=4.0.0-rc.1", []string{"4.0.0-rc.22", "4.0.0", "5.1.0"}, []string{"4.0.0-beta.1", "5.0.0-rc.1"}},
		{version.Java, "17.0.x", []string{"17.0.2"}, []string{"17.1", "18"}},
		{version.Java, ">= 11", []string{"11.0.2", "21"}, []string{"8"}},
		{version.Erlang, "26.x || 27", []string{"26.2.1", "27.0"}, []string{"25.3", "28.0"}},
		{version.Numeric, "~3.24.0", []string{"3.24.0", "3.24.4"}, []string{"3.25.0", "3.23.9"}},
		{version.Semver, "^0.2.3", []string{"0.2.3", "0.2.9"}, []string{"0.3.0", "0.2.2"}},
		{version.Semver, "*", []string{"1.0.0"}, []string{"1.0.0-rc.1"}},
	} {
		set, err := version.ParseRange("setup", c.scheme, c.text)
		require.NoError(t, err, c.text)
		for _, v := range c.in {
			assert.True(t, set.Contains(parsed(t, c.scheme, v)), "%s in %s %s", v, c.scheme, c.text)
		}
		for _, v := range c.out_ {
			assert.False(t, set.Contains(parsed(t, c.scheme, v)), "%s not in %s %s", v, c.scheme, c.text)
		}
	}
	for _, text := range []string{"", "latest", ">=", "^", ">= <", "stable || 1", "1..2", "~^1"} {
		_, err := version.ParseRange("setup", version.Go, text)
		assert.Error(t, err, text)
	}
}

func parsed(t *testing.T, s version.Scheme, text string) version.Version {
	t.Helper()
	v, err := s.Parse(text)
	require.NoError(t, err, text)
	return v
}

// TestSetupRangesAsNpm: on released versions of semver the grammar is npm's.
func TestSetupRangesAsNpm(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.IntRange(0, 3)
		dots := func() string {
			return rapid.Custom(func(t *rapid.T) string {
				text := string(rune('0' + number.Draw(t, "n")))
				for range rapid.IntRange(0, 2).Draw(t, "more") {
					text += "." + string(rune('0'+number.Draw(t, "n")))
				}
				return text
			}).Draw(t, "version")
		}
		text := ""
		for i := range rapid.IntRange(1, 3).Draw(t, "parts") {
			if i > 0 {
				text += rapid.SampledFrom([]string{" ", " || "}).Draw(t, "between")
			}
			text += rapid.SampledFrom([]string{"", "^", "~", ">=", "<", ">", "<=", "="}).Draw(t, "op") + dots()
		}
		ours, err := version.ParseRange("setup", version.Semver, text)
		require.NoError(t, err, text)
		theirs, err := version.ParseRange("npm", version.Semver, text)
		require.NoError(t, err, text)
		for a := range 4 {
			for b := range 4 {
				for c := range 4 {
					v, err := version.Semver.Parse(string([]rune{rune('0' + a), '.', rune('0' + b), '.', rune('0' + c)}))
					require.NoError(t, err)
					assert.Equal(t, theirs.Contains(v), ours.Contains(v), "%s in %s", v, text)
				}
			}
		}
	})
}
