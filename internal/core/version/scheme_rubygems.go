package version

import (
	"errors"
	"strings"
)

// Ruby's versions: segments of digits or letters; a letter makes a prerelease, a hyphen
// stands for ".pre.". What is missing counts as zero, and letters sort before it.
//
// The key: a segment a place, by tag. Zeros are counted, since a zero is the same as
// the end unless something follows it.
const (
	gemWord      = 0x01
	gemZerosWord = 0x02 // zeros, counted, then a word
	gemEnd       = 0x03
	gemZeros     = 0x04 // zeros, counted down, then a number
	gemNumber    = 0x05
)

func readRubyGems(raw string) ([]string, error) {
	s := strings.TrimSpace(raw)
	if s == "" {
		return []string{"0"}, nil // no version is version 0, as its own library has it
	}
	if err := gemForm(s); err != nil {
		return nil, err
	}
	s = strings.ReplaceAll(s, "-", ".pre.")
	var segments []string
	for part := range strings.SplitSeq(s, ".") {
		for part != "" {
			n := 1
			for n < len(part) && digit(part[n]) == digit(part[0]) {
				n++
			}
			if n > maxDigits {
				return nil, errDigits
			}
			segments, part = append(segments, part[:n]), part[n:]
		}
	}
	return segments, nil
}

// gemForm tells whether s is a number, dotted letters and digits, and perhaps more of
// them behind a hyphen, where hyphens are letters too.
func gemForm(s string) error {
	first, rest := cutDigits(s)
	if first == "" {
		return errNumber
	}
	main, tail, hyphen := strings.Cut(rest, "-")
	if main != "" && main[0] != '.' {
		return errors.New("letters follow the first number without a point")
	}
	parts := strings.Split(main, ".")[1:]
	if main == "" {
		parts = nil
	}
	if hyphen {
		parts = append(parts, strings.Split(strings.ReplaceAll(tail, "-", "a"), ".")...)
	}
	for _, part := range parts {
		if part == "" {
			return errors.New("a part between two points is missing")
		}
		for i := range len(part) {
			if !digit(part[i]) && !letter(part[i]) {
				return errors.New("it holds other than letters, digits, points and hyphens")
			}
		}
	}
	return nil
}

func letters(s string) bool {
	for i := range len(s) {
		if !letter(s[i]) {
			return false
		}
	}
	return true
}

func parseRubyGems(raw string) (Version, error) {
	segments, err := readRubyGems(raw)
	if err != nil {
		return Version{}, err
	}
	numbers := 0
	for numbers < len(segments) && digit(segments[numbers][0]) {
		numbers++
	}
	text := strings.TrimSpace(raw)
	if text == "" {
		text = "0"
	}
	word := numbers < len(segments)
	key := appendGems(make([]byte, 0, 32), segments, numbers)
	return plainVersion(string(key), text, numbers, word, word || numbers > 2), nil
}

// appendGems writes the segments; zeros before the first word count as nothing, so
// that 1.0.a is 1.a.
func appendGems(key []byte, segments []string, numbers int) []byte {
	list := append(append([]string(nil), withoutZeros(segments[:numbers])...), withoutZeros(segments[numbers:])...)
	for i := 0; i < len(list); {
		zeros := 0
		for trimZeros(list[i]) == "" {
			zeros, i = zeros+1, i+1
		}
		word := !digit(list[i][0])
		switch {
		case zeros > 0 && word:
			key = append(key, gemZerosWord, byte(zeros))
		case zeros > 0:
			key = append(key, gemZeros, byte(255-zeros))
		}
		if word {
			key = appendWord(append(key, gemWord), list[i])
		} else {
			key = appendNumber(append(key, gemNumber), list[i])
		}
		i++
	}
	return append(key, gemEnd)
}

// withoutZeros drops the zeros at the end.
func withoutZeros(segments []string) []string {
	n := len(segments)
	for n > 0 && trimZeros(segments[n-1]) == "" {
		n--
	}
	return segments[:n]
}

func lineRubyGems(raw string) (from, to string, err error) {
	segments, err := readRubyGems(raw)
	if err != nil {
		return "", "", err
	}
	for _, s := range segments {
		if !digit(s[0]) {
			return "", "", errors.New("not a partial version")
		}
	}
	return gemNumbers(segments), gemNumbers(bumped(segments)), nil
}

// gemNumbers begins the keys of everything with these numbers.
func gemNumbers(numbers []string) string {
	key := appendGems(nil, numbers, len(numbers))
	return string(key[:len(key)-1])
}

func printRubyGems(key string) (text, mark string) {
	var segments []string
	for {
		tag, after := cutTag(key)
		switch tag {
		case gemWord:
			word, rest := cutWord(after)
			segments, key = append(segments, word), rest
		case gemNumber:
			n, rest, _ := cutNumber(after)
			segments, key = append(segments, n), rest
		case gemZeros, gemZerosWord:
			zeros, rest := cutTag(after)
			if tag == gemZeros {
				zeros = 255 - zeros
			}
			for range zeros {
				segments = append(segments, "0")
			}
			key = rest
		default:
			if len(segments) == 0 || !digit(segments[0][0]) {
				segments = append([]string{"0"}, segments...)
			}
			return strings.Join(segments, "."), starred(tag == gemEnd)
		}
	}
}

// settleRubyGems: the release of a prerelease is what stands before its first word.
func settleRubyGems(key string) string {
	rest := key
	for {
		tag, after := cutTag(rest)
		switch tag {
		case gemNumber:
			_, rest, _ = cutNumber(after)
		case gemZeros:
			_, rest = cutTag(after)
		default:
			return key[:len(key)-len(rest)] + string(rune(gemEnd))
		}
	}
}
