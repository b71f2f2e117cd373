package version

import (
	"errors"
	"slices"
	"strings"
)

// parseHex reads Elixir's requirements: comparisons joined by "and", which binds more
// tightly, and "or". Prereleases are in the order like everything else.
func parseHex(_ Scheme, raw string) (Set, error) {
	words, err := hexWords(raw)
	if err != nil {
		return Set{}, err
	}
	return hexSet(words)
}

// hexOperators are the comparisons; "!" is an old spelling of !=.
var hexOperators = []string{">=", "<=", "~>", "!=", "==", ">", "<", "!"}

var errHexJoin = errors.New("comparisons are joined by and or or, with spaces around them")

// hexWords splits at spaces and around operators.
func hexWords(text string) ([]string, error) {
	var words []string
	for field := range strings.SplitSeq(text, " ") {
		for whole := field; field != ""; {
			n := 1
			if op, _ := cutOperator(field, hexOperators...); op != "" {
				n = len(op)
			} else {
				for n < len(field) && strings.IndexByte("<>~!=", field[n]) < 0 {
					n++
				}
			}
			word := field[:n]
			if (word == "and" || word == "or") && word != whole {
				return nil, errHexJoin
			}
			words, field = append(words, word), field[n:]
		}
	}
	return words, nil
}

func hexSet(words []string) (Set, error) {
	out, group := None(Semver), All(Semver)
	for {
		set, rest, err := hexClause(words)
		if err != nil {
			return Set{}, err
		}
		group = group.Intersect(set)
		switch {
		case len(rest) == 0:
			return out.Unite(group), nil
		case rest[0] == "or":
			out, group = out.Unite(group), All(Semver)
		case rest[0] != "and":
			return Set{}, errHexJoin
		}
		words = rest[1:]
	}
}

// hexClause reads one comparison; none is "equals".
func hexClause(words []string) (set Set, rest []string, err error) {
	op := "=="
	if len(words) > 0 && slices.Contains(hexOperators, words[0]) {
		op, words = words[0], words[1:]
	}
	if len(words) == 0 {
		return Set{}, nil, errNumber
	}
	set, err = hexComparison(op, words[0])
	return set, words[1:], err
}

func hexComparison(op, raw string) (Set, error) {
	v, err := readSemver(raw)
	switch {
	case err != nil:
		return Set{}, err
	case v.numbers < 3 && (op != "~>" || v.numbers < 2):
		return Set{}, errThree
	}
	switch op {
	case "!=", "!":
		return full(Semver, compared("=", v)).Complement(), nil
	case "~>":
		numbers, _ := cutThree(v.key)
		end := Semver.before(semverNumbers(bumped(numbers[:v.numbers-1])))
		return full(Semver, Interval{before(v), end}), nil
	}
	return full(Semver, compared(op, v)), nil
}

// readHex reads a version as Elixir does: three numbers, nothing before them.
func readHex(raw string) (Version, error) {
	v, err := readSemver(raw)
	if err == nil && v.numbers < 3 {
		return v, errThree
	}
	return v, err
}
