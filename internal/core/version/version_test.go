package version

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ordered lists versions oldest first; versions joined by = are equal.
var ordered = map[Scheme][]string{
	Semver: {"0.0.0-0", "0.0.0", "0.9", "1.0.0-1", "1.0.0-2", "1.0.0-10", "1.0.0-alpha", "1.0.0-alpha.1", "1.0.0-alpha.beta",
		"1.0.0-beta", "1.0.0-beta.2", "1.0.0-beta.11", "1.0.0-rc.1", "1=1.0=v1.0.0=1.0.0+build", "1.0.1", "1.9.0", "1.10.0", "2", "99999999999999999999.0.0"},
	PEP440: {"0.9", "1.0.dev1", "1.0a1.dev2", "1.0a1=1.0-alpha-1=1.0.ALPHA1", "1.0a2", "1.0b1", "1.0rc1=1.0c1=1.0pre1", "1.0=1=1.0.0=v1.0", "1.0+abc.5", "1.0+abc.7", "1.0+5",
		"1.0.post1.dev2", "1.0.post1=1.0-1=1.0.r1", "1.0.1", "1.1", "1!0.1"},
	Java: {"7", "8=1.8=1.8.0", "8.0.102=1.8.0_102=8u102", "8.0.292=1.8.0_292", "1.8.0_292-b10=8.0.292+10", "9", "11.0.2", "17-ea", "17", "17+35", "17.0.2", "17.0.9", "17.0.9+9", "17.0.9+10", "17.0.10", "18.0.2.1", "21"},
	Go:   {"1.9", "1.20rc1", "1.20=1.20.0", "1.20.1", "1.21", "1.21rc1", "1.21rc2", "1.21.0", "1.21.1", "1.22", "1.22.0=go1.22.0", "1.26.8", "1.100"},
}

func TestOrder(t *testing.T) {
	for scheme, list := range ordered {
		t.Run(scheme.String(), func(t *testing.T) {
			for i, group := range list {
				for _, a := range strings.Split(group, "=") {
					for j, other := range list {
						for _, b := range strings.Split(other, "=") {
							want := map[bool]int{true: -1, false: 1}[i < j]
							if i == j {
								want = 0
							}
							assert.Equal(t, want, parse(t, scheme, a).Compare(parse(t, scheme, b)), "%s against %s", a, b)
						}
					}
				}
			}
		})
	}
}

func parse(t *testing.T, s Scheme, raw string) Version {
	t.Helper()
	v, err := s.Parse(raw)
	require.NoError(t, err)
	return v
}

func TestNotAVersion(t *testing.T) {
	for scheme, list := range map[Scheme][]string{
		Semver: {"", "x", "1.2.3.4", "1..2", "1.2.3-", "1.2.3-a..b", "1.2.3+ü", "latest", "-1", strings.Repeat("9", 300)},
		PEP440: {"", "1.", "1.0-", "abc", "1.0+", "1.0.x"},
		Java:   {"", "jdk", "17.", "17.0.9-", "seventeen"},
		Go:     {"", "1.", "1.21.rc1", "1.2.3.4", "devel", "1.21.1rc1"},
	} {
		for _, raw := range list {
			_, err := scheme.Parse(raw)
			assert.Error(t, err, "%s %q", scheme, raw)
		}
	}
}

func TestRanges(t *testing.T) {
	for _, c := range []struct {
		dialect string
		scheme  Scheme
		raw     string
		prints  string
		in, out string
	}{
		{"npm", Semver, "^1.2.3", ">=1.2.3 <2.0.0", "1.2.3 1.9.9", "1.2.2 2.0.0 2.0.0-rc.1 1.3.0-beta.1"},
		{"npm", Semver, "^0.2.3", ">=0.2.3 <0.3.0", "0.2.3", "0.3.0 0.2.2"},
		{"npm", Semver, "^0.0.3", ">=0.0.3 <0.0.4", "0.0.3", "0.0.4"},
		{"npm", Semver, "~1.2", ">=1.2.0 <1.3.0", "1.2.9", "1.3.0"},
		{"npm", Semver, "18.x || >=20.9", ">=18.0.0 <19.0.0 || >=20.9.0", "18.0.0 20.9.0 25.1.1", "19.0.0 20.8.1"},
		{"npm", Semver, "1.2 - 2.3.4", ">=1.2.0 <=2.3.4", "1.2.0 2.3.4", "2.3.5 1.1.9"},
		{"npm", Semver, "1.2.3 - 2.3", ">=1.2.3 <2.4.0", "2.3.9", "2.4.0"},
		{"npm", Semver, ">1.2", ">=1.3.0", "1.3.0", "1.2.9"},
		{"npm", Semver, "<=1.2", "<1.3.0", "1.2.9", "1.3.0"},
		{"npm", Semver, "^1.2.3-beta.2", ">=1.2.3-beta.2 <2.0.0", "1.2.3-beta.2 1.2.3-beta.4 1.2.3", "1.2.3-beta.1 1.2.4-beta.9"},
		{"npm", Semver, "", "*", "0.0.1 9.9.9", "1.0.0-rc.1"},
		{"npm", Semver, ">2 <1", "none", "", "1.0.0 2.0.0 3.0.0"},
		{"npm", Semver, ">= 1.2.3", ">=1.2.3", "1.2.3", "1.2.2"},
		{"pep440", PEP440, ">=3.9,<4", ">=3.9.0 <4.0.0", "3.9 3.13.1", "3.8.18 4.0 3.14.0rc1"},
		{"pep440", PEP440, "~=3.12", ">=3.12.0 <4.0.0", "3.12 3.99", "4.0 3.11.9"},
		{"pep440", PEP440, "~=3.12.1", ">=3.12.1 <3.13.0", "3.12.9", "3.13.0 3.12.0"},
		{"pep440", PEP440, "==3.12.*", ">=3.12.0 <3.13.0", "3.12.0 3.12.4.post1", "3.13"},
		{"pep440", PEP440, "!=3.12.*,>=3.11", ">=3.11.0 <3.12.0 || >=3.13.0", "3.11.4 3.13.0", "3.12.1"},
		{"pep440", PEP440, "==3.12.4", "3.12.4", "3.12.4 3.12.4+local", "3.12.5"},
		{"pep440", PEP440, ">3.7", ">3.7.0", "3.7.1 3.8", "3.7 3.7.post1"},
		{"pep440", PEP440, ">=3.13.0rc1", ">=3.13.0rc1", "3.13.0rc2 3.13.0", "3.13.0b4"},
		{"go-minimum", Go, "1.22", ">=1.22", "1.22.0 1.22rc1 1.30", "1.21.9"},
		{"plain", Semver, "18", ">=18.0.0 <19.0.0", "18.20.8", "19.0.0 18.0.0-rc.1"},
		{"plain", Semver, "v20.11.1", "20.11.1", "20.11.1", "20.11.2"},
		{"plain", Semver, "20.x", ">=20.0.0 <21.0.0", "20.1.0", "21.0.0"},
		{"plain", Semver, "*", "*", "1.0.0", "1.0.0-a"},
		{"plain", PEP440, "3.11", ">=3.11.0 <3.12.0", "3.11.7", "3.12.0 3.12.0a1"},
		{"plain", PEP440, "3.12.4", "3.12.4", "3.12.4", "3.12.5"},
		{"plain", Java, "17", ">=17 <18", "17 17.0.9+9", "18 1.8.0_292"},
		{"plain", Java, "1.8", ">=8 <9", "1.8.0_292 8u102", "9"},
		{"plain", Java, "17.0.9+9", "17.0.9+9", "17.0.9+9", "17.0.9 17.0.9+10"},
		{"plain", Go, "1.22", ">=1.22 <1.23", "1.22.0 1.22.12", "1.23.0 1.22rc1"},
	} {
		t.Run(c.dialect+" "+c.raw, func(t *testing.T) {
			set, err := ParseRange(c.dialect, c.scheme, c.raw)
			require.NoError(t, err)
			assert.Equal(t, c.prints, set.String())
			for _, v := range strings.Fields(c.in) {
				assert.True(t, set.Contains(parse(t, c.scheme, v)), "%s should be in", v)
			}
			for _, v := range strings.Fields(c.out) {
				assert.False(t, set.Contains(parse(t, c.scheme, v)), "%s should be out", v)
			}
		})
	}
}

func TestNotARange(t *testing.T) {
	for _, c := range [][2]string{{"npm", "^^1"}, {"npm", ">=a"}, {"npm", "1.2.3.4"}, {"npm", "01.2.3"}, {"pep440", "3.9"}, {"pep440", ">=3.9.*"}, {"pep440", "~=3"},
		{"pep440", ">=1.0+local"}, {"go-minimum", "x"}, {"plain", "lts"}, {"plain", ""}, {"plain", "="}, {"nonsense", "1"}, {"npm", strings.Repeat("1 ", 3000)}} {
		_, err := ParseRange(c[0], NoScheme, c[1])
		assert.Error(t, err, "%s %q", c[0], c[1])
	}
	_, err := ParseRange("npm", PEP440, "^1")
	assert.ErrorContains(t, err, "is for semver versions")
}

func TestMinimumOfALanguageLevel(t *testing.T) {
	set, err := Minimum(Java, "17")
	require.NoError(t, err)
	assert.True(t, set.Contains(parse(t, Java, "17.0.2")))
	assert.True(t, set.Contains(parse(t, Java, "21")))
	assert.False(t, set.Contains(parse(t, Java, "1.8.0_292")))
	assert.Equal(t, ">=17", set.String())
}

func TestNewestMember(t *testing.T) {
	set, err := ParseRange("npm", Semver, "^20.9")
	require.NoError(t, err)
	var list []Version
	for _, raw := range []string{"18.20.8", "20.9.0", "20.11.1", "20.10.0", "22.0.0"} {
		list = append(list, parse(t, Semver, raw))
	}
	v, at := Newest(set, list)
	assert.Equal(t, "20.11.1", v.String())
	assert.Equal(t, 2, at)
	_, at = Newest(None(Semver), list)
	assert.Equal(t, -1, at)
}

func TestContainsAllocatesNothing(t *testing.T) {
	set, err := ParseRange("npm", Semver, "^18 || >=20.9 <23")
	require.NoError(t, err)
	v := parse(t, Semver, "20.11.1")
	assert.Zero(t, testing.AllocsPerRun(100, func() { set.Contains(v) }))
	w := parse(t, Semver, "20.11.2")
	assert.Zero(t, testing.AllocsPerRun(100, func() { v.Compare(w) }))
}

func ExampleSet_Intersect() {
	manifest, _ := ParseRange("npm", Semver, ">=18.17")
	pin, _ := ParseRange("plain", Semver, "18")
	fmt.Println(manifest.Intersect(pin))
	// Output: >=18.17.0 <19.0.0
}
