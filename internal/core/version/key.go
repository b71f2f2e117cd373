package version

import (
	"errors"
	"strings"
)

// The pieces of an order-preserving key. Tags are chosen so that the byte order of
// whole keys is the order of the versions; a list ends with tagEnd, which sorts
// before every element, so that a shorter list comes first.
const (
	tagEnd    = 0x01
	tagNumber = 0x02
	tagWord   = 0x03
)

var errNumber = errors.New("a number is missing")

// appendNumber writes decimal digits (any count up to 200) so that byte order is numeric order.
func appendNumber(key []byte, digits string) []byte {
	digits = trimZeros(digits)
	key = append(key, byte(len(digits)))
	return append(key, digits...)
}

func appendWord(key []byte, word string) []byte {
	key = append(key, word...)
	return append(key, 0)
}

// trimZeros drops leading zeros; zero itself becomes "".
func trimZeros(digits string) string {
	for digits != "" && digits[0] == '0' {
		digits = digits[1:]
	}
	return digits
}

// shown is a number as printed: without leading zeros.
func shown(digits string) string {
	if d := trimZeros(digits); d != "" {
		return d
	}
	return "0"
}

// cutDigits splits leading decimal digits off s.
func cutDigits(s string) (digits, rest string) {
	i := 0
	for i < len(s) && s[i] >= '0' && s[i] <= '9' {
		i++
	}
	return s[:i], s[i:]
}

func allDigits(s string) bool {
	digits, rest := cutDigits(s)
	return digits != "" && rest == ""
}

// numbersOf reads "1.2.3", one number at least; rest starts after the last number.
func numbersOf(s string) (numbers []string, rest string, err error) {
	numbers = make([]string, 0, 4)
	for {
		digits, after := cutDigits(s)
		if digits == "" {
			return nil, s, errNumber
		}
		if len(digits) > 200 {
			return nil, s, errors.New("a number has more than 200 digits")
		}
		numbers = append(numbers, shown(digits))
		if len(after) < 2 || after[0] != '.' || after[1] < '0' || after[1] > '9' {
			return numbers, after, nil
		}
		s = after[1:]
	}
}

// next adds one to a decimal number of any length.
func next(digits string) string {
	b := []byte(digits)
	for i := len(b) - 1; i >= 0; i-- {
		if b[i] < '9' {
			b[i]++
			return string(b)
		}
		b[i] = '0'
	}
	return "1" + string(b)
}

// bumped is the numbers with one added to the last.
func bumped(numbers []string) []string {
	out := append([]string(nil), numbers...)
	out[len(out)-1] = next(out[len(out)-1])
	return out
}

// padded fills the numbers with zeros up to count and joins them.
func padded(numbers []string, count int) string {
	out := append([]string(nil), numbers...)
	for len(out) < count {
		out = append(out, "0")
	}
	return strings.Join(out, ".")
}

// skipNumber cuts a number that appendNumber wrote off a key; "" where there is none.
func skipNumber(key string) string {
	if key == "" || len(key) < 1+int(key[0]) {
		return ""
	}
	return key[1+int(key[0]):]
}

// skipNumbers cuts a tagged list of numbers with its end off a key.
func skipNumbers(key string) string {
	for key != "" && key[0] == tagNumber {
		key = skipNumber(key[1:])
	}
	return strings.TrimPrefix(key, string(rune(tagEnd)))
}
