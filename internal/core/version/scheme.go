package version

import (
	"fmt"
	"slices"
)

// Scheme is an order of versions. The zero value orders nothing and parses nothing.
type Scheme uint8

// The schemes. Numbers are not stored anywhere; names are.
const (
	NoScheme Scheme = iota
	Semver
	PEP440
	Maven
	RubyGems
	Go
	Java
	Erlang
	Debian
	Numeric
	Composer
)

// scheme is what a file that adds a scheme provides. Sets know no more of it than this.
type scheme struct {
	name string
	// parse reads a whole version; Parse fills in the scheme.
	parse func(raw string) (Version, error)
	// line gives the versions that a partial version names (18, 3.11) as two keys or
	// beginnings of keys: from before the first to before the second.
	line func(raw string) (from, to string, err error)
	// print gives the canonical text of a key and a mark: "" for a version, "*" for a
	// beginning of keys, which stands for everything with the number; for Python "+*" for
	// a version and its local builds; "=" for one spelling of a version.
	print func(key string) (text, mark string)
	// settle gives, for a key or a beginning of keys, the key of the release among
	// whose neighbours it stands: cuts among releases move to it, so that two that
	// differ by prereleases only are one. nil where the scheme has no prereleases.
	settle func(key string) string
	// adjacent tells whether no release lies between two releases; "" is the beginning of
	// the order. nil where one always does.
	adjacent func(a, b string) bool
	classes  class
}

var schemes = [...]scheme{
	Semver:   {"semver", parseSemver, lineSemver, printSemver, settleSemver, adjacentSemver, 2},
	PEP440:   {"pep440", parsePEP440, linePEP440, printPEP440, settlePEP440, nil, 6},
	Maven:    {"maven", parseMaven, lineMaven, printMaven, nil, nil, 2},
	RubyGems: {"rubygems", parseRubyGems, lineRubyGems, printRubyGems, settleRubyGems, nil, 2},
	Go:       {"go", parseGo, lineGo, printGo, settleGo, nil, 2},
	Java:     {"java", parseJava, lineJava, printJava, settleJava, nil, 2},
	Erlang:   {"erlang", parseErlang, lineErlang, printErlang, settleErlang, nil, 2},
	Debian:   {"debian", parseDebian, lineDebian, printDebian, nil, nil, 1},
	Numeric:  {"numeric", parseNumeric, lineNumeric, printNumeric, settleNumeric, nil, 2},
	Composer: {"composer", parseComposer, lineComposer, printComposer, settleComposer, nil, 3},
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

// Parse reads one version of the scheme.
func (s Scheme) Parse(raw string) (Version, error) {
	d := &schemes[s]
	if d.parse == nil {
		return Version{}, fmt.Errorf("version %q: no scheme given", raw)
	}
	if len(raw) > MaxLength {
		return Version{}, fmt.Errorf("version of %d bytes is longer than %d", len(raw), MaxLength)
	}
	v, err := d.parse(raw)
	if err != nil {
		return Version{}, fmt.Errorf("%q is not a %s version: %w", raw, d.name, err)
	}
	v.scheme = s
	return v, nil
}
