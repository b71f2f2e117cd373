package version

import (
	"errors"
	"strings"
)

// parseCargo reads Cargo's requirements: comparators joined by commas, a caret where
// no operator stands. A prerelease is admitted only where a comparator names one of the
// same three numbers; a comparator with missing numbers admits none of its own.
func parseCargo(_ Scheme, raw string) (Set, error) {
	text := strings.TrimLeft(raw, " ")
	if text != "" && isWild(text[:1]) {
		if strings.Trim(text[1:], " ") != "" {
			return Set{}, errors.New("a lone wildcard stands for itself only")
		}
		return Releases(Semver), nil
	}
	out, named := All(Semver), []string(nil)
	clauses := strings.Split(text, ",")
	if len(clauses) > 32 {
		return Set{}, errors.New("more than 32 comparators")
	}
	for _, clause := range clauses {
		op, rest := cutCargoOperator(strings.Trim(clause, " "))
		p, err := readCargoPartial(rest, &op)
		if err != nil {
			return Set{}, err
		}
		out = out.Intersect(cargoComparator(op, p))
		if p.pre != "" {
			named = append(named, semverNumbers(p.numbers))
		}
	}
	return out.put(early, intersect(out.list(early), namedPrereleases(Interval{first, last}, named), early)), nil
}

func cutCargoOperator(text string) (op, rest string) {
	for _, op := range []string{"=", ">=", ">", "<=", "<", "~", "^"} {
		if rest, ok := strings.CutPrefix(text, op); ok {
			return op, strings.TrimLeft(rest, " ")
		}
	}
	return "", text
}

// readCargo reads a version as Cargo does: three numbers of 64 bits, nothing before them.
func readCargo(raw string) (Version, error) {
	v, err := readSemver(raw)
	if err == nil && v.numbers < 3 {
		return v, errThree
	}
	if err == nil && largerThan(v.key, largest64) {
		return v, errLarge
	}
	return v, err
}

const largest64 = "18446744073709551615"

var errLarge = errors.New("a number is larger than " + largest64)

// readCargoPartial reads one to three numbers; a wildcard where no operator stands
// makes the operator "=".
func readCargoPartial(s string, op *string) (partial, error) {
	p, wild := partial{}, false
	for n := 0; ; n++ {
		digits, rest := cutDigits(s)
		switch {
		case digits == "" && n > 0 && s != "" && isWild(s[:1]):
			wild, rest = true, s[1:]
			if *op == "" {
				*op = "="
			}
		case digits == "":
			return p, errNumber
		case wild:
			return p, errors.New("a number follows a wildcard")
		case len(digits) > 1 && digits[0] == '0':
			return p, errLeading
		case tooLarge(digits, largest64):
			return p, errLarge
		default:
			p.numbers = append(p.numbers, digits)
		}
		if s = rest; n == 2 || !strings.HasPrefix(s, ".") {
			break
		}
		s = s[1:]
	}
	if s == "" {
		return p, nil
	}
	if !p.full() {
		return p, errors.New("text follows the numbers")
	}
	tail, build, hasBuild := strings.Cut(s, "+")
	pre, hasPre := strings.CutPrefix(tail, "-")
	switch {
	case !hasPre && tail != "":
		return p, errHyphen
	case hasPre && !identifiers(pre, false):
		return p, errPrerelease
	case hasBuild && !identifiers(build, true):
		return p, errBuild
	}
	p.pre = pre
	return p, nil
}

func cargoComparator(op string, p partial) Set {
	start := Semver.before(semverNumbers(p.numbers)) // before prereleases of missing numbers
	end := Semver.before(semverNumbers(bumped(p.numbers)))
	if p.full() {
		start, end = p.at(), Cut{key: p.at().key, scheme: Semver, after: true}
	}
	releases := func(i Interval) Set { return None(Semver).with(released, i) }
	switch op {
	case "=":
		if p.full() {
			return full(Semver, Interval{start, end})
		}
		return releases(Interval{start, end})
	case ">":
		return full(Semver, Interval{end, last})
	case "<":
		return full(Semver, Interval{first, start})
	case ">=":
		if p.full() {
			return full(Semver, Interval{start, last})
		}
		return releases(Interval{start, end}).Unite(full(Semver, Interval{end, last}))
	case "<=":
		if p.full() {
			return full(Semver, Interval{first, end})
		}
		return releases(Interval{start, end}).Unite(full(Semver, Interval{first, start}))
	case "~":
		to := Semver.before(semverNumbers(bumped(p.numbers[:min(len(p.numbers), 2)])))
		if p.full() {
			return full(Semver, Interval{start, to})
		}
		return releases(Interval{start, to})
	}
	return full(Semver, Interval{start, Semver.before(semverNumbers(caretEnd(p.numbers)))})
}
