package version

import (
	"errors"
	"strings"
)

// Semantic versions, and their loose forms: a leading v or =, one or two missing
// numbers (read as 0). Build metadata orders nothing; it stands behind the ordered
// part of the key for the dialect pub, which tells builds apart.
//
// The key: three numbers, then semverPre and the identifiers or semverFinal, then the
// build: 0 where there is none, or semverBuild and its identifiers.
const (
	semverPre   = 0x01
	semverFinal = 0x02
	semverBuild = 0x01
)

var (
	errParts      = errors.New("more than three numbers")
	errThree      = errors.New("it has fewer than three numbers")
	errLeading    = errors.New("a number starts with 0")
	errHyphen     = errors.New("text follows the number without a hyphen")
	errPrerelease = errors.New("the prerelease part holds other than letters, digits and hyphens, or a number that starts with 0")
	errBuild      = errors.New("the build part holds other than letters, digits and hyphens")
)

func parseSemver(raw string) (Version, error) {
	return readSemver(strings.TrimLeft(strings.TrimSpace(raw), "v= \t"))
}

// readSemver reads a version without anything before the first number, in one pass.
func readSemver(s string) (Version, error) {
	var buffer [64]byte
	key, rest, count := buffer[:0], s, 0
	for {
		digits, after := cutDigits(rest)
		switch {
		case digits == "":
			return Version{}, errNumber
		case count == 3:
			return Version{}, errParts
		case digits[0] == '0' && len(digits) > 1:
			return Version{}, errLeading
		case len(digits) > maxDigits:
			return Version{}, errDigits
		}
		key, rest, count = appendNumber(key, digits), after, count+1
		if rest == "" || rest[0] != '.' {
			break
		}
		rest = rest[1:]
	}
	core := s[:len(s)-len(rest)]
	for n := count; n < 3; n++ {
		key = append(key, 0)
	}
	if rest == "" { // most versions are this short
		key = append(key, semverFinal, 0)
		return Version{scheme: Semver, key: string(key), text: semverText(s, core, count), ordered: uint16(len(key) - 1), numbers: uint8(count), exact: count == 3}, nil
	}
	return readSemverTail(key, s, core, count)
}

func readSemverTail(key []byte, s, core string, count int) (Version, error) {
	v := Version{scheme: Semver, text: semverText(s, core, count), numbers: uint8(count), exact: count == 3}
	pre, build, hasBuild := strings.Cut(s[len(core):], "+")
	switch {
	case pre == "":
		key = append(key, semverFinal)
	case pre[0] != '-':
		return Version{}, errHyphen
	case !identifiers(pre[1:], false):
		return Version{}, errPrerelease
	default:
		key = appendIdentifiers(append(key, semverPre), pre[1:])
		v.class, v.prerelease, v.exact = early, true, true
	}
	v.ordered = uint16(len(key))
	switch {
	case !hasBuild:
		key = append(key, 0)
	case !identifiers(build, true):
		return Version{}, errBuild
	default:
		key = appendIdentifiers(append(key, semverBuild), build)
	}
	v.key = string(key)
	return v, nil
}

// semverText writes the missing numbers; where none is, it is the text as it stood.
func semverText(s, core string, count int) string {
	if count == 3 {
		return s
	}
	return core + strings.Repeat(".0", 3-count) + s[len(core):]
}

// identifiers tells whether s is dot-separated words of letters, digits and hyphens;
// numbers may start with 0 only where zeros says so.
func identifiers(s string, zeros bool) bool {
	start, number := 0, true
	for i := 0; i <= len(s); i++ {
		if i < len(s) && s[i] != '.' {
			switch c := s[i]; {
			case digit(c):
			case letter(c), c == '-':
				number = false
			default:
				return false
			}
			continue
		}
		if n := i - start; n == 0 || n > maxDigits || number && !zeros && n > 1 && s[start] == '0' {
			return false
		}
		start, number = i+1, true
	}
	return true
}

func semverNumbers(numbers []string) string {
	key := make([]byte, 0, 16)
	for i := range 3 {
		n := ""
		if i < len(numbers) {
			n = numbers[i]
		}
		key = appendNumber(key, n)
	}
	return string(key)
}

func lineSemver(raw string) (from, to string, err error) {
	numbers, rest, err := numbersOf(strings.TrimLeft(raw, "v= \t"))
	if err != nil || rest != "" || len(numbers) > 3 {
		return "", "", errors.New("not a partial version")
	}
	return semverNumbers(numbers), semverNumbers(bumped(numbers)), nil
}

func printSemver(key string) (text, mark string) {
	numbers, rest := cutThree(key)
	text = padded(numbers, 3)
	tag, rest := cutTag(rest)
	if tag == 0 {
		return text, "*"
	}
	if tag == semverPre {
		pre := ""
		pre, rest = cutIdentifiers(rest)
		text += "-" + pre
	}
	if rest == "" {
		return text, ""
	}
	if rest[0] == semverBuild {
		build, _ := cutIdentifiers(rest[1:])
		text += "+" + build
	}
	return text, "="
}

func cutThree(key string) (numbers []string, rest string) {
	for range 3 {
		n, after, ok := cutNumber(key)
		if !ok {
			break
		}
		numbers, key = append(numbers, n), after
	}
	return numbers, key
}

func settleSemver(key string) string {
	rest := key
	for range 3 {
		if rest == "" || len(rest) < 1+int(rest[0]) {
			return key
		}
		rest = rest[1+int(rest[0]):]
	}
	if rest != "" && rest[0] == semverFinal {
		return key
	}
	return key[:len(key)-len(rest)] + "\x02"
}

// adjacentSemver: between 1.2.3 and 1.2.4 lies no release, nor before 0.0.0.
func adjacentSemver(a, b string) bool {
	if a == "" {
		return b == "\x00\x00\x00\x02"
	}
	x, restA := cutThree(a)
	y, restB := cutThree(b)
	return len(x) == 3 && len(y) == 3 && len(restA) == 1 && restA == restB && x[0] == y[0] && x[1] == y[1] && next(x[2]) == y[2]
}

// largerThan tells whether one of the three numbers of a key is larger than a limit.
func largerThan(key, limit string) bool {
	for range 3 {
		n, rest, _ := cutNumber(key)
		if tooLarge(n, limit) {
			return true
		}
		key = rest
	}
	return false
}

// numberOf begins the keys of everything with the version's three numbers.
func numberOf(v Version) string {
	_, rest := cutThree(v.key)
	return v.key[:len(v.key)-len(rest)]
}
