package version

import (
	"errors"
	"strings"
)

// parseSemver reads a semantic version, also in its loose forms: a leading v or =,
// one or two missing numbers (read as 0), and build metadata, which orders nothing.
func parseSemver(raw string) (parsed, error) {
	s := strings.TrimLeft(raw, "v= \t")
	if p, ok := plainSemver(s); ok {
		return p, nil
	}
	numbers, rest, err := numbersOf(s)
	if err != nil {
		return parsed{}, err
	}
	if len(numbers) > 3 {
		return parsed{}, errors.New("more than three numbers")
	}
	rest, build, _ := strings.Cut(rest, "+")
	if build != "" && !identifiers(build) {
		return parsed{}, errors.New("the build part holds other than letters, digits and hyphens")
	}
	pre := ""
	if rest != "" {
		if rest[0] != '-' {
			return parsed{}, errors.New("text follows the number without a hyphen")
		}
		pre = rest[1:]
		if !identifiers(pre) {
			return parsed{}, errors.New("the prerelease part holds other than letters, digits and hyphens")
		}
	}
	text := padded(numbers, 3)
	p := parsed{key: semverKey(numbers, pre), text: text, prerelease: pre != "", numbers: len(numbers), exact: len(numbers) == 3 || pre != ""}
	if pre != "" {
		p.text += "-" + pre
	}
	if build != "" {
		p.text += "+" + build
	}
	return p, nil
}

// plainSemver reads three numbers without leading zeros and nothing else, which most
// versions are, in one pass and with one allocation.
func plainSemver(s string) (parsed, bool) {
	var buffer [40]byte
	key, rest := buffer[:0], s
	for i := range 3 {
		digits, after := cutDigits(rest)
		if digits == "" || len(digits) > 9 || digits[0] == '0' && len(digits) > 1 {
			return parsed{}, false
		}
		key = appendNumber(key, digits)
		if i < 2 {
			if after == "" || after[0] != '.' {
				return parsed{}, false
			}
			after = after[1:]
		}
		rest = after
	}
	if rest != "" {
		return parsed{}, false
	}
	return parsed{key: string(append(key, semverFinal)), text: s, numbers: 3, exact: true}, true
}

func identifiers(s string) bool {
	for _, id := range strings.Split(s, ".") {
		if id == "" || strings.Trim(id, "0123456789abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ-") != "" || len(id) > 200 {
			return false
		}
	}
	return true
}

// What follows the three numbers in a key.
const (
	semverPre   = 0x01
	semverFinal = 0x02
)

func semverKey(numbers []string, pre string) string {
	key := make([]byte, 0, 24)
	for i := range 3 {
		n := "0"
		if i < len(numbers) {
			n = numbers[i]
		}
		key = appendNumber(key, n)
	}
	if pre == "" {
		return string(append(key, semverFinal))
	}
	key = append(key, semverPre)
	for id := range strings.SplitSeq(pre, ".") {
		if allDigits(id) {
			key = appendNumber(append(key, tagNumber), id)
		} else {
			key = appendWord(append(key, tagWord), id)
		}
	}
	return string(append(key, tagEnd))
}

func prefixSemver(raw string) (from, to Cut, err error) {
	numbers, rest, err := numbersOf(strings.TrimLeft(raw, "v= \t"))
	if err != nil || rest != "" || len(numbers) > 3 {
		return from, to, errors.New("not a partial version")
	}
	return semverCut(numbers), semverCut(bumped(numbers)), nil
}

// semverCut is the place before the numbers and their prereleases (npm writes it -0).
func semverCut(numbers []string) Cut {
	key := semverKey(numbers, "")
	return Cut{key: key[:len(key)-1], text: padded(numbers, 3)}
}

// floorSemver cuts the mark of a release off, which stands right behind the three numbers.
func floorSemver(key string) string {
	rest := key
	for range 3 {
		if rest = skipNumber(rest); rest == "" {
			return key
		}
	}
	if rest == string(rune(semverFinal)) {
		return key[:len(key)-1]
	}
	return key
}
