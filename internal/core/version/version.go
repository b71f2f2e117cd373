// Package version holds the two values every verdict of Wexo rests on: a
// Version in the order of its scheme, and a Set of versions made of intervals.
//
// The model in one example. Node.js numbers follow the scheme "semver", Python's
// follow "pep440". Parsing turns the text into an order-preserving key: comparing
// two keys byte by byte gives the scheme's order, so everything that comes after
// parsing (compare, contains, intersect, newest) is the same code for every scheme:
//
//	a, _ := version.Semver.Parse("20.11.1")
//	r, _ := version.ParseRange("npm", version.Semver, "^20.9 || >=22")
//	r.Contains(a)            // true
//	both := r.Intersect(s)   // still a Set, prints as ">=20.9.0 <21.0.0"
//
// A range written in any dialect becomes a Set. Whether prereleases belong to it is
// part of the set: it keeps one list of intervals for releases and one for
// prereleases, so set laws hold for both.
package version

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Scheme is an order of versions. The zero value orders nothing and parses nothing.
type Scheme uint8

// The schemes. Numbers are not stored anywhere; names are.
const (
	NoScheme Scheme = iota
	Semver
	PEP440
	Java
	Go
)

// scheme is what a file that adds a scheme provides.
type scheme struct {
	name string
	// parse reads a whole version.
	parse func(raw string) (parsed, error)
	// prefix gives the versions that a partial version names (18, 3.11) as two
	// keys: from the first (inclusive) to the second (exclusive).
	prefix func(raw string) (from, to Cut, err error)
	// floor gives, for the key of a release, the key before its prereleases; other keys
	// stay as they are.
	floor func(key string) string
}

// parsed is a version after reading: its order key, its canonical text, whether it
// is a prerelease, and how many leading numbers were written.
type parsed struct {
	key        string
	text       string
	prerelease bool
	numbers    int
	exact      bool // names one version even in a version file
}

var schemes = [...]scheme{
	NoScheme: {floor: func(key string) string { return key }},
	Semver:   {"semver", parseSemver, prefixSemver, floorSemver},
	PEP440:   {"pep440", parsePEP440, prefixPEP440, floorPEP440},
	Java:     {"java", parseJava, prefixJava, floorJava},
	Go:       {"go", parseGo, prefixGo, floorGo},
}

// SchemeNamed finds a scheme by its name in the catalogue.
func SchemeNamed(name string) (Scheme, bool) {
	for s, d := range schemes {
		if d.name == name && d.parse != nil {
			return Scheme(s), true
		}
	}
	return NoScheme, false
}

// SchemeNames lists the schemes, sorted.
func SchemeNames() []string {
	var names []string
	for _, d := range schemes[1:] {
		names = append(names, d.name)
	}
	slices.Sort(names)
	return names
}

func (s Scheme) String() string { return schemes[s].name }

// MaxLength is the longest text read as a version, in bytes.
const MaxLength = 256

// Parse reads one version of the scheme.
func (s Scheme) Parse(raw string) (Version, error) {
	d := &schemes[s]
	if d.parse == nil {
		return Version{}, fmt.Errorf("version %q: no scheme given", raw)
	}
	if len(raw) > MaxLength {
		return Version{}, fmt.Errorf("version of %d bytes is longer than %d", len(raw), MaxLength)
	}
	p, err := d.parse(raw)
	if err != nil {
		return Version{}, fmt.Errorf("%q is not a %s version: %w", raw, d.name, err)
	}
	return Version{scheme: s, key: p.key, text: p.text, prerelease: p.prerelease, numbers: uint8(min(p.numbers, 255)), exact: p.exact}, nil
}

// Version is one version in the order of its scheme. It is comparable with ==
// only for identical spellings; use Compare for order. The zero value is no version.
type Version struct {
	key        string
	text       string
	scheme     Scheme
	prerelease bool
	exact      bool
	numbers    uint8
}

// IsZero tells whether v is no version.
func (v Version) IsZero() bool { return v.scheme == NoScheme }

// Scheme is the order v belongs to.
func (v Version) Scheme() Scheme { return v.scheme }

// String is the canonical text, without a leading v or a vendor.
func (v Version) String() string { return v.text }

// Prerelease tells whether v comes before a release of the same number.
func (v Version) Prerelease() bool { return v.prerelease }

// Numbers is how many leading numbers were written: 2 for 3.11.
func (v Version) Numbers() int { return int(v.numbers) }

// Exact tells whether v, written in a version file, names one version and not a line.
func (v Version) Exact() bool { return v.exact }

// Compare orders two versions of one scheme: -1, 0 or 1. It allocates nothing.
func (v Version) Compare(w Version) int {
	if v.scheme != w.scheme {
		return cmp.Compare(v.scheme, w.scheme)
	}
	return strings.Compare(v.key, w.key)
}

// Newest returns the newest of the versions that the set contains, and its index; -1 where none is.
func Newest(set Set, versions []Version) (Version, int) {
	best := -1
	for i, v := range versions {
		if set.Contains(v) && (best < 0 || v.Compare(versions[best]) > 0) {
			best = i
		}
	}
	if best < 0 {
		return Version{}, -1
	}
	return versions[best], best
}
