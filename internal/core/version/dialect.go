package version

import (
	"fmt"
	"slices"
	"strings"
)

// MaxRange is the longest text read as a range, in bytes.
const MaxRange = 4096

// dialect reads a range; fixed is its only scheme, NoScheme where it takes any.
type dialect struct {
	fixed Scheme
	parse func(s Scheme, raw string) (Set, error)
}

var dialects = map[string]dialect{
	"plain":      {NoScheme, parsePlain},
	"npm":        {Semver, parseNpm},
	"pep440":     {PEP440, parsePEP440Range},
	"go-minimum": {Go, parseMinimum},
}

// DialectNames lists the dialects, sorted.
func DialectNames() []string {
	var names []string
	for name := range dialects {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// ParseRange reads a range written in the dialect as a set of the scheme's versions.
// A dialect with a scheme of its own is only read for that scheme; pass NoScheme for
// "the dialect's own", which for plain is semver.
func ParseRange(name string, s Scheme, raw string) (Set, error) {
	d, ok := dialects[name]
	if !ok {
		return Set{}, fmt.Errorf("unknown dialect %q; known are %s", name, strings.Join(DialectNames(), ", "))
	}
	if len(raw) > MaxRange {
		return Set{}, fmt.Errorf("range of %d bytes is longer than %d", len(raw), MaxRange)
	}
	switch {
	case s == NoScheme && d.fixed == NoScheme:
		s = Semver
	case s == NoScheme:
		s = d.fixed
	case d.fixed != NoScheme && d.fixed != s:
		return Set{}, fmt.Errorf("the dialect %s is for %s versions, not %s", name, d.fixed, s)
	}
	set, err := d.parse(s, raw)
	if err != nil {
		return Set{}, fmt.Errorf("%q is not a range in the dialect %s: %w", raw, name, err)
	}
	return set, nil
}

// parsePlain reads what a version file holds: one version, or a partial one that
// stands for everything below it (18, 3.11, 20.x). "*" and "x" stand for every release.
func parsePlain(s Scheme, raw string) (Set, error) {
	raw = strings.TrimPrefix(strings.TrimSpace(raw), "=")
	if raw == "" {
		return Set{}, errNumber
	}
	for {
		short, wild := cutWildcard(raw)
		if !wild {
			break
		}
		raw = short
	}
	if raw == "*" || raw == "x" || raw == "X" {
		return Releases(s), nil
	}
	v, err := s.Parse(raw)
	if err != nil {
		return Set{}, err
	}
	if v.exact {
		return Exactly(v), nil
	}
	from, to, err := schemes[s].prefix(raw)
	if err != nil {
		return Set{}, err
	}
	return within(s, Interval{from, to}), nil
}

func cutWildcard(raw string) (string, bool) {
	for _, end := range []string{".x", ".X", ".*"} {
		if short, ok := strings.CutSuffix(raw, end); ok {
			return short, true
		}
	}
	return raw, false
}

// parseMinimum reads a version that is the oldest one allowed.
func parseMinimum(s Scheme, raw string) (Set, error) {
	v, err := s.Parse(raw)
	if err != nil {
		return Set{}, err
	}
	return AtLeast(v), nil
}

// Minimum reads a version of any scheme as "this or newer", as a language level does.
func Minimum(s Scheme, raw string) (Set, error) {
	from, _, err := schemes[s].prefix(strings.TrimSpace(raw))
	if err != nil {
		return parseMinimum(s, raw)
	}
	return within(s, Interval{from, last}).WithPrereleases(), nil
}
