package version

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/nearest"
)

// MaxRange is the longest text read as a range, in bytes.
const MaxRange = 4096

// dialect is what a file that adds a dialect provides.
type dialect struct {
	// own is the scheme that the dialect's versions follow.
	own Scheme
	// any tells whether versions of other schemes may be asked for in the same words.
	any bool
	// parse reads a range as a set of versions of the scheme.
	parse func(s Scheme, raw string) (Set, error)
	// read reads a version as strictly as the dialect's own tool does. nil: as the scheme does.
	read func(raw string) (Version, error)
}

var dialects = map[string]dialect{
	"cargo":         {Semver, false, parseCargo, readCargo},
	"cmake-minimum": {Numeric, true, parseCMake, nil},
	"composer":      {Composer, false, parseComposerRange, nil},
	"go-minimum":    {Go, true, parseMinimum, nil},
	"hex":           {Semver, false, parseHex, readHex},
	"image-tag":     {Semver, true, parseImageTag, nil},
	"maven":         {Maven, true, parseMavenRange, nil},
	"npm":           {Semver, false, parseNpm, readNpm},
	"pep440":        {PEP440, false, parsePEP440Range, nil},
	"plain":         {Semver, true, parsePlain, nil},
	"pub":           {Semver, false, parsePub, readPub},
	"rubygems":      {RubyGems, false, parseRubyGemsRange, nil},
	"setup":         {Semver, true, parseSetup, nil},
	"terraform":     {Semver, false, parseTerraform, readTerraform},
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

// DialectFits tells why no range of a dialect can be read as versions of a scheme; nil where
// they can.
func DialectFits(name string, s Scheme) error {
	d, err := dialectNamed(name)
	if err == nil && !d.any && d.own != s {
		err = fmt.Errorf("the dialect %s is for %s versions, not %s", name, d.own, s)
	}
	return err
}

// ParseRange reads a range written in the dialect as a set of the scheme's versions.
// A dialect with a scheme of its own is only read for that scheme; pass NoScheme for
// "the dialect's own", which for plain and image-tag is semver.
func ParseRange(name string, s Scheme, raw string) (Set, error) {
	d, err := dialectNamed(name)
	if err != nil {
		return Set{}, err
	}
	if len(raw) > MaxRange {
		return Set{}, fmt.Errorf("range of %d bytes is longer than %d", len(raw), MaxRange)
	}
	switch {
	case s == NoScheme:
		s = d.own
	case !d.any && d.own != s:
		return Set{}, fmt.Errorf("the dialect %s is for %s versions, not %s", name, d.own, s)
	}
	set, err := d.parse(s, raw)
	if err != nil {
		return Set{}, fmt.Errorf("%q is not a range in the dialect %s: %w", raw, name, err)
	}
	return set, nil
}

// ParseVersion reads a version as the dialect's own tool does, which may be stricter
// than the scheme: npm takes no 1.2, Cargo no v1.2.3.
func ParseVersion(name, raw string) (Version, error) {
	d, err := dialectNamed(name)
	if err != nil {
		return Version{}, err
	}
	if d.read == nil || len(raw) > MaxLength {
		return d.own.Parse(raw)
	}
	v, err := d.read(raw)
	if err != nil {
		return Version{}, fmt.Errorf("%q is not a version in the dialect %s: %w", raw, name, err)
	}
	return v, nil
}

func dialectNamed(name string) (dialect, error) {
	d, ok := dialects[name]
	if !ok {
		return d, fmt.Errorf("unknown dialect %q; %s", name, nearest.Hint(name, DialectNames()))
	}
	return d, nil
}

var errOperator = errors.New("a comparison such as >= is missing")

// cutOperator splits the first of the operators that the text begins with off; "" where none does.
func cutOperator(text string, operators ...string) (op, rest string) {
	for _, op := range operators {
		if rest, ok := strings.CutPrefix(text, op); ok {
			return op, strings.TrimSpace(rest)
		}
	}
	return "", text
}

// compared is the versions that stand to v as the operator says, by order alone.
func compared(op string, v Version) Interval {
	switch op {
	case ">=":
		return Interval{before(v), last}
	case ">":
		return Interval{after(v), last}
	case "<=":
		return Interval{first, after(v)}
	case "<":
		return Interval{first, before(v)}
	}
	return Interval{before(v), after(v)}
}

// Minimum reads a version of any scheme as "this or newer", as a language level does.
func Minimum(s Scheme, raw string) (Set, error) {
	from, _, err := schemes[s].line(strings.TrimSpace(raw))
	if err != nil {
		return parseMinimum(s, raw)
	}
	return full(s, Interval{s.before(from), last}), nil
}
