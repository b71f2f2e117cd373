package version

import "strings"

// Erlang's versions: any number of numbers (27.0.1, a branch 26.2.5.3), a candidate
// behind a hyphen (28.0-rc1). Missing numbers count as zero. The old R16B03-1 is read as
// 16.1.3.1: its letter counts as a number.
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

func lineErlang(raw string) (from, to string, err error) {
	return lineDotted(strings.TrimPrefix(strings.TrimSpace(raw), "OTP-"))
}

func printErlang(key string) (text, mark string) { return printDotted(key) }

func settleErlang(key string) string { return settleDotted(key) }
