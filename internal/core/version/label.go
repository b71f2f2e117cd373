package version

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Labelled is a version's text taken apart: the number, and what stands before and
// after it. Before + Number + After is the text again.
type Labelled struct {
	Before string // "temurin-", "v"
	Number string // "17.0.2"
	After  string // "-jdk-jammy", "-otp-27"
}

func (l Labelled) String() string { return l.Before + l.Number + l.After }

// LabelKind is what a label says.
type LabelKind uint8

// The kinds of labels. What is none of the others is a vendor's name, or unknown.
const (
	OtherLabel   LabelKind = iota
	Architecture           // amd64, arm64
	KitLabel               // a kit to build with: jdk, sdk
	RuntimeLabel           // a runtime only: jre
	BuiltAgainst           // another tool and its version: otp-27
	SystemLabel            // the operating system below: alpine3.19, linux
)

// Label is one word before or after a number.
type Label struct {
	Kind LabelKind
	Text string // as written
	Tool string // for BuiltAgainst: otp
	Of   string // for BuiltAgainst: 27; for Architecture: its usual name
}

var errNoVersion = errors.New("no number is in it")

// Separate finds the number in a text with labels, as the scheme writes numbers. What
// announces a release (rc1, -beta.2, -ea) belongs to the number; other words do not.
func Separate(s Scheme, raw string) (Labelled, error) {
	if len(raw) > MaxLength {
		return Labelled{}, fmt.Errorf("text of %d bytes is longer than %d", len(raw), MaxLength)
	}
	for _, loose := range []bool{false, true} { // "openj9-17": a whole word before "go1.22": the end of one
		for at := range len(raw) {
			if !startsNumber(raw, at, loose) {
				continue
			}
			for _, end := range []int{at + len(numberAt(raw[at:])), at + len(coreAt(raw[at:]))} {
				if _, err := parsePlain(s, raw[at:end]); err == nil {
					return Labelled{raw[:at], raw[at:end], raw[end:]}, nil
				}
			}
		}
	}
	return Labelled{}, errNoVersion
}

// startsNumber tells whether a number can start at a place: at the beginning or after
// a separator, a v between them allowed; loosely also behind letters.
func startsNumber(raw string, at int, loose bool) bool {
	if !digit(raw[at]) {
		return false
	}
	if at == 0 {
		return true
	}
	c := raw[at-1]
	switch {
	case digit(c), c == '.':
		return false
	case letter(c):
		v := c == 'v' && (at == 1 || labelSeparator(raw[at-2]))
		return v || loose
	}
	return labelSeparator(c) || c == '='
}

func labelSeparator(c byte) bool { return strings.IndexByte("-_@ /:+=", c) >= 0 }

// coreAt is the dotted numbers that the text begins with, wildcards included.
func coreAt(text string) string {
	n := 0
	for n < len(text) {
		digits, _ := cutDigits(text[n:])
		if digits == "" {
			if isWild(text[n:n+1]) && (n+1 == len(text) || !letter(text[n+1]) && !digit(text[n+1])) {
				n++
			}
			break
		}
		if n += len(digits); n+1 >= len(text) || text[n] != '.' || !digit(text[n+1]) && !isWild(text[n+1:n+2]) {
			break
		}
		n++
	}
	return strings.TrimSuffix(text[:n], ".")
}

// numberAt is the number that the text begins with: numbers, an update, what announces
// a release, a build.
func numberAt(text string) string {
	n := len(coreAt(text))
	if n < len(text) && text[n] == '!' { // an epoch
		n += 1 + len(coreAt(text[n+1:]))
	}
	for n < len(text) {
		more := announcementAt(text[n:])
		if more == 0 {
			break
		}
		n += more
	}
	return text[:n]
}

// announcements are the words that belong to a number, with a number behind them or not.
var announcements = []string{"alpha", "beta", "dev", "ea", "milestone", "nightly", "post", "preview", "pre", "rc", "snapshot", "cr", "b", "a", "c", "m", "u", "r", "p"}

// announcementAt is the length of a word and number that announce a release or name a
// build, at the beginning of the text; 0 where there is none.
func announcementAt(text string) int {
	n := 0
	if strings.IndexByte(".-_+", text[0]) >= 0 {
		n = 1
	}
	if rest := text[n:]; rest != "" && digit(rest[0]) { // _292, +9
		if text[0] != '_' && text[0] != '+' {
			return 0
		}
		digits, _ := cutDigits(rest)
		return n + len(digits)
	}
	for _, word := range announcements {
		rest, ok := cutFold(text[n:], word)
		if !ok || rest != "" && letter(rest[0]) {
			continue
		}
		digits := strings.TrimLeft(rest, ".-")
		if len(rest)-len(digits) > 1 || digits == "" || !digit(digits[0]) {
			digits = rest
		}
		number, after := cutDigits(digits)
		if number == "" && len(word) == 1 {
			continue // one letter counts with a number only
		}
		if number == "" {
			after = rest
		}
		return len(text) - len(after)
	}
	return 0
}

// cutFold cuts a word of ASCII letters off, small or large.
func cutFold(text, word string) (rest string, ok bool) {
	if len(text) < len(word) || !strings.EqualFold(text[:len(word)], word) {
		return text, false
	}
	return text[len(word):], true
}

// Labels are the words before and after the number, each with what it says. A v, an
// equals sign and separators alone say nothing. Systems are the names of distributions and
// of their releases, which stand for the system below.
func (l Labelled) Labels(systems ...string) []Label {
	w := words{systems}
	return append(w.labelsIn(l.Before), w.labelsIn(l.After)...)
}

// words tells what words say.
type words struct{ systems []string }

func (w words) labelsIn(side string) []Label {
	var out []Label
	words := strings.FieldsFunc(side, func(r rune) bool { return r != '_' && r < 128 && labelSeparator(byte(r)) })
	for n := 0; n < len(words); n++ {
		word := strings.Trim(words[n], "_.")
		switch {
		case word == "" || strings.EqualFold(word, "v"):
		case n+1 < len(words) && letters(word) && w.kindOf(strings.ToLower(word)) == OtherLabel && digit(words[n+1][0]) && words[n+1] != "386":
			out = append(out, Label{Kind: BuiltAgainst, Text: word + "-" + words[n+1], Tool: strings.ToLower(word), Of: words[n+1]}) // otp-27
			n++
		default:
			out = append(out, w.labelOf(word))
		}
	}
	return out
}

// labelKinds are the words that the whole trade uses for systems and kinds of packages.
var labelKinds = map[string]LabelKind{
	"jdk": KitLabel, "sdk": KitLabel, "devel": KitLabel, "kit": KitLabel,
	"jre": RuntimeLabel, "runtime": RuntimeLabel,
	"linux": SystemLabel, "darwin": SystemLabel, "macos": SystemLabel, "windows": SystemLabel, "win": SystemLabel, "musl": SystemLabel, "glibc": SystemLabel,
}

// architectures are the names of processors, each with the one that Wexo uses.
var architectures = map[string]string{
	"amd64": "amd64", "x64": "amd64", "x86_64": "amd64", "arm64": "arm64", "aarch64": "arm64", "x86": "386", "i386": "386", "i686": "386", "386": "386",
	"arm": "arm", "armhf": "arm", "armv6": "arm", "armv7": "arm", "armv7l": "arm", "ppc64le": "ppc64le", "s390x": "s390x", "riscv64": "riscv64", "universal": "universal",
}

func (w words) labelOf(word string) Label {
	lower := strings.ToLower(word)
	if name, ok := architectures[lower]; ok {
		return Label{Kind: Architecture, Text: word, Of: name}
	}
	return Label{Kind: w.kindOf(lower), Text: word}
}

func (w words) kindOf(lower string) LabelKind {
	if kind, ok := labelKinds[lower]; ok {
		return kind
	}
	name := strings.TrimRight(lower, "0123456789.") // alpine3.19
	if labelKinds[name] == SystemLabel || slices.Contains(w.systems, name) {
		return SystemLabel
	}
	return OtherLabel
}
