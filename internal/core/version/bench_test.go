package version

import (
	"testing"

	masterminds "github.com/Masterminds/semver/v3"
	hashicorp "github.com/hashicorp/go-version"
)

// The same inputs for every library: versions as they stand in lock files, and ranges
// that all three dialects read alike.
var (
	benchVersions = []string{"1.2.3", "18.20.8", "0.4.0", "20.11.1", "22.0.0-rc.1", "3.141.592", "10.0.0+build.5", "7.24.7"}
	benchRange    = ">=18.17.0 <21.0.0"
	peerRange     = ">=18.17.0, <21.0.0"
)

func BenchmarkParse(b *testing.B) {
	b.Run("wexo", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			if _, err := Semver.Parse(benchVersions[i&7]); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("masterminds", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			if _, err := masterminds.NewVersion(benchVersions[i&7]); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("hashicorp", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			if _, err := hashicorp.NewVersion(benchVersions[i&7]); err != nil {
				b.Fatal(err)
			}
		}
	})
}

func BenchmarkContains(b *testing.B) {
	b.Run("wexo", func(b *testing.B) {
		set, err := ParseRange("npm", Semver, benchRange)
		if err != nil {
			b.Fatal(err)
		}
		var versions []Version
		for _, raw := range benchVersions {
			v, err := Semver.Parse(raw)
			if err != nil {
				b.Fatal(err)
			}
			versions = append(versions, v)
		}
		for i := 0; b.Loop(); i++ {
			set.Contains(versions[i&7])
		}
	})
	b.Run("masterminds", func(b *testing.B) {
		set, err := masterminds.NewConstraint(peerRange)
		if err != nil {
			b.Fatal(err)
		}
		var versions []*masterminds.Version
		for _, raw := range benchVersions {
			versions = append(versions, masterminds.MustParse(raw))
		}
		for i := 0; b.Loop(); i++ {
			set.Check(versions[i&7])
		}
	})
	b.Run("hashicorp", func(b *testing.B) {
		set, err := hashicorp.NewConstraint(peerRange)
		if err != nil {
			b.Fatal(err)
		}
		var versions []*hashicorp.Version
		for _, raw := range benchVersions {
			versions = append(versions, hashicorp.Must(hashicorp.NewVersion(raw)))
		}
		for i := 0; b.Loop(); i++ {
			set.Check(versions[i&7])
		}
	})
}

func BenchmarkIntersect(b *testing.B) {
	x, err := ParseRange("npm", Semver, "^18.13.0 || >=20.9.0")
	if err != nil {
		b.Fatal(err)
	}
	y, err := ParseRange("npm", Semver, ">=18.17.0 <23")
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		x.Intersect(y)
	}
}

// BenchmarkSchemes parses a realistic version of every scheme.
func BenchmarkSchemes(b *testing.B) {
	for _, c := range []struct {
		scheme Scheme
		raw    string
	}{
		{Semver, "20.11.1"}, {PEP440, "3.13.0rc2"}, {Maven, "3.9.6-alpha-1"}, {RubyGems, "3.3.6"}, {Go, "1.22.3"}, {Java, "17.0.9+9"},
		{Erlang, "26.2.5.3"}, {Debian, "1:2.39.5-0+deb12u1"}, {Numeric, "3.28.1"}, {Composer, "8.2.12"},
	} {
		b.Run(c.scheme.String(), func(b *testing.B) {
			for b.Loop() {
				if _, err := c.scheme.Parse(c.raw); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// BenchmarkDialects reads a realistic range of every dialect.
func BenchmarkDialects(b *testing.B) {
	for _, name := range DialectNames() {
		raw := written[name][0]
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := ParseRange(name, NoScheme, raw); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
