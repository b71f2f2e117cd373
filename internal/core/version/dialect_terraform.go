package version

import (
	"errors"
	"strings"
)

// parseTerraform reads constraints joined by commas. A comparison without a prerelease
// admits none; one with a prerelease admits those of its own three numbers, and "~>"
// then nothing else. = and != compare by order alone.
func parseTerraform(_ Scheme, raw string) (Set, error) {
	out := All(Semver)
	for clause := range strings.SplitSeq(raw, ",") {
		op, rest := cutOperator(strings.TrimSpace(clause), "<=", ">=", "!=", "~>", "<", ">", "=")
		v, err := readTerraform(strings.TrimSpace(rest))
		if err != nil {
			return Set{}, err
		}
		out = out.Intersect(terraformConstraint(op, v))
	}
	return out, nil
}

func terraformConstraint(op string, v Version) Set {
	switch op {
	case "", "=":
		return full(Semver, compared("=", v))
	case "!=":
		return full(Semver, compared("=", v)).Complement()
	case "~>":
		return terraformPessimistic(v)
	}
	i := compared(op, v)
	set := None(Semver).with(released, i)
	if v.prerelease {
		set = set.put(early, namedPrereleases(i, []string{numberOf(v)}))
	}
	return set
}

// terraformPessimistic keeps the numbers before the last one written.
func terraformPessimistic(v Version) Set {
	numbers, _ := cutThree(v.key)
	end := last
	if written := numbers[:v.numbers]; len(written) > 1 {
		end = Semver.before(semverNumbers(bumped(written[:len(written)-1])))
	}
	if v.prerelease {
		return None(Semver).put(early, namedPrereleases(Interval{before(v), end}, []string{numberOf(v)}))
	}
	return None(Semver).with(released, Interval{before(v), end})
}

// readTerraform reads a version as Terraform's own library does: one to three numbers of
// 63 bits, a prerelease also without a hyphen. More than three numbers, or a tilde, are
// in no version that Terraform or its providers have, and are refused.
func readTerraform(raw string) (Version, error) {
	s := strings.TrimPrefix(raw, "v")
	numbers, rest, err := numbersOf(s)
	switch {
	case err != nil:
		return Version{}, err
	case len(numbers) > 3:
		return Version{}, errParts
	}
	for _, n := range numbers {
		if tooLarge(n, largest63) {
			return Version{}, errors.New("a number is larger than " + largest63)
		}
	}
	tail, build, hasBuild := strings.Cut(rest, "+")
	if hasBuild && !terraformIdentifiers(build) {
		return Version{}, errBuild
	}
	v := Version{scheme: Semver, text: padded(numbers, 3), numbers: uint8(len(numbers)), exact: len(numbers) == 3}
	key := append(make([]byte, 0, 40), semverNumbers(numbers)...)
	if tail == "" {
		key = append(key, semverFinal)
	} else {
		pre := tail
		if pre[0] == '-' && len(pre) > 1 && (digit(pre[1]) || letter(pre[1])) || strings.HasPrefix(pre, "--") {
			pre = pre[1:]
		} else if digit(pre[0]) {
			return Version{}, errHyphen
		}
		if !terraformIdentifiers(pre) {
			return Version{}, errPrerelease
		}
		key = appendIdentifiers(append(key, semverPre), pre)
		v.text += "-" + pre
		v.class, v.prerelease, v.exact = early, true, true
	}
	if hasBuild {
		v.text += "+" + build
	}
	v.ordered = uint16(len(key))
	v.key = string(append(key, 0))
	return v, nil
}

func terraformIdentifiers(s string) bool {
	for id := range strings.SplitSeq(s, ".") {
		if id == "" || len(id) > maxDigits || !only(id, "-") {
			return false
		}
	}
	return true
}
