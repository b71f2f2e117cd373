package version

import (
	"strings"
	"testing"
)

// A fuzz target a parser: the schemes, the dialects, and the labels beside a number.
// What was found stays in testdata/fuzz.

func FuzzSemver(f *testing.F)   { fuzzVersion(f, Semver) }
func FuzzPEP440(f *testing.F)   { fuzzVersion(f, PEP440) }
func FuzzMaven(f *testing.F)    { fuzzVersion(f, Maven) }
func FuzzRubyGems(f *testing.F) { fuzzVersion(f, RubyGems) }
func FuzzGo(f *testing.F)       { fuzzVersion(f, Go) }
func FuzzJava(f *testing.F)     { fuzzVersion(f, Java) }
func FuzzErlang(f *testing.F)   { fuzzVersion(f, Erlang) }
func FuzzDebian(f *testing.F)   { fuzzVersion(f, Debian) }
func FuzzNumeric(f *testing.F)  { fuzzVersion(f, Numeric) }
func FuzzComposer(f *testing.F) { fuzzVersion(f, Composer) }

func FuzzCargoRange(f *testing.F)        { fuzzRange(f, "cargo") }
func FuzzCmakeMinimumRange(f *testing.F) { fuzzRange(f, "cmake-minimum") }
func FuzzComposerRange(f *testing.F)     { fuzzRange(f, "composer") }
func FuzzGoMinimumRange(f *testing.F)    { fuzzRange(f, "go-minimum") }
func FuzzHexRange(f *testing.F)          { fuzzRange(f, "hex") }
func FuzzImageTagRange(f *testing.F)     { fuzzRange(f, "image-tag") }
func FuzzMavenRange(f *testing.F)        { fuzzRange(f, "maven") }
func FuzzNpmRange(f *testing.F)          { fuzzRange(f, "npm") }
func FuzzPEP440Range(f *testing.F)       { fuzzRange(f, "pep440") }
func FuzzPlainRange(f *testing.F)        { fuzzRange(f, "plain") }
func FuzzPubRange(f *testing.F)          { fuzzRange(f, "pub") }
func FuzzRubygemsRange(f *testing.F)     { fuzzRange(f, "rubygems") }
func FuzzTerraformRange(f *testing.F)    { fuzzRange(f, "terraform") }

// fuzzVersion: no text makes a parser panic, and what it reads prints and reads back.
func fuzzVersion(f *testing.F, scheme Scheme) {
	for _, group := range ordered[scheme] {
		for _, raw := range strings.Split(group, "=") {
			f.Add(raw)
		}
	}
	f.Fuzz(func(t *testing.T, raw string) {
		v, err := scheme.Parse(raw)
		if err != nil {
			return
		}
		if v.Compare(v) != 0 || !Exactly(v).Contains(v) {
			t.Fatalf("%s %q differs from itself", scheme, raw)
		}
		again, err := scheme.Parse(v.String())
		if err != nil || again.Compare(v) != 0 {
			t.Fatalf("%s %q prints as %q, which reads as another version (%v)", scheme, raw, v, err)
		}
		text := Exactly(v).Canonical()
		if len(text) > MaxLength/2 { // some print longer than they may be read
			return
		}
		set, err := ParseSet(scheme, text)
		if err != nil || !set.Contains(v) {
			t.Fatalf("%s %q has the canonical form %q, which reads as another set (%v)", scheme, raw, text, err)
		}
	})
}

// fuzzRange: no text makes a reader panic, and what it reads is a set with a canonical form.
func fuzzRange(f *testing.F, dialect string) {
	for _, raw := range written[dialect] {
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw string) {
		set, err := ParseRange(dialect, NoScheme, raw)
		if err != nil {
			return
		}
		if !set.Intersect(set.Complement()).IsEmpty() {
			t.Fatalf("%s %q meets its complement", dialect, raw)
		}
		if len(raw) > MaxLength/2 {
			return
		}
		again, err := ParseSet(set.Scheme(), set.Canonical())
		if err != nil || !again.Equal(set) {
			t.Fatalf("%s %q has the canonical form %q, which reads as another set (%v)", dialect, raw, set.Canonical(), err)
		}
	})
}

// FuzzSeparate: taking labels off loses nothing.
func FuzzSeparate(f *testing.F) {
	for _, raw := range []string{"17.0.2-temurin", "temurin-17", "1.18.1-otp-27", "20.11-alpine3.19", "8u392-b08-jre", "go1.22rc1", "v1.2.3"} {
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw string) {
		for scheme := Semver; int(scheme) < len(schemes); scheme++ {
			l, err := Separate(scheme, raw)
			if err == nil && l.String() != raw {
				t.Fatalf("%s %q becomes %+v", scheme, raw, l)
			}
			l.Labels()
		}
	})
}
