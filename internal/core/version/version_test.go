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
	Maven: {"1-alpha-alpha", "1-alpha-1=1-a1=1alpha1", "1-alpha-2", "1-beta", "1-milestone-1=1-m1", "1-rc1=1-cr1=1.0.0-RC1", "1-SNAPSHOT", "1=1.0=1.0.0=1-ga=1-final=1.0.0.RELEASE",
		"1-sp", "1-abc", "1-xyz", "1-1", "1-2", "1.0.1", "1.1", "1.9", "1.10", "2", "99999999999999999999"},
	RubyGems: {"0.9", "1.a=1.0.a", "1.a.2", "1.b1", "1.0.0.pre=1.pre", "1.0.0.rc1", "1=1.0=1.0.0", "1.0.0.1.a", "1.0.0.1", "1.0.1", "1.2", "1.10", "99999999999999999999"},
	Erlang:   {"R15B03", "R16A", "R16B", "R16B03", "R16B03-1", "17.0-rc1", "17.0=17", "17.0.1", "17.0.1.1", "26.2.5.3", "26.2.5.10", "26.2.6", "27.0-rc2", "27.0-rc10", "27.0", "27.1"},
	Debian: {"0~~", "0~", "0=0-0=0:0", "0a", "0+", "1.0~rc1-1", "1.0-1~bpo12+1", "1.0-1", "1.0-1ubuntu1", "1.0-1+deb12u1", "1.0-2", "1.0a", "1.0+dfsg", "1.0.1=1.00.1",
		"1.9", "1.10", "1:0.1", "2:0"},
	Numeric:  {"0.9", "1.0-beta2", "1.0-rc1=1.0rc1", "1=1.0=1.0.0=v1", "1.0a", "1.0b", "1.1.1", "1.1.1a", "1.1.1w", "1.2", "1.10", "2024.01.05=2024.1.5", "99999999999999999999"},
	Composer: {"dev-main", "1.0-dev=1.0.0-dev", "1.0-alpha", "1.0-alpha1=1.0a1", "1.0-beta2", "1.0-RC1", "1.0=1=1.0.0.0=v1.0=1.0+build=1.0-stable", "1.0-patch1=1.0p1=1.0pl1", "1.0.0.1", "1.2", "1.x-dev=1.9999999.9999999.9999999-dev", "2", "20240115"},
	Go:       {"1.9", "1.20rc1", "1.20=1.20.0", "1.20.1", "1.21", "1.21rc1", "1.21rc2", "1.21.0", "1.21.1", "1.22", "1.22.0=go1.22.0", "1.26.8", "1.100"},
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
		Semver:   {"", "x", "1.2.3.4", "1..2", "1.2.3-", "1.2.3-a..b", "1.2.3+ü", "latest", "-1", strings.Repeat("9", 300)},
		PEP440:   {"", "1.", "1.0-", "abc", "1.0+", "1.0.x"},
		Java:     {"", "jdk", "17.", "17.0.9-", "seventeen"},
		Go:       {"", "1.", "1.21.rc1", "1.2.3.4", "devel", "1.21.1rc1", "1.021", "1.21rc01", "1.21RC1", "1.21+auto"},
		Maven:    {"", "1 2", "[1]", "1,2", "1|2", "1ü"}, // Maven takes these too; nobody means them
		RubyGems: {"a", "1.", "1..2", "1a", "1.2_3", "1.ü"},
		Erlang:   {"", "OTP", "27.", "27.0-foo"},
		Debian:   {"", "1-", "a:1", "1_2", "-1", "4294967296:1", "1:"},
		Numeric:  {"", "x", "1.2 3", "1.2ü", "1."},
		Composer: {"", "1.2.3.4.5", "foo", "dev-", "dev-a b", "1.0-gamma"},
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
		{"pep440", PEP440, "===3.12", "3.12", "3.12", "3.12.0 3.12.1"},
		{"pep440", PEP440, ">=3.9,!=3.10.1", ">=3.9.0 <3.10.1 || >3.10.1", "3.10.0 3.10.2", "3.10.1"},
		{"pep440", PEP440, "<3.13", "<3.13.0", "3.12.9", "3.13.0 3.13.0rc1"},
		{"pep440", PEP440, "~=3.12.post1", ">3.12.0 <4.0.0", "3.12.post2 3.99", "3.12 4.0"},
		{"pep440", PEP440, "", "*", "3.9", "3.9a1"},
		{"maven", Maven, "[1,2)", ">=1 <2", "1 1.5 2-alpha", "2 1-alpha"},
		{"maven", Maven, "(,1],[2,)", "<=1 || >=2", "0.5 1 2 3", "1.1"},
		{"maven", Maven, "[1.5]", "1.5", "1.5 1.5.0", "1.5.1"},
		{"maven", Maven, "(1,2]", ">1 <=2", "1-sp 1.1 2", "1 2.0.1"},
		{"maven", Maven, "1.0", "*", "0.1 2.0", ""},
		{"maven", Java, "[11,21)", ">=11 <21", "11 17.0.9+9", "21 1.8.0_292"},
		{"rubygems", RubyGems, "~> 3.2", ">=3.2 <4", "3.2 3.9.1", "4.0 3.1.9 4.0.a"},
		{"rubygems", RubyGems, "~> 3.2.1", ">=3.2.1 <3.3", "3.2.9", "3.3.0 3.2.0"},
		{"rubygems", RubyGems, "~> 3", ">=3 <4", "3 3.9", "4"},
		{"rubygems", RubyGems, ">= 2.7, < 3.4, != 3.1.0", ">=2.7 <3.1 || >3.1 <3.4", "2.7 3.3.9 3.1.1", "3.1 3.4"},
		{"rubygems", RubyGems, "~> 2.0.a", ">=2.a <3", "2.0.a 2.0 2.0.b 2.5", "3 3.0.a 1.9"},
		{"cargo", Semver, "1.2.3", ">=1.2.3 <2.0.0", "1.2.3 1.9.0", "2.0.0 1.2.2 1.3.0-a"},
		{"cargo", Semver, "0.2", ">=0.2.0 <0.3.0", "0.2.0 0.2.9", "0.3.0"},
		{"cargo", Semver, "=1.2", ">=1.2.0 <1.3.0", "1.2.9", "1.3.0"},
		{"cargo", Semver, ">=1.2, <1.5", ">=1.2.0 <1.5.0", "1.4.9", "1.5.0"},
		{"cargo", Semver, "~1.2", ">=1.2.0 <1.3.0", "1.2.9", "1.3.0"},
		{"cargo", Semver, "1.*", ">=1.0.0 <2.0.0", "1.9.0", "2.0.0"},
		{"cargo", Semver, "1.0.0-rc.1", ">=1.0.0-rc.1 <2.0.0", "1.0.0-rc.2 1.0.0", "1.0.0-beta 1.1.0-rc.1"},
		{"cargo", Semver, "*", "*", "0.1.0", "0.1.0-a"},
		{"composer", Composer, "^8.1", ">=8.1.0 <9.0.0", "8.1 8.4.1 8.1.0-beta", "9 9.0-dev 8.0.30"},
		{"composer", Composer, "~8.1", ">=8.1.0 <9.0.0", "8.9", "9"},
		{"composer", Composer, "~8.1.2", ">=8.1.2 <8.2.0", "8.1.9", "8.2"},
		{"composer", Composer, "7.4.* | ^8", ">=7.4.0 <7.5.0 || >=8.0.0 <9.0.0", "7.4.33 8.2", "7.3 9"},
		{"composer", Composer, ">=7.4 <8.3", ">=7.4.0 <8.3.0", "7.4 8.2.9", "8.3"},
		{"composer", Composer, "8.1 - 8.2", ">=8.1.0 <8.3.0", "8.2.99", "8.3"},
		{"composer", Composer, "dev-main", "dev-main", "dev-main", "dev-other 1.0"},
		{"composer", Composer, ">8.1@beta", ">8.1.0-beta", "8.1 8.2", "8.1-alpha"},
		{"pub", Semver, "^3.4.0", ">=3.4.0 <4.0.0", "3.4.0 3.9.1 3.5.0-dev", "4.0.0 4.0.0-dev 3.4.0-dev"},
		{"pub", Semver, ">=2.12.0 <4.0.0", ">=2.12.0 <4.0.0", "2.12.0 3.9.9", "4.0.0 4.0.0-dev"},
		{"pub", Semver, ">=4.0.0-dev <4.0.0", ">=4.0.0-dev <4.0.0", "4.0.0-dev 4.0.0-rc", "4.0.0"},
		{"pub", Semver, "^0.2.3", ">=0.2.3 <0.3.0", "0.2.9", "0.3.0"},
		{"pub", Semver, "any", "*", "0.0.1 1.0.0-a", ""},
		{"pub", Semver, "1.2.3", "1.2.3", "1.2.3", "1.2.3+1 1.2.4"},
		{"pub", Semver, ">1.2.3", ">1.2.3", "1.2.3+1 1.2.4", "1.2.3"},
		{"hex", Semver, "~> 1.14", ">=1.14.0 <2.0.0", "1.14.0 1.99.0", "2.0.0 1.13.4"},
		{"hex", Semver, "~> 1.14.2", ">=1.14.2 <1.15.0", "1.14.9", "1.15.0"},
		{"hex", Semver, ">= 1.12.0 and < 1.15.0 or == 1.16.1", ">=1.12.0 <1.15.0 || 1.16.1", "1.12.0 1.16.1", "1.15.0"},
		{"hex", Semver, "!= 1.15.0", "<1.15.0 || >1.15.0", "1.14.0 1.15.0-rc.1", "1.15.0"},
		{"terraform", Semver, "~> 1.5", ">=1.5.0 <2.0.0", "1.5.0 1.9.9", "2.0.0 1.6.0-beta1"},
		{"terraform", Semver, "~> 1.5.2", ">=1.5.2 <1.6.0", "1.5.9", "1.6.0"},
		{"terraform", Semver, ">= 1.3, < 2.0, != 1.4.0", ">=1.3.0 <1.4.0 || >1.4.0 <2.0.0", "1.4.1", "1.4.0 2.0.0"},
		{"terraform", Semver, "1.6.0-beta1", "1.6.0-beta1", "1.6.0-beta1", "1.6.0"},
		{"cmake-minimum", Numeric, "3.16", ">=3.16", "3.16 3.16.3 4.0", "3.15.9 3.16-rc1"},
		{"cmake-minimum", Numeric, "3.16...3.28", ">=3.16", "3.16 3.28 3.31", "3.15"},
		{"image-tag", Semver, "20.11-alpine3.19", ">=20.11.0 <20.12.0", "20.11.1", "20.12.0"},
		{"image-tag", PEP440, "3.12-slim", ">=3.12.0 <3.13.0", "3.12.4", "3.13.0"},
		{"image-tag", PEP440, "3.13.0rc1-slim", "3.13.0rc1", "3.13.0rc1", "3.13.0"},
		{"image-tag", Java, "17-jdk-jammy", ">=17 <18", "17.0.9+9", "21"},
		{"image-tag", Java, "17.0.9_9-jre", "17.0.9+9", "17.0.9+9", "17.0.9"},
		{"image-tag", Go, "1.22", ">=1.22 <1.23", "1.22.3", "1.23.0"},
		{"plain", Maven, "3.9", ">=3.9 <3.10", "3.9 3.9.6", "3.10 3.9-rc-1"},
		{"plain", RubyGems, "3.3", ">=3.3 <3.4", "3.3 3.3.6", "3.4 3.4.a"},
		{"plain", Erlang, "27", ">=27 <28", "27.0.1 27.2", "28.0 28.0-rc1 27.0-rc1"},
		{"plain", Numeric, "3.28", ">=3.28 <3.29", "3.28.1", "3.29 3.28-rc1"},
		{"plain", Debian, "1.2", ">=1.2 <1.3", "1.2 1.2.9-1", "1.3"},
		{"plain", Composer, "8.2", ">=8.2.0 <8.3.0", "8.2 8.2.9", "8.3 8.2.0-RC1"},
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
			again, err := ParseSet(c.scheme, set.Canonical())
			require.NoError(t, err)
			assert.Equal(t, set.Canonical(), again.Canonical())
			assert.True(t, again.Equal(set), "%s reads back as another set", set.Canonical())
			for _, v := range strings.Fields(c.in) {
				assert.True(t, set.Contains(parse(t, c.scheme, v)), "%s should be in", v)
				assert.Empty(t, set.Explain(parse(t, c.scheme, v)))
			}
			for _, v := range strings.Fields(c.out) {
				assert.False(t, set.Contains(parse(t, c.scheme, v)), "%s should be out", v)
				assert.NotEmpty(t, set.Explain(parse(t, c.scheme, v)))
			}
		})
	}
}

func TestNotARange(t *testing.T) {
	for _, c := range [][2]string{{"npm", "^^1"}, {"npm", ">=a"}, {"npm", "1.2.3.4"}, {"npm", "01.2.3"}, {"pep440", "3.9"}, {"pep440", ">=3.9.*"}, {"pep440", "~=3"},
		{"pep440", ">=1.0+local"}, {"go-minimum", "x"}, {"plain", "lts"}, {"plain", ""}, {"plain", "="}, {"nonsense", "1"}, {"npm", strings.Repeat("1 ", 3000)},
		{"npm", "1.x.2"}, {"npm", "^9007199254740991.0.0"}, {"pep440", "===tulip"}, {"pep440", "==1.0a1.*"}, {"pep440", "==1.0+a.*"},
		{"maven", ""}, {"maven", "[1"}, {"maven", "(1)"}, {"maven", "[2,1]"}, {"maven", "(1,1)"}, {"maven", "[2,3],[1,2)"}, {"maven", "[1,2)x"}, {"maven", "[,,]"},
		{"rubygems", ""}, {"rubygems", ">="}, {"rubygems", "=> 1"}, {"rubygems", "1,"}, {"rubygems", "~> a"},
		{"cargo", ""}, {"cargo", "1 2"}, {"cargo", "*, 1"}, {"cargo", "1.*.2"}, {"cargo", "v1"}, {"cargo", "01"}, {"cargo", "1.2-a"}, {"cargo", strings.Repeat("1,", 40) + "1"},
		{"composer", ""}, {"composer", "~>1"}, {"composer", "^x"}, {"composer", ">=tulip"}, {"composer", "1 - "},
		{"pub", ""}, {"pub", "^1"}, {"pub", "^1.0.0 <2.0.0"}, {"pub", "1.2"}, {"pub", "any 1.0.0"}, {"pub", "~1.0.0"},
		{"hex", ""}, {"hex", ">= 1.0"}, {"hex", "~> 1"}, {"hex", "1.0.0 and"}, {"hex", "1.0.0 1.0.0"}, {"hex", ">= 1.0.0 or<2.0.0"}, {"hex", ">= v1.0.0"},
		{"terraform", ""}, {"terraform", "~> 1.2.3.4"}, {"terraform", "1 2"}, {"terraform", "=> 1"}, {"terraform", "1,"},
		{"cmake-minimum", ""}, {"cmake-minimum", "3.28...3.16"}, {"cmake-minimum", "3.16...x"},
		{"image-tag", "latest"}, {"image-tag", "sha256:0123"}, {"image-tag", "node:20"}, {"image-tag", "node@sha256:0"}, {"image-tag", ""}, {"image-tag", "20 slim"}} {
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
