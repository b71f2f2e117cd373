// Package version holds the two values every verdict of Wexo rests on: a
// Version in the order of its scheme, and a Set of versions made of intervals.
//
// The model in one example. Node.js numbers follow the scheme "semver", Python's
// follow "pep440". Parsing turns the text into a key whose bytes sort as the scheme
// orders versions, so everything that comes after parsing (compare, contains,
// intersect, newest) is the same code for every scheme:
//
//	a, _ := version.Semver.Parse("20.11.1")        // key: 2"20" 2"11" 1"1" release
//	r, _ := version.ParseRange("npm", version.Semver, "^20.9 || >=22")
//	r.Contains(a)                                  // true
//	s, _ := version.ParseRange("plain", version.Semver, "20")
//	r.Intersect(s).String()                        // ">=20.9.0 <21.0.0"
//
// Keys are prefix codes. What shares a prefix stands together in the order: all
// versions of the number 20.11.1 with their prereleases, all local builds of one
// Python version. A place in the order, a Cut, is therefore a key or the beginning of
// one, with "before" or "after".
//
// A range written in any dialect becomes a Set. Which prereleases belong to it is part
// of the set, not of the question: versions fall into a few classes (releases,
// prereleases; for Python also post-releases and local builds), and a set keeps a list
// of intervals for each class. So the laws of sets hold for all of them.
//
// A scheme is one file scheme_NAME.go with an entry in the table schemes; a dialect is
// one file dialect_NAME.go with an entry in the table dialects.
package version

import (
	"cmp"
	"strings"
)

// MaxLength is the longest text read as a version, in bytes.
const MaxLength = 256

// Version is one version in the order of its scheme. It is comparable with == only for
// identical spellings; use Compare for order. The zero value is no version. A Version
// is never changed after it is made and may be shared.
type Version struct {
	key        string // its first ordered bytes give the order; the rest tells equal spellings apart
	text       string
	ordered    uint16
	scheme     Scheme
	class      class
	prerelease bool
	exact      bool
	numbers    uint8
}

// class is the list of a set's intervals that a version is looked up in.
type class uint8

// The classes. Most schemes have the first two only.
const (
	released class = iota
	early          // a prerelease
	third          // Python: a post-release; Composer: a branch
	fourth         // Python: a prerelease of a post-release
	fifth          // Python: a local build
	sixth          // Python: a local build of a prerelease
	classes
)

// plainVersion is a version whose whole key is ordered, a release or a prerelease.
func plainVersion(key, text string, numbers int, prerelease, exact bool) Version {
	v := Version{key: key, ordered: uint16(len(key)), text: text, numbers: uint8(min(numbers, 255)), prerelease: prerelease, exact: exact}
	if prerelease {
		v.class = early
	}
	return v
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

// order is the part of the key that the scheme's order knows.
func (v Version) order() string { return v.key[:v.ordered] }

// Compare orders two versions of one scheme: -1, 0 or 1. It allocates nothing.
func (v Version) Compare(w Version) int {
	if v.scheme != w.scheme {
		return cmp.Compare(v.scheme, w.scheme)
	}
	return strings.Compare(v.order(), w.order())
}

// Newest returns the newest of the versions that the set contains, and its index; -1 where none is.
func Newest(set Set, versions []Version) (Version, int) {
	at := -1
	for i, v := range versions {
		if set.Contains(v) && (at < 0 || v.Compare(versions[at]) > 0) {
			at = i
		}
	}
	if at < 0 {
		return Version{}, -1
	}
	return versions[at], at
}
