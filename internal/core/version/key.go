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

// maxDigits is the longest number, so that its length fits a byte of the key.
const maxDigits = 250

var (
	errNumber = errors.New("a number is missing")
	errDigits = errors.New("a number has more than 250 digits")
)

// appendNumber writes decimal digits so that byte order is numeric order: how many
// there are, then the digits, without leading zeros.
func appendNumber(key []byte, digits string) []byte {
	digits = trimZeros(digits)
	key = append(key, byte(len(digits)))
	return append(key, digits...)
}

func appendWord(key []byte, word string) []byte {
	key = append(key, word...)
	return append(key, 0)
}

// cutNumber reads what appendNumber wrote.
func cutNumber(key string) (digits, rest string, ok bool) {
	if key == "" || len(key) < 1+int(key[0]) {
		return "", key, false
	}
	end := 1 + int(key[0])
	if end == 1 {
		return "0", key[1:], true
	}
	return key[1:end], key[end:], true
}

// cutWord reads what appendWord wrote.
func cutWord(key string) (word, rest string) {
	word, rest, _ = strings.Cut(key, "\x00")
	return word, rest
}

// cutTag reads one byte of a key; 0 at its end.
func cutTag(key string) (tag byte, rest string) {
	if key == "" {
		return 0, ""
	}
	return key[0], key[1:]
}

// appendIdentifiers writes dot-separated identifiers: numbers before words, a shorter list first.
func appendIdentifiers(key []byte, list string) []byte {
	for id := range strings.SplitSeq(list, ".") {
		if allDigits(id) {
			key = appendNumber(append(key, tagNumber), id)
		} else {
			key = appendWord(append(key, tagWord), id)
		}
	}
	return append(key, tagEnd)
}

// cutIdentifiers reads what appendIdentifiers wrote.
func cutIdentifiers(key string) (list, rest string) {
	var ids []string
	for {
		tag, after := cutTag(key)
		switch id := ""; tag {
		case tagNumber:
			id, key, _ = cutNumber(after)
			ids = append(ids, id)
		case tagWord:
			id, key = cutWord(after)
			ids = append(ids, id)
		default:
			return strings.Join(ids, "."), after
		}
	}
}

// appendNumbers writes a list of numbers of any length, without trailing zeros.
func appendNumbers(key []byte, numbers []string) []byte {
	for _, n := range numbers[:significant(numbers)] {
		key = appendNumber(append(key, tagNumber), n)
	}
	return append(key, tagEnd)
}

// cutNumbers reads what appendNumbers wrote; end tells whether the list's end was there.
func cutNumbers(key string) (numbers []string, rest string, end bool) {
	for {
		tag, after := cutTag(key)
		if tag != tagNumber {
			return numbers, after, tag == tagEnd
		}
		n := ""
		n, key, _ = cutNumber(after)
		numbers = append(numbers, n)
	}
}

// significant is how many numbers stand before the trailing zeros; one at least.
func significant(numbers []string) int {
	n := len(numbers)
	for n > 1 && trimZeros(numbers[n-1]) == "" {
		n--
	}
	return n
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

func digit(c byte) bool  { return c >= '0' && c <= '9' }
func letter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

// cutDigits splits leading decimal digits off s.
func cutDigits(s string) (digits, rest string) {
	i := 0
	for i < len(s) && digit(s[i]) {
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
		if len(digits) > maxDigits {
			return nil, s, errDigits
		}
		numbers = append(numbers, shown(digits))
		if len(after) < 2 || after[0] != '.' || !digit(after[1]) {
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
	out := append(make([]string, 0, max(count, len(numbers))), numbers...)
	for len(out) < count {
		out = append(out, "0")
	}
	return strings.Join(out, ".")
}

// starred is the mark of a printed key: none for a whole one.
func starred(whole bool) string {
	if whole {
		return ""
	}
	return "*"
}

// tooLarge compares two numbers without leading zeros.
func tooLarge(n, limit string) bool {
	return len(n) > len(limit) || len(n) == len(limit) && n > limit
}

// largest63 is the largest signed number of 64 bits.
const largest63 = "9223372036854775807"

// only tells whether s holds nothing but letters, digits and the signs.
func only(s, signs string) bool {
	for i := range len(s) {
		if !digit(s[i]) && !letter(s[i]) && strings.IndexByte(signs, s[i]) < 0 {
			return false
		}
	}
	return true
}

// isWild tells whether a part of a version is a wildcard.
func isWild(s string) bool { return s == "*" || s == "x" || s == "X" }
