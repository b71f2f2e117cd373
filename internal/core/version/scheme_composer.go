package version

import (
	"errors"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Composer's versions, for PHP: up to four numbers, or a date, with a stability (dev,
// alpha, beta, RC, patch) and its numbers; and branches (dev-main), which are in no
// order and equal only to themselves.
//
// The key: numbers and stabilities in turn as PHP compares them, an end where nothing
// follows; a branch is composerBranch and its name.
const (
	composerBranch = 0x00
	composerDev    = 0x01
	composerAlpha  = 0x02
	composerBeta   = 0x03
	composerRC     = 0x04
	composerEnd    = 0x05
	composerNumber = 0x06
	composerPatch  = 0x07
)

// composerVersion is a version as Composer normalises it.
type composerVersion struct {
	numbers   []string
	stability byte     // 0 where none is given
	serial    []string // the numbers behind it
	behind    byte     // a stability that a range adds behind a patch
	dev       bool
	branch    string
	written   int // how many numbers were written
}

var errComposer = errors.New("it is not a version as Composer normalises them")

func parseComposer(raw string) (Version, error) {
	v, err := readComposer(raw)
	if err != nil {
		return Version{}, err
	}
	return v.version(), nil
}

func (v composerVersion) version() Version {
	out := Version{scheme: Composer, text: v.text(), numbers: uint8(v.written)}
	switch {
	case v.branch != "":
		out.class, out.exact = third, true
	case v.stability != 0 && v.stability < composerEnd || v.dev:
		out.class, out.prerelease = early, true
	}
	out.exact = out.exact || v.written > 2 || v.stability != 0 || v.dev
	out.key = v.key()
	out.ordered = uint16(len(out.key))
	return out
}

func (v composerVersion) key() string {
	if v.branch != "" {
		return string(appendWord([]byte{composerBranch}, v.branch))
	}
	key := make([]byte, 0, 32)
	number := func(n string) { key = appendNumber(append(key, composerNumber), saturated(n)) }
	for _, n := range v.numbers {
		number(n)
	}
	if v.stability != 0 {
		key = append(key, v.stability)
		for _, n := range v.serial {
			number(n)
		}
	}
	if v.behind != 0 {
		key = append(key, v.behind)
	}
	if v.dev {
		key = append(key, composerDev)
	}
	return string(append(key, composerEnd))
}

// saturated is a number as PHP reads it: none is greater than the largest integer.
func saturated(n string) string {
	if n = shown(n); tooLarge(n, largest63) {
		return largest63
	}
	return n
}

var composerStabilities = map[byte]string{composerDev: "dev", composerAlpha: "alpha", composerBeta: "beta", composerRC: "RC", composerPatch: "patch"}

func (v composerVersion) text() string {
	if v.branch != "" {
		return "dev-" + v.branch
	}
	text := strings.Join(v.numbers, ".")
	if len(v.numbers) != 4 {
		text = composerDateText(v.numbers)
	}
	if v.stability != 0 {
		text += "-" + composerStabilities[v.stability] + strings.Join(v.serial, ".")
	}
	if v.behind != 0 {
		text += "-" + composerStabilities[v.behind]
	}
	if v.dev {
		text += "-dev"
	}
	return text
}

func readComposer(raw string) (composerVersion, error) {
	s := strings.TrimSpace(raw)
	s = cutComposerAlias(s)
	s = cutComposerStability(s)
	if s == "master" || s == "trunk" || s == "default" {
		s = "dev-" + s
	}
	if len(s) >= 4 && strings.EqualFold(s[:4], "dev-") {
		if !branchName(s[4:]) {
			return composerVersion{}, errors.New("the name of a branch is missing, or holds a sign that git allows in none")
		}
		return composerVersion{branch: s[4:]}, nil
	}
	if before, build, ok := strings.Cut(s, "+"); ok && before != "" && build != "" && !strings.ContainsAny(before, ", \t") && !strings.ContainsAny(build, " \t") {
		s = before
	}
	if v, ok := composerClassical(s); ok {
		return v, nil
	}
	if v, ok := composerDate(s); ok {
		return v, nil
	}
	if len(s) >= 3 && strings.EqualFold(s[len(s)-3:], "dev") {
		name := s[:len(s)-3]
		if name != "" && strings.HasSuffix(name, ".") || strings.HasSuffix(name, "-") {
			name = name[:len(name)-1]
		}
		if v, ok := composerNumericBranch(name); ok {
			return v, nil
		}
	}
	return composerVersion{}, errComposer
}

// branchName tells whether git allows the name, and ranges cannot be confused by it.
func branchName(name string) bool {
	if name == "" || !utf8.ValidString(name) || strings.ContainsAny(name, "~^:?*[\\=<>|;,") {
		return false
	}
	return strings.IndexFunc(name, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }) < 0
}

// cutComposerAlias cuts " as 1.0" off.
func cutComposerAlias(s string) string {
	fields := strings.Fields(s)
	if len(fields) == 3 && fields[1] == "as" && !strings.Contains(s, ",") {
		return fields[0]
	}
	return s
}

// cutComposerStability cuts @beta and its like off.
func cutComposerStability(s string) string {
	at := strings.LastIndexByte(s, '@')
	if at < 0 || !composerFlag(s[at+1:]) {
		return s
	}
	return s[:at]
}

// cutV cuts one v off, small or large.
func cutV(s string) string {
	if s != "" && s[0]|0x20 == 'v' {
		return s[1:]
	}
	return s
}

func composerFlag(word string) bool {
	switch strings.ToLower(word) {
	case "stable", "rc", "beta", "alpha", "dev":
		return true
	}
	return false
}

// composerClassical reads one to four numbers and a stability.
func composerClassical(s string) (composerVersion, bool) {
	s = cutV(s)
	v := composerVersion{}
	for len(v.numbers) < 4 {
		digits, rest := cutDigits(s)
		if digits == "" || len(v.numbers) == 0 && len(digits) > 5 || len(digits) > maxDigits {
			return v, false
		}
		v.numbers, s = append(v.numbers, digits), rest
		if len(s) < 2 || s[0] != '.' || !digit(s[1]) || len(v.numbers) == 4 {
			break
		}
		s = s[1:]
	}
	v.written = len(v.numbers)
	for len(v.numbers) < 4 {
		v.numbers = append(v.numbers, "0")
	}
	return v, v.readStability(s)
}

var composerWords = [...]struct {
	word string
	tag  byte
}{{"stable", composerEnd}, {"beta", composerBeta}, {"b", composerBeta}, {"rc", composerRC}, {"alpha", composerAlpha}, {"a", composerAlpha},
	{"patch", composerPatch}, {"pl", composerPatch}, {"p", composerPatch}}

// readStability reads what may follow the numbers, all of it: -beta.1, RC2, -dev.
func (v *composerVersion) readStability(s string) bool {
	lower := strings.ToLower(s)
	at := lower
	if at != "" && separator(at[0]) {
		at = at[1:]
	}
	for _, w := range composerWords {
		rest, ok := strings.CutPrefix(at, w.word)
		if !ok {
			continue
		}
		serial, rest := composerSerial(rest)
		if dev, ok := composerDevEnd(rest); ok {
			if w.tag == composerEnd { // "stable" says nothing, and its number neither
				return true
			}
			v.stability, v.serial, v.dev = w.tag, serial, dev
			return true
		}
	}
	if at != lower && (at == "") { // a lone separator
		return true
	}
	dev, ok := composerDevEnd(lower)
	if !ok {
		dev, ok = composerDevEnd(at)
	}
	v.dev = dev
	return ok
}

func composerSerial(s string) (serial []string, rest string) {
	for {
		at := s
		if at != "" && (at[0] == '.' || at[0] == '-') {
			at = at[1:]
		}
		digits, after := cutDigits(at)
		if digits == "" || len(digits) > maxDigits {
			return serial, s
		}
		serial, s = append(serial, digits), after
	}
}

// composerDevEnd tells whether s is empty or dev, perhaps after a point or a hyphen.
func composerDevEnd(s string) (dev, ok bool) {
	if s == "" {
		return false, true
	}
	if s[0] == '.' || s[0] == '-' {
		s = s[1:]
	}
	return s == "dev", s == "dev"
}

// composerNumericBranch reads 1.2.x as a branch of numbers: the parts that are missing count as the largest.
func composerNumericBranch(name string) (composerVersion, bool) {
	name = strings.TrimSpace(name)
	name = cutV(name)
	parts := strings.Split(name, ".")
	if len(parts) > 4 || !allDigits(parts[0]) {
		return composerVersion{}, false
	}
	v := composerVersion{dev: true, written: len(parts)}
	for _, part := range parts {
		switch {
		case part == "x" || part == "X" || part == "*":
			part = "9999999"
		case !allDigits(part) || len(part) > maxDigits:
			return composerVersion{}, false
		}
		v.numbers = append(v.numbers, part)
	}
	for len(v.numbers) < 4 {
		v.numbers = append(v.numbers, "9999999")
	}
	return v, true
}

func lineComposer(raw string) (from, to string, err error) {
	v, err := readComposer(raw)
	if err != nil {
		return "", "", err
	}
	if v.branch != "" || v.stability != 0 || v.dev || v.written == 0 {
		return "", "", errors.New("not a partial version")
	}
	return composerLine(v.numbers[:v.written]), composerLine(bumped(v.numbers[:v.written])), nil
}

// composerLine begins the keys of everything from these numbers on, development versions included.
func composerLine(numbers []string) string {
	v := composerVersion{numbers: append([]string(nil), numbers...)}
	for len(v.numbers) < 4 {
		v.numbers = append(v.numbers, "0")
	}
	key := v.key()
	return key[:len(key)-1]
}

func printComposer(key string) (text, mark string) {
	if name, ok := strings.CutPrefix(key, string(rune(composerBranch))); ok {
		branch, _ := cutWord(name)
		return "dev-" + branch, ""
	}
	v := composerVersion{}
	into := &v.numbers
	for {
		tag, after := cutTag(key)
		switch tag {
		case composerNumber:
			n := ""
			n, key, _ = cutNumber(after)
			*into = append(*into, n)
			continue
		case composerDev:
			v.dev = true
		case 0, composerEnd:
			return v.shown(), starred(tag != 0)
		default:
			if v.stability != 0 {
				v.behind = tag
			} else {
				v.stability, into = tag, &v.serial
			}
		}
		key = after
	}
}

// shown is the text without the fourth number where it says nothing.
func (v composerVersion) shown() string {
	text := v.text()
	if len(v.numbers) != 4 || v.numbers[3] != "0" {
		return text
	}
	number := strings.Join(v.numbers, ".")
	return strings.TrimSuffix(number, ".0") + text[len(number):]
}

// settleComposer: what announces a release of four numbers stands before it.
func settleComposer(key string) string {
	rest, count := key, 0
	for rest != "" && rest[0] == composerNumber {
		_, rest, _ = cutNumber(rest[1:])
		count++
	}
	if count == 4 && (rest == "" || rest[0] < composerEnd) {
		return key[:len(key)-len(rest)] + string(rune(composerEnd))
	}
	return key
}
