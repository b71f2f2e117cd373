package version

import (
	"errors"
	"strings"
)

// Go's versions. Since 1.21 a bare 1.21 is a language version that sorts before
// 1.21rc1 and 1.21.0; before that 1.20 and 1.20.0 are the same. What follows a hyphen
// is a vendor's and orders nothing.
//
// The key: two numbers, the patch or its absence, the kind of prerelease as a word,
// its number or its absence.
type goVersion struct {
	numbers []string
	kind    string // "alpha", "beta", "rc" or ""
	pre     string
}

func readGo(raw string) (goVersion, error) {
	s := strings.TrimPrefix(strings.TrimSpace(raw), "go")
	s, _, _ = strings.Cut(s, "-")
	numbers, rest, err := numbersOf(s)
	switch {
	case err != nil:
		return goVersion{}, err
	case len(numbers) > 3:
		return goVersion{}, errParts
	case strings.Join(numbers, ".") != s[:len(s)-len(rest)]:
		return goVersion{}, errLeading
	}
	v := goVersion{numbers: numbers}
	if rest == "" {
		return v, nil
	}
	v.kind = strings.TrimRight(rest, "0123456789")
	v.pre = rest[len(v.kind):]
	switch {
	case len(numbers) != 2 || v.kind == "" || strings.Trim(v.kind, "abcdefghijklmnopqrstuvwxyz") != "":
		return goVersion{}, errors.New("unknown text follows the number")
	case len(v.pre) > 1 && v.pre[0] == '0':
		return goVersion{}, errLeading
	case len(v.pre) > maxDigits:
		return goVersion{}, errDigits
	}
	return v, nil
}

func parseGo(raw string) (Version, error) {
	v, err := readGo(raw)
	if err != nil {
		return Version{}, err
	}
	text := strings.Join(v.numbers, ".") + v.kind + v.pre
	return plainVersion(v.key(), text, len(v.numbers), v.kind != "", len(v.numbers) > 2 || v.kind != ""), nil
}

// old tells whether a missing patch means patch 0, as it did before 1.21.
func (v goVersion) old() bool {
	if len(v.numbers) == 1 {
		return true
	}
	minor := v.numbers[1]
	return len(minor) < 2 || len(minor) == 2 && minor < "21"
}

func (v goVersion) key() string {
	key := v.beginning(2)
	switch {
	case len(v.numbers) > 2:
		key = appendNumber(append(key, tagNumber), v.numbers[2])
	case v.kind == "" && v.old():
		key = append(key, tagNumber, 0)
	default:
		key = append(key, tagEnd)
	}
	key = appendWord(key, v.kind)
	if v.pre == "" {
		return string(append(key, tagEnd))
	}
	return string(appendNumber(append(key, tagNumber), v.pre))
}

// beginning is the first count numbers, zero where they are missing.
func (v goVersion) beginning(count int) []byte {
	key := make([]byte, 0, 16)
	for i := range count {
		n := ""
		if i < len(v.numbers) {
			n = v.numbers[i]
		}
		key = appendNumber(key, n)
	}
	return key
}

func lineGo(raw string) (from, to string, err error) {
	v, err := readGo(raw)
	if err != nil {
		return "", "", err
	}
	if v.kind != "" {
		return "", "", errors.New("not a partial version")
	}
	return goLine(v.numbers), goLine(bumped(v.numbers)), nil
}

// goLine begins the keys of everything of these numbers, candidates included.
func goLine(numbers []string) string {
	v := goVersion{numbers: numbers}
	if len(numbers) < 3 {
		return string(v.beginning(len(numbers)))
	}
	return string(appendNumber(append(v.beginning(2), tagNumber), numbers[2]))
}

func printGo(key string) (text, mark string) {
	v := goVersion{}
	for range 2 {
		n, rest, ok := cutNumber(key)
		if !ok {
			break
		}
		v.numbers, key = append(v.numbers, n), rest
	}
	tag, key := cutTag(key)
	if tag == tagNumber {
		patch := ""
		patch, key, _ = cutNumber(key)
		if patch != "0" || !v.old() {
			v.numbers = append(v.numbers, patch)
		}
	}
	if key == "" {
		mark = "*"
	}
	v.kind, key = cutWord(key)
	if tag, key = cutTag(key); tag == tagNumber {
		v.pre, _, _ = cutNumber(key)
	}
	return strings.Join(v.numbers, ".") + v.kind + v.pre, mark
}

// settleGo: the first release of 1.22 is the language version, of 1.20 it is 1.20.0;
// after a candidate comes 1.22.0.
func settleGo(key string) string {
	v := goVersion{}
	rest := key
	for range 2 {
		n, after, ok := cutNumber(rest)
		if !ok { // the beginning of 1.anything
			return string(goVersion{numbers: v.numbers}.key())
		}
		v.numbers, rest = append(v.numbers, n), after
	}
	tag, after := cutTag(rest)
	switch {
	case tag == 0:
		return v.key()
	case tag == tagNumber:
		if n, end, _ := cutNumber(after); end == "" {
			return goVersion{numbers: append(v.numbers, n)}.key()
		}
		return key
	case strings.HasPrefix(after, "\x00"):
		return key
	}
	return goVersion{numbers: append(v.numbers, "0")}.key()
}
