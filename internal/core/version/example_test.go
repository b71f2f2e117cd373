package version_test

import (
	"fmt"

	"wexo/internal/core/version"
)

// One worked example: what a manifest, a pin and a lock file allow together, and which
// of the installed versions would run.
func Example() {
	manifest, _ := version.ParseRange("npm", version.Semver, ">=18.17 <23")
	pin, _ := version.ParseRange("plain", version.Semver, "20")
	lock, _ := version.ParseRange("npm", version.Semver, "^18.18.0 || ^20.9.0 || >=21.1.0")
	both := manifest.Intersect(pin).Intersect(lock)
	fmt.Println("allowed:", both)

	var installed []version.Version
	for _, raw := range []string{"18.20.8", "20.11.1", "20.8.0", "22.4.0"} {
		v, _ := version.Semver.Parse(raw)
		installed = append(installed, v)
	}
	newest, _ := version.Newest(both, installed)
	fmt.Println("chosen:", newest)
	for _, v := range installed {
		if why := both.Explain(v); why != "" {
			fmt.Printf("%s is %s\n", v, why)
		}
	}
	// Output:
	// allowed: >=20.9.0 <21.0.0
	// chosen: 20.11.1
	// 18.20.8 is below the lower bound 20.9.0
	// 20.8.0 is below the lower bound 20.9.0
	// 22.4.0 is not below the upper bound 21.0.0
}

func ExampleScheme_Parse() {
	for _, s := range []struct {
		scheme version.Scheme
		raw    string
	}{{version.Semver, "v20.11"}, {version.PEP440, "3.13.0-RC-2"}, {version.Java, "1.8.0_292-b10"}, {version.Go, "go1.22rc1"}} {
		v, _ := s.scheme.Parse(s.raw)
		fmt.Println(s.scheme, s.raw, "is", v)
	}
	_, err := version.Semver.Parse("1.2.3.4")
	fmt.Println(err)
	// Output:
	// semver v20.11 is 20.11.0
	// pep440 3.13.0-RC-2 is 3.13.0rc2
	// java 1.8.0_292-b10 is 8.0.292+10
	// go go1.22rc1 is 1.22rc1
	// "1.2.3.4" is not a semver version: more than three numbers
}

func ExampleParseRange() {
	for _, r := range []struct{ dialect, raw string }{
		{"npm", "^18.17.0 || 20.x"}, {"pep440", "~=3.11.4, !=3.11.6"}, {"maven", "(,11],[17,21)"}, {"rubygems", "~> 3.2.1"}, {"cargo", "1.74"},
		{"composer", "^8.1 | 7.4.*"}, {"pub", "^3.4.0"}, {"hex", "~> 1.14 and != 1.15.0"}, {"terraform", "~> 1.5.2"}, {"cmake-minimum", "3.16...3.28"}, {"image-tag", "20.11-alpine3.19"},
	} {
		set, _ := version.ParseRange(r.dialect, version.NoScheme, r.raw)
		fmt.Printf("%s: %s\n", r.dialect, set)
	}
	// Output:
	// npm: >=18.17.0 <19.0.0 || >=20.0.0 <21.0.0
	// pep440: >=3.11.4 <3.11.6 || >3.11.6 <3.12.0
	// maven: <=11 || >=17 <21
	// rubygems: >=3.2.1 <3.3
	// cargo: >=1.74.0 <2.0.0
	// composer: >=7.4.0 <7.5.0 || >=8.1.0 <9.0.0
	// pub: >=3.4.0 <4.0.0
	// hex: >=1.14.0 <1.15.0 || >1.15.0 <2.0.0
	// terraform: >=1.5.2 <1.6.0
	// cmake-minimum: >=3.16
	// image-tag: >=20.11.0 <20.12.0
}

func ExampleParseVersion() {
	_, err := version.ParseVersion("npm", "1.2")
	fmt.Println(err)
	v, _ := version.Semver.Parse("1.2")
	fmt.Println(v)
	// Output:
	// "1.2" is not a version in the dialect npm: it has fewer than three numbers
	// 1.2.0
}

func ExampleMinimum() {
	set, _ := version.Minimum(version.Java, "17")
	fmt.Println(set)
	// Output: >=17
}

func ExampleSet_Minus() {
	supported, _ := version.ParseRange("npm", version.Semver, "20 || 22 || 24")
	asked, _ := version.ParseRange("npm", version.Semver, ">=22.12")
	fmt.Println(supported.Minus(asked))
	fmt.Println(asked.SubsetOf(supported), supported.Intersect(asked).SubsetOf(asked))
	// Output:
	// >=20.0.0 <21.0.0 || >=22.0.0 <22.12.0
	// false true
}

func ExampleSet_Canonical() {
	set, _ := version.ParseRange("npm", version.Semver, "^1.2.3-beta.2")
	text := set.Canonical()
	fmt.Println(text)
	again, _ := version.ParseSet(version.Semver, text)
	fmt.Println(again.Equal(set))
	// Output:
	// >=1.2.3 <2.0.0; prereleases >=1.2.3-beta.2 <=1.2.3*
	// true
}

func ExampleSet_Explain() {
	set, _ := version.ParseRange("pep440", version.PEP440, ">=3.9, !=3.10.1, <3.13")
	for _, raw := range []string{"3.8.20", "3.10.1", "3.13.0", "3.12.0rc1"} {
		v, _ := version.PEP440.Parse(raw)
		fmt.Printf("%s is %s\n", raw, set.Explain(v))
	}
	// Output:
	// 3.8.20 is below the lower bound 3.9.0
	// 3.10.1 is left out by name
	// 3.13.0 is not below the upper bound 3.13.0
	// 3.12.0rc1 is a prerelease, and the range admits none of its number
}

func ExampleSet_Gaps() {
	set, _ := version.ParseRange("pep440", version.PEP440, ">=3.9, !=3.10.*, !=3.11.2")
	for _, gap := range set.Gaps() {
		fmt.Println(gap.Interval, gap.Hole)
	}
	// Output:
	// >=3.10.0 <3.11.0 false
	// 3.11.2 true
}

func ExampleContradiction() {
	var sets []version.Set
	for _, raw := range []string{">=16", "^18.17", ">=20.5", "*"} {
		set, _ := version.ParseRange("npm", version.Semver, raw)
		sets = append(sets, set)
	}
	fmt.Println(version.Contradiction(sets))
	// Output: [1 2]
}

func ExampleSeparate() {
	l, _ := version.Separate(version.Java, "temurin-17.0.9+9-jre-arm64")
	fmt.Printf("%q %q %q\n", l.Before, l.Number, l.After)
	for _, label := range l.Labels() {
		fmt.Println(label.Text, "is the kind of a runtime:", label.Kind == version.RuntimeLabel)
	}
	// Output:
	// "temurin-" "17.0.9+9" "-jre-arm64"
	// temurin is the kind of a runtime: false
	// jre is the kind of a runtime: true
	// arm64 is the kind of a runtime: false
}
