package version

import (
	"errors"
	"slices"
	"strings"
)

// Dotted numbers with words behind them, which the schemes erlang and numeric share.
//
// The key: the numbers without trailing zeros, then a phase, then words and numbers in turn.

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
	if !only(rest, dottedSigns) ||
		rest != "" && strings.Trim(rest, dottedSigns) == "" || strings.HasSuffix(rest, "-") {
		return Version{}, errDotted
	}
	key := appendNumbers(make([]byte, 0, 32), numbers)
	announced := slices.Contains(earlyWords, dottedFirst(rest))
	switch {
	case rest == "":
		key = append(key, dottedFinal)
	case announced:
		key = appendDotted(append(key, dottedEarly), rest)
	case wordsFollow:
		key = appendDotted(append(key, dottedWord), rest)
	default:
		return Version{}, errors.New("only a candidate such as -rc1 may follow the numbers")
	}
	return plainVersion(string(key), s, len(numbers), announced, len(numbers) > 2 || rest != ""), nil
}

// dottedSigns may stand between the words and numbers that follow.
const dottedSigns = ".-_+~"

func dottedFirst(rest string) string {
	rest = strings.TrimLeft(rest, dottedSigns)
	n := 0
	for n < len(rest) && letter(rest[n]) {
		n++
	}
	return strings.ToLower(rest[:n])
}

// appendDotted writes words and numbers in turn, separators left out: words before numbers.
func appendDotted(key []byte, s string) []byte {
	for {
		s = strings.TrimLeft(s, dottedSigns)
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

func lineDotted(s string) (from, to string, err error) {
	numbers, rest, err := numbersOf(s)
	if err != nil || rest != "" {
		return "", "", errors.New("not a partial version")
	}
	return string(appendNumbers(nil, numbers)), string(appendNumbers(nil, bumped(numbers))), nil
}

func printDotted(key string) (text, mark string) {
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

// settleDotted: before the release come the versions that announce it.
func settleDotted(key string) string {
	_, rest, end := cutNumbers(key)
	if !end || rest != "" && rest[0] != dottedEarly {
		return key
	}
	return key[:len(key)-len(rest)] + string(rune(dottedFinal))
}
