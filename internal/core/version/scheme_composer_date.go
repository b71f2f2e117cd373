package version

import "strings"

// composerDate reads a date as a version: 2024.01.15, 20240115-1203.
func composerDate(s string) (composerVersion, bool) {
	s = cutV(s)
	for end := len(s); end > 0; end-- { // the longest date that leaves a stability
		if !digit(s[end-1]) || !composerDateForm(s[:end]) {
			continue
		}
		v := composerVersion{numbers: strings.FieldsFunc(s[:end], func(r rune) bool { return r < '0' || r > '9' })}
		if v.written = len(v.numbers); v.readStability(s[end:]) {
			return v, true
		}
	}
	return composerVersion{}, false
}

// composerDateText writes a date with hyphens and all its digits, so that it is read as a date again.
func composerDateText(numbers []string) string {
	least := 4
	if len(numbers) == 1 {
		least = 6
	}
	date := make([]string, len(numbers))
	for i, n := range numbers {
		n = strings.Repeat("0", max(0, least-len(n))) + n
		if i < len(numbers)-1 && len(n)%2 == 1 { // only the last part may end in a single digit
			n = "0" + n
		}
		date[i], least = n, 2
	}
	return strings.Join(date, "-")
}

// composerDateForm tells whether s is four digits, one to six pairs, and up to three
// digits more, each perhaps after one of . : -
func composerDateForm(s string) bool {
	if len(s) < 4 || !allDigits(s[:4]) {
		return false
	}
	return composerPairs(s[4:], 0)
}

func composerPairs(s string, pairs int) bool {
	if pairs > 0 && composerDateEnd(s) {
		return true
	}
	if pairs == 6 || s == "" {
		return false
	}
	if strings.IndexByte(".:-", s[0]) >= 0 {
		s = s[1:]
	}
	return len(s) >= 2 && digit(s[0]) && digit(s[1]) && composerPairs(s[2:], pairs+1)
}

func composerDateEnd(s string) bool {
	if s != "" && strings.IndexByte(".:-", s[0]) >= 0 {
		s = s[1:]
		return len(s) <= 3 && allDigits(s)
	}
	return s == "" || len(s) <= 3 && allDigits(s)
}
