package version

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAlgebra works examples through by hand, one for each way sets meet.
func TestAlgebra(t *testing.T) {
	read := func(raw string) Set {
		set, err := ParseRange("npm", Semver, raw)
		require.NoError(t, err, raw)
		return set
	}
	for _, c := range []struct{ a, b, both, either string }{
		{">=1 <3", ">=2 <4", ">=2.0.0 <3.0.0", ">=1.0.0 <4.0.0"},
		{">=1 <2", ">=2 <3", "none", ">=1.0.0 <3.0.0"},
		{">=1 <2", ">=3 <4", "none", ">=1.0.0 <2.0.0 || >=3.0.0 <4.0.0"},
		{"*", "^20", ">=20.0.0 <21.0.0", "*"},
		{"18 || 20 || 22", ">=19", ">=20.0.0 <21.0.0 || >=22.0.0 <23.0.0", ">=18.0.0"},
		{"<=2.0.0", ">=2.0.0", "2.0.0", "*"},
		{"<2.0.0", ">2.0.0", "none", "<2.0.0 || >2.0.0"},
		{"1.2.3", "^1", "1.2.3", ">=1.0.0 <2.0.0"},
	} {
		a, b := read(c.a), read(c.b)
		assert.Equal(t, c.both, a.Intersect(b).String(), "%s and %s", c.a, c.b)
		assert.Equal(t, c.either, a.Unite(b).String(), "%s or %s", c.a, c.b)
		assert.True(t, a.Intersect(b).Equal(b.Intersect(a)))
		assert.True(t, a.Unite(b).Equal(b.Unite(a)))
	}
	assert.Equal(t, "<18.0.0 || >=19.0.0 <20.0.0 || >=21.0.0", read("18 || 20").Complement().Intersect(Releases(Semver)).String())
	assert.True(t, read("<=1.2.3").Equal(read("<1.2.4")), "no release lies between 1.2.3 and 1.2.4")
	assert.False(t, read("<=1.2.3").Equal(read("<1.2.5")))
	assert.True(t, read("<0.0.0").IsEmpty(), "nor before 0.0.0")
	assert.True(t, read("^20.9").SubsetOf(read(">=20")))
	assert.False(t, read(">=20").SubsetOf(read("^20.9")))
	assert.True(t, None(Semver).IsEmpty())
	assert.True(t, Releases(Semver).IsAll())
	assert.True(t, Set{}.IsEmpty(), "the zero set is empty")
	assert.Equal(t, read("18"), Set{}.Unite(read("18")), "and adds nothing")
}

// TestExplain: why a version is not in a range, in the words of the bound it misses.
func TestExplain(t *testing.T) {
	for _, c := range []struct{ dialect, raw, version, why string }{
		{"npm", "^1.2.3", "1.2.3", ""},
		{"npm", "^1.2.3", "1.2.2", "below the lower bound 1.2.3"},
		{"npm", "^1.2.3", "2.0.0", "not below the upper bound 2.0.0"},
		{"npm", "<=1.2.3", "1.2.4", "above the upper bound 1.2.3"},
		{"npm", ">1.2.3", "1.2.3", "the lower bound itself, which is left out"},
		{"npm", "^1.2.3-beta.2", "1.2.3-alpha", "below the lower bound 1.2.3-beta.2"},
		{"npm", "^1.2.3-beta.2", "1.3.0-beta.2", "a prerelease, and the range admits none of its number"},
		{"npm", "^1.2.3", "1.3.0-beta.2", "a prerelease, and the range admits none of its number"},
		{"npm", "1 || 3", "2.1.0", "in the gap from 2.0.0 to below 3.0.0"},
		{"npm", "<=1.0.0 || >2.0.0", "1.5.0", "in the gap after 1.0.0 up to 2.0.0"},
		{"npm", ">2 <1", "1.0.0", "in no range: nothing satisfies it"},
		{"pep440", ">3.9", "3.9.post1", "a post-release of 3.9.0, which the range leaves out"},
		{"pep440", ">3.9", "3.9+local", "a local build of 3.9.0, which the range leaves out"},
		{"pep440", ">=3.12a1,<3.13", "3.13rc1", "a prerelease of 3.13.0, which the range leaves out"},
		{"pep440", "!=3.9", "3.9", "left out by name"},
		{"composer", "^1.0", "dev-main", "a branch, and the range admits none of its number"},
		{"terraform", "!= 1.0.0", "1.0.0", "left out by name"},
	} {
		set, err := ParseRange(c.dialect, NoScheme, c.raw)
		require.NoError(t, err)
		v, err := set.Scheme().Parse(c.version)
		require.NoError(t, err)
		assert.Equal(t, c.why, set.Explain(v), "%s in %s %s", c.version, c.dialect, c.raw)
	}
	python, err := PEP440.Parse("3.9")
	require.NoError(t, err)
	assert.Equal(t, "a pep440 version, and the range is of semver versions", Releases(Semver).Explain(python))
}

// TestSchemesDoNotMix: sets and versions of different schemes share nothing.
func TestSchemesDoNotMix(t *testing.T) {
	python, err := ParseRange("pep440", PEP440, ">=3")
	require.NoError(t, err)
	node, err := ParseRange("npm", Semver, ">=3")
	require.NoError(t, err)
	assert.True(t, python.Intersect(node).IsEmpty())
	v, err := Semver.Parse("3.1.0")
	require.NoError(t, err)
	assert.False(t, python.Contains(v))
	assert.False(t, node.Equal(python))
}

// TestVersionsAsValues: what a version tells of itself.
func TestVersionsAsValues(t *testing.T) {
	for _, c := range []struct {
		scheme     Scheme
		raw, text  string
		prerelease bool
		numbers    int
		exact      bool
	}{
		{Semver, "v20.11.1", "20.11.1", false, 3, true},
		{Semver, "20", "20.0.0", false, 1, false},
		{Semver, "=1.2.3-rc.1+b", "1.2.3-rc.1+b", true, 3, true},
		{PEP440, "3.12", "3.12", false, 2, false},
		{PEP440, "V1.0.Alpha-3", "1.0a3", true, 2, true},
		{PEP440, "1!2.0.post3.dev4+u.1", "1!2.0.post3.dev4+u.1", true, 2, true},
		{PEP440, "3.012", "3.12", false, 2, false},
		{Java, "1.8.0_292-b10", "8.0.292+10", false, 3, true},
		{Java, "8u102", "8.0.102", false, 3, false},
		{Java, "21-ea+35", "21-ea+35", true, 1, true},
		{Java, "17.0.15+6-LTS", "17.0.15+6", false, 3, true},
		{Java, "25.0.3-LTS", "25.0.3", false, 3, false},
		{Go, "go1.22", "1.22", false, 2, false},
		{Go, "1.22rc1", "1.22rc1", true, 2, true},
		{Go, "go1.22.3-custom", "1.22.3", false, 3, true},
	} {
		v, err := c.scheme.Parse(c.raw)
		require.NoError(t, err, c.raw)
		assert.Equal(t, c.text, v.String(), c.raw)
		assert.Equal(t, c.prerelease, v.Prerelease(), c.raw)
		assert.Equal(t, c.numbers, v.Numbers(), c.raw)
		assert.Equal(t, c.exact, v.Exact(), c.raw)
		assert.False(t, v.IsZero())
	}
	assert.True(t, Version{}.IsZero())
	_, err := NoScheme.Parse("1")
	assert.Error(t, err)
}

// TestMoreNpm: readings of npm that are easily got wrong, checked against npm itself
// when they were written down.
func TestMoreNpm(t *testing.T) {
	for raw, want := range map[string]string{
		"^0":                   "<1.0.0",
		"^0.0":                 "<0.1.0",
		"^0.x":                 "<1.0.0",
		"^1.x":                 ">=1.0.0 <2.0.0",
		"~0":                   "<1.0.0",
		"~1.2.3-beta":          ">=1.2.3-beta <1.3.0",
		"1.x.x":                ">=1.0.0 <2.0.0",
		"1.2.x - 2":            ">=1.2.0 <3.0.0",
		">1.x":                 ">=2.0.0",
		"<1.x":                 "<1.0.0",
		">=1.x":                ">=1.0.0",
		"<=1.x":                "<2.0.0",
		"~> 1.2":               ">=1.2.0 <1.3.0",
		"v1.2.3":               "1.2.3",
		"= 1.2.3":              "1.2.3",
		">=1.2.3 <1.2.3":       "none",
		"x":                    "*",
		"||":                   "*",
		"1 || 1.2":             ">=1.0.0 <2.0.0",
		">=14.0.0 <15 || >=16": ">=14.0.0 <15.0.0 || >=16.0.0",
		"^18.17.0 || >=20.5.0": ">=18.17.0 <19.0.0 || >=20.5.0",
	} {
		set, err := ParseRange("npm", Semver, raw)
		require.NoError(t, err, raw)
		got := strings.ReplaceAll(set.String(), ">=0.0.0 <1.0.0", "<1.0.0")
		assert.Equal(t, want, got, raw)
	}
}

// TestErrorsSayWhat: an error names the text, the dialect and what is wrong.
func TestErrorsSayWhat(t *testing.T) {
	_, err := Semver.Parse("1.2.3.4")
	assert.EqualError(t, err, `"1.2.3.4" is not a semver version: more than three numbers`)
	_, err = ParseRange("pep440", PEP440, "3.9")
	assert.EqualError(t, err, `"3.9" is not a range in the dialect pep440: a comparison such as >= is missing`)
	_, err = ParseRange("latin", NoScheme, "I")
	assert.ErrorContains(t, err, "known are cargo, cmake-minimum, composer, go-minimum")
}
