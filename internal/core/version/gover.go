package version

import (
	"errors"
	"strings"
)

// goVersion is a Go version. Since 1.21 a bare 1.21 is a language version that
// sorts before 1.21rc1 and 1.21.0; before that 1.20 and 1.20.0 are the same.
type goVersion struct {
	numbers []string
	kind    string // "alpha", "beta", "rc" or ""
	pre     string
}

func readGo(raw string) (goVersion, error) {
	s := strings.TrimPrefix(strings.TrimSpace(raw), "go")
	numbers, rest, err := numbersOf(s)
	if err != nil {
		return goVersion{}, err
	}
	if len(numbers) > 3 {
		return goVersion{}, errors.New("more than three numbers")
	}
	v := goVersion{numbers: numbers}
	if i := strings.IndexAny(rest, "-+ "); i >= 0 { // a vendor's suffix orders nothing
		rest = rest[:i]
	}
	if rest == "" {
		return v, nil
	}
	for _, kind := range []string{"alpha", "beta", "rc"} {
		if n, ok := strings.CutPrefix(rest, kind); ok && allDigits(n) && len(n) < 200 && len(numbers) == 2 {
			v.kind, v.pre = kind, n
			return v, nil
		}
	}
	return goVersion{}, errors.New("unknown text follows the number")
}

func parseGo(raw string) (parsed, error) {
	v, err := readGo(raw)
	if err != nil {
		return parsed{}, err
	}
	text := strings.Join(v.numbers, ".")
	if v.kind != "" {
		text += v.kind + shown(v.pre)
	}
	return parsed{key: v.key(), text: text, prerelease: v.kind != "", numbers: len(v.numbers), exact: len(v.numbers) > 2 || v.kind != ""}, nil
}

func (v goVersion) key() string {
	key := make([]byte, 0, 16)
	minor, patch := "0", ""
	if len(v.numbers) > 1 {
		minor = v.numbers[1]
	}
	if len(v.numbers) > 2 {
		patch = v.numbers[2]
	}
	old := len(v.numbers) == 1 || v.numbers[0] == "1" && (len(minor) < 2 || len(minor) == 2 && minor < "21")
	if patch == "" && v.kind == "" && old {
		patch = "0"
	}
	key = appendNumber(key, v.numbers[0])
	key = appendNumber(key, minor)
	if patch == "" {
		key = append(key, tagEnd)
	} else {
		key = appendNumber(append(key, tagNumber), patch)
	}
	key = appendWord(key, v.kind)
	return string(appendNumber(key, v.pre))
}

func prefixGo(raw string) (from, to Cut, err error) {
	v, err := readGo(raw)
	if err != nil {
		return from, to, err
	}
	if v.kind != "" {
		return from, to, errors.New("not a partial version")
	}
	return goCut(v.numbers), goCut(bumped(v.numbers)), nil
}

// goCut is the place before everything of these numbers, candidates included.
func goCut(numbers []string) Cut {
	key := appendNumber(make([]byte, 0, 16), numbers[0])
	if len(numbers) > 1 {
		key = appendNumber(key, numbers[1])
	}
	if len(numbers) > 2 {
		key = appendNumber(append(key, tagNumber), numbers[2])
	}
	return Cut{key: string(key), text: strings.Join(numbers, ".")}
}

// floorGo is the key of the written numbers alone, as goCut makes it.
func floorGo(key string) string {
	rest := skipNumber(skipNumber(key))
	if rest == "\x01\x00\x00" {
		return key[:len(key)-len(rest)]
	}
	return strings.TrimSuffix(key, "\x00\x00")
}
