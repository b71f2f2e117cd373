package version

import (
	"errors"
	"strings"
)

// Erlang's versions: any number of numbers (27.0.1, a branch 26.2.5.3), a candidate
// behind a hyphen (28.0-rc1). Missing numbers count as zero. The old R16B03-1 is read as
// 16.1.3.1: its letter counts as a number.
//
// The key: the numbers without trailing zeros, then a candidate or dottedFinal.
func parseErlang(raw string) (Version, error) {
	s := strings.TrimSpace(raw)
	s = strings.TrimPrefix(strings.TrimPrefix(s, "OTP-"), "OTP ")
	if old, ok := strings.CutPrefix(s, "R"); ok {
		v, err := readDotted(strings.TrimSuffix(oldErlang.Replace(old), "."), false)
		v.text, v.exact = s, true
		return v, err
	}
	return readDotted(s, false)
}

var oldErlang = strings.NewReplacer("A", ".0.", "B", ".1.", "-", ".")

// The phases of a dotted version.
const (
	dottedEarly = 0x01
	dottedFinal = 0x02
	dottedWord  = 0x03
)

var errDotted = errors.New("letters, digits, points, hyphens, underscores, plus signs and tildes may follow the numbers")

// earlyWords begin what comes before a release.
var earlyWords = []string{"alpha", "beta", "dev", "m", "milestone", "nightly", "pre", "preview", "rc", "snapshot"}

// readDotted reads numbers and what follows them: a word that announces a release
// sorts before it; any other, where letters are allowed, after it.
func readDotted(s string, wordsFollow bool) (Version, error) {
	numbers, rest, err := numbersOf(s)
	if err != nil {
		return Version{}, err
	}
	key := appendNumbers(make([]byte, 0, 32), numbers)
	v := Version{text: s, numbers: uint8(min(len(numbers), 255)), exact: len(numbers) > 2 || rest != ""}
	if strings.TrimFunc(rest, func(r rune) bool {
		return r < 128 && (digit(byte(r)) || letter(byte(r)) || strings.ContainsRune(".-_+~", r))
	}) != "" {
		return v, errDotted
	}
	if rest != "" && strings.Trim(rest, ".-_+~") == "" || strings.HasSuffix(rest, "-") {
		return v, errDotted
	}
	switch word := dottedFirst(rest); {
	case rest == "":
		key = append(key, dottedFinal)
	case isEarly(word):
		key = appendDotted(append(key, dottedEarly), rest)
		v.prerelease, v.class = true, early
	case wordsFollow:
		key = appendDotted(append(key, dottedWord), rest)
	default:
		return v, errors.New("only a candidate such as -rc1 may follow the numbers")
	}
	v.key, v.ordered = string(key), uint16(len(key))
	return v, nil
}

func dottedFirst(rest string) string {
	rest = strings.TrimLeft(rest, ".-_+~")
	n := 0
	for n < len(rest) && letter(rest[n]) {
		n++
	}
	return strings.ToLower(rest[:n])
}

func isEarly(word string) bool {
	for _, w := range earlyWords {
		if w == word {
			return true
		}
	}
	return false
}

// appendDotted writes words and numbers in turn, separators left out: words before numbers.
func appendDotted(key []byte, s string) []byte {
	for {
		s = strings.TrimLeft(s, ".-_+~")
		if s == "" {
			return append(key, tagEnd)
		}
		n := 1
		for n < len(s) && digit(s[n]) == digit(s[0]) && (digit(s[n]) || letter(s[n])) {
			n++
		}
		if digit(s[0]) {
			key = appendNumber(append(key, tagWord), s[:min(n, maxDigits)])
		} else {
			key = appendWord(append(key, tagNumber), strings.ToLower(s[:n]))
		}
		s = s[n:]
	}
}

func lineErlang(raw string) (from, to string, err error) {
	return lineDotted(strings.TrimPrefix(strings.TrimSpace(raw), "OTP-"))
}

func lineDotted(s string) (from, to string, err error) {
	numbers, rest, err := numbersOf(s)
	if err != nil || rest != "" {
		return "", "", errors.New("not a partial version")
	}
	return string(appendNumbers(nil, numbers)), string(appendNumbers(nil, bumped(numbers))), nil
}

func printErlang(key string) (text, mark string) {
	numbers, rest, _ := cutNumbers(key)
	text = strings.Join(numbers, ".")
	phase, rest := cutTag(rest)
	if phase == 0 || phase == dottedFinal {
		return text, starred(phase != 0)
	}
	between := "-"
	for {
		tag, after := cutTag(rest)
		part := ""
		switch tag {
		case tagWord: // a number
			if part, rest, _ = cutNumber(after); between == "" {
				between = "."
			}
			text, between = text+strings.TrimPrefix(between, "word")+part, ""
		case tagNumber: // a word
			part, rest = cutWord(after)
			text, between = text+"-"+part, "word"
		default:
			return text, ""
		}
	}
}

func settleErlang(key string) string { return settleDotted(key) }

// settleDotted: before the release come the versions that announce it.
func settleDotted(key string) string {
	_, rest, end := cutNumbers(key)
	if !end || rest != "" && rest[0] != dottedEarly {
		return key
	}
	return key[:len(key)-len(rest)] + string(rune(dottedFinal))
}
