package version

import (
	"errors"
	"strings"
)

// Java's versions in the form since Java 9, 17.0.9+9, and in the old one: 1.8.0_292-b10
// is 8.0.292+10, and so is 8u292-b10. What follows the build number orders nothing.
//
// The key: the numbers without trailing zeros, then a prerelease (numbers before
// words) or javaFinal, then the build number or its absence.
type javaVersion struct {
	numbers    []string
	pre, build string
}

const (
	javaNumericPre = 1
	javaWordPre    = 2
	javaFinal      = 9
)

var errJava = errors.New("it follows neither the new form (17.0.9+9) nor the old one (1.8.0_292)")

func readJava(raw string) (javaVersion, error) {
	s := strings.TrimSpace(raw)
	numbers, rest, err := numbersOf(s)
	if err != nil {
		return javaVersion{}, err
	}
	v := javaVersion{numbers: numbers}
	switch {
	case len(numbers) > 1 && numbers[0] == "1":
		v.numbers = numbers[1:] // 1.8.0 is 8.0
		rest, err = v.readUpdate(rest, "_")
	case len(numbers) == 1 && strings.HasPrefix(rest, "u"):
		v.numbers = append(v.numbers, "0")
		rest, err = v.readUpdate(rest, "u")
	}
	if err != nil {
		return v, err
	}
	if v.numbers[0] == "0" || v.numbers[0] == "1" {
		return v, errors.New("the first versions, 1.0 and 1.1, are not told apart from others")
	}
	return v, v.readRest(rest)
}

// readUpdate reads the old form's update number: _292 or u292.
func (v *javaVersion) readUpdate(s, mark string) (string, error) {
	rest, ok := strings.CutPrefix(s, mark)
	if !ok {
		return s, nil
	}
	update, rest := cutDigits(rest)
	if update == "" || len(update) > maxDigits {
		return s, errJava
	}
	for len(v.numbers) < 2 {
		v.numbers = append(v.numbers, "0")
	}
	v.numbers = append(v.numbers, shown(update))
	if build, after, ok := javaOldBuild(rest); ok {
		v.build, rest = build, after
	}
	return rest, nil
}

// javaOldBuild reads -b10 or b10.
func javaOldBuild(s string) (build, rest string, ok bool) {
	s = strings.TrimPrefix(s, "-")
	if len(s) < 2 || s[0] != 'b' || !digit(s[1]) {
		return "", s, false
	}
	build, rest = cutDigits(s[1:])
	return shown(build), rest, len(build) <= maxDigits
}

// readRest reads [-PRE][+BUILD][-OPTIONAL] and the old form's -ea-b10.
func (v *javaVersion) readRest(s string) error {
	if word, ok := strings.CutPrefix(s, "-"); ok {
		n := 0
		for n < len(word) && (digit(word[n]) || letter(word[n])) {
			n++
		}
		v.pre, s = word[:n], word[n:]
		if n == 0 || n > maxDigits {
			return errJava
		}
		if strings.EqualFold(v.pre, "lts") || strings.EqualFold(v.pre, "ga") { // says of a release what it is
			v.pre = ""
		}
		if build, rest, ok := javaOldBuild(s); ok && v.build == "" {
			v.build, s = build, rest
		}
	}
	if build, ok := strings.CutPrefix(s, "+"); ok && v.build == "" {
		digits, rest := cutDigits(build)
		if len(digits) > maxDigits || digits == "" && (v.pre != "" || !strings.HasPrefix(rest, "-")) {
			return errJava
		}
		if s = rest; digits != "" {
			v.build = shown(digits)
		}
	}
	if s == "" || s[0] == '-' && len(s) > 1 && only(s, "-.") {
		return nil
	}
	return errJava
}

func parseJava(raw string) (Version, error) {
	v, err := readJava(raw)
	if err != nil {
		return Version{}, err
	}
	return plainVersion(v.key(), v.text(), len(v.numbers), v.pre != "", v.build != "" || v.pre != ""), nil
}

func (v javaVersion) text() string {
	text := strings.Join(v.numbers, ".")
	if v.pre != "" {
		text += "-" + v.pre
	}
	if v.build != "" {
		text += "+" + v.build
	}
	return text
}

func (v javaVersion) base() []byte { return appendNumbers(make([]byte, 0, 32), v.numbers) }

// key orders by numbers, then prereleases before the release, then the build number.
func (v javaVersion) key() string {
	key := v.base()
	switch {
	case v.pre == "":
		key = append(key, javaFinal)
	case allDigits(v.pre):
		key = appendNumber(append(key, javaNumericPre), v.pre)
	default:
		key = appendWord(append(key, javaWordPre), v.pre)
	}
	if v.build == "" {
		return string(append(key, tagEnd))
	}
	return string(appendNumber(append(key, tagNumber), v.build))
}

// lineJava: a pin without a build number means every build of that number and
// every patch below it.
func lineJava(raw string) (from, to string, err error) {
	v, err := readJava(raw)
	if err != nil {
		return "", "", err
	}
	if v.pre != "" || v.build != "" {
		return "", "", errors.New("not a partial version")
	}
	return string(v.base()), string(javaVersion{numbers: bumped(v.numbers)}.base()), nil
}

func printJava(key string) (text, mark string) {
	v := javaVersion{}
	v.numbers, key, _ = cutNumbers(key)
	tag, key := cutTag(key)
	switch tag {
	case javaNumericPre:
		v.pre, key, _ = cutNumber(key)
	case javaWordPre:
		v.pre, key = cutWord(key)
	}
	if build, after := cutTag(key); build == tagNumber {
		v.build, _, _ = cutNumber(after)
	}
	return v.text(), starred(tag != 0)
}

func settleJava(key string) string {
	_, rest, end := cutNumbers(key)
	if !end || rest != "" && rest[0] == javaFinal {
		return key
	}
	return key[:len(key)-len(rest)] + "\x09\x01"
}
