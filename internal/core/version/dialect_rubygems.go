package version

import (
	"errors"
	"strings"
)

// parseRubyGemsRange reads a list of requirements joined by commas, all of which must
// hold. "~> 1.2.3" allows what begins with 1.2 and is no older. Prereleases are in the
// order like everything else.
func parseRubyGemsRange(s Scheme, raw string) (Set, error) {
	out := All(s)
	for clause := range strings.SplitSeq(raw, ",") {
		set, err := gemRequirement(strings.TrimSpace(clause))
		if err != nil {
			return Set{}, err
		}
		out = out.Intersect(set)
	}
	return out, nil
}

func gemRequirement(clause string) (Set, error) {
	op, rest := cutOperator(clause, "~>", ">=", "<=", "!=", "=", ">", "<")
	if rest == "" {
		return Set{}, errNumber
	}
	v, err := RubyGems.Parse(rest)
	if err != nil {
		return Set{}, err
	}
	switch op {
	case "~>":
		return gemPessimistic(v, rest)
	case "!=":
		return full(RubyGems, compared("=", v)).Complement(), nil
	}
	return full(RubyGems, compared(op, v)), nil
}

// gemPessimistic ends where the release of the version is older than the next number
// before the last: ~> 1.2.3 before 1.3.
func gemPessimistic(v Version, raw string) (Set, error) {
	segments, err := readRubyGems(raw)
	if err != nil {
		return Set{}, err
	}
	numbers := segments
	for i, s := range segments {
		if !digit(s[0]) {
			numbers = segments[:i]
			break
		}
	}
	if len(numbers) == 0 {
		return Set{}, errors.New("~> needs a number")
	}
	if len(numbers) > 1 {
		numbers = numbers[:len(numbers)-1]
	}
	end := RubyGems.before(gemNumbers(bumped(numbers)))
	return full(RubyGems, Interval{before(v), end}), nil
}
