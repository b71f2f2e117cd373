package version

import (
	"errors"
	"strings"
)

// Python's versions: [epoch!]1.2.3[a1][.post1][.dev1][+local], in all spellings that
// Python's packaging rules normalise.
//
// The key: the epoch, the release numbers without trailing zeros, a byte for the phase
// (in development, prerelease, final), the post-release, the development number, the
// local part; behind the ordered part how many release numbers were written, which
// tells 1.0 from 1.0.0 where a range asks for a spelling (===).
const (
	pepDev   = 1
	pepPre   = 2
	pepFinal = 3

	pepLast = 2 // places a development number that is missing after all others
)

var (
	errPEP440      = errors.New("it does not follow Python's version rules")
	errPEP440Local = errors.New("the local part holds other than letters, digits and separators")
)

// pep440Version is the parts of one version, normalised.
type pep440Version struct {
	epoch       string
	release     []string
	pre, preNum string // "a", "b" or "rc"; "" where there is none
	post, dev   string // numbers; "" where there is none
	local       string
}

func parsePEP440(raw string) (Version, error) {
	v, err := readPEP440(raw)
	if err != nil {
		return Version{}, err
	}
	return v.version(), nil
}

func (v pep440Version) version() Version {
	order := v.key()
	pre := v.prerelease()
	return Version{
		scheme: PEP440, key: string(append(order, byte(len(v.release)))), ordered: uint16(len(order)), text: v.text(), class: v.class(),
		prerelease: pre, numbers: uint8(len(v.release)), exact: len(v.release) > 2 || pre || v.post != "" || v.local != "",
	}
}

func (v pep440Version) prerelease() bool { return v.pre != "" || v.dev != "" }

func (v pep440Version) class() class {
	c := released
	switch {
	case v.local != "":
		c = fifth
	case v.post != "":
		c = third
	}
	if v.prerelease() {
		c++
	}
	return c
}

func readPEP440(raw string) (pep440Version, error) {
	s := strings.ToLower(strings.TrimSpace(raw))
	s = strings.TrimPrefix(s, "v")
	v := pep440Version{epoch: "0"}
	if epoch, rest := cutDigits(s); epoch != "" && rest != "" && rest[0] == '!' {
		v.epoch, s = shown(epoch), rest[1:]
	}
	var err error
	if v.release, s, err = numbersOf(s); err != nil {
		return v, err
	}
	if len(v.release) > 100 {
		return v, errors.New("more than 100 numbers")
	}
	s = v.readPre(s)
	s = v.readPost(s)
	s = v.readDev(s)
	if s == "" {
		return v, nil
	}
	if s[0] != '+' {
		return v, errPEP440
	}
	v.local, err = pep440Local(s[1:])
	return v, err
}

// pep440Words are the spellings of prereleases, longer ones before what they begin with.
var pep440Words = [...]struct{ word, means string }{
	{"alpha", "a"}, {"a", "a"}, {"beta", "b"}, {"b", "b"}, {"preview", "rc"}, {"pre", "rc"}, {"c", "rc"}, {"rc", "rc"},
}

func (v *pep440Version) readPre(s string) string {
	at := skipSeparator(s)
	for _, w := range pep440Words {
		if rest, ok := strings.CutPrefix(at, w.word); ok {
			v.pre = w.means
			v.preNum, s = cutDigits(skipSeparator(rest))
			v.preNum = shown(v.preNum)
			return s
		}
	}
	return s
}

func (v *pep440Version) readPost(s string) string {
	if len(s) > 1 && s[0] == '-' && digit(s[1]) { // 1.0-1
		v.post, s = cutDigits(s[1:])
		v.post = shown(v.post)
		return s
	}
	at := skipSeparator(s)
	for _, word := range []string{"post", "rev", "r"} {
		if rest, ok := strings.CutPrefix(at, word); ok {
			v.post, s = cutDigits(skipSeparator(rest))
			v.post = shown(v.post)
			return s
		}
	}
	return s
}

func (v *pep440Version) readDev(s string) string {
	rest, ok := strings.CutPrefix(skipSeparator(s), "dev")
	if !ok {
		return s
	}
	v.dev, s = cutDigits(skipSeparator(rest))
	v.dev = shown(v.dev)
	return s
}

func separator(c byte) bool { return c == '.' || c == '-' || c == '_' }

func skipSeparator(s string) string {
	if s != "" && separator(s[0]) {
		return s[1:]
	}
	return s
}

func pep440Local(s string) (string, error) {
	var b strings.Builder
	for start := 0; ; {
		end := start
		for end < len(s) && (digit(s[end]) || letter(s[end])) {
			end++
		}
		if part := s[start:end]; part == "" {
			return "", errPEP440Local
		} else if allDigits(part) {
			b.WriteString(shown(part))
		} else {
			b.WriteString(part)
		}
		if end == len(s) {
			return b.String(), nil
		}
		if !separator(s[end]) {
			return "", errPEP440Local
		}
		b.WriteByte('.')
		start = end + 1
	}
}

func (v pep440Version) text() string {
	var buffer [64]byte
	b := buffer[:0]
	if v.epoch != "0" {
		b = append(append(b, v.epoch...), '!')
	}
	for i, n := range v.release {
		if i > 0 {
			b = append(b, '.')
		}
		b = append(b, n...)
	}
	if v.pre != "" {
		b = append(append(b, v.pre...), v.preNum...)
	}
	if v.post != "" {
		b = append(append(b, ".post"...), v.post...)
	}
	if v.dev != "" {
		b = append(append(b, ".dev"...), v.dev...)
	}
	if v.local != "" {
		b = append(append(b, '+'), v.local...)
	}
	return string(b)
}

// base is the key of epoch and release; everything of that release begins with it.
func (v pep440Version) base() []byte {
	return appendNumbers(appendNumber(make([]byte, 0, 48), v.epoch), v.release)
}

// public is the key without the local part; the version's local builds begin with it.
func (v pep440Version) public() []byte {
	key := v.base()
	switch {
	case v.pre == "" && v.post == "" && v.dev != "":
		key = append(key, pepDev)
	case v.pre != "":
		key = appendNumber(append(key, pepPre, v.pre[0]), v.preNum)
	default:
		key = append(key, pepFinal)
	}
	key = appendOptional(key, v.post, 1, 2)
	return appendOptional(key, v.dev, pepLast, 1)
}

func (v pep440Version) key() []byte {
	key := v.public()
	if v.local == "" {
		return append(key, 0)
	}
	key = append(key, 1)
	for part := range strings.SplitSeq(v.local, ".") { // numbers sort after words
		if allDigits(part) {
			key = appendNumber(append(key, tagWord), part)
		} else {
			key = appendWord(append(key, tagNumber), part)
		}
	}
	return append(key, tagEnd)
}

// appendOptional writes a number that may be missing, with the tags that place either.
func appendOptional(key []byte, number string, none, some byte) []byte {
	if number == "" {
		return append(key, none)
	}
	return appendNumber(append(key, some), number)
}

func linePEP440(raw string) (from, to string, err error) {
	v, err := readPEP440(raw)
	if err != nil {
		return "", "", err
	}
	if v.prerelease() || v.post != "" || v.local != "" {
		return "", "", errors.New("not a partial version")
	}
	return string(v.base()), string(pep440Version{epoch: v.epoch, release: bumped(v.release)}.base()), nil
}

// printPEP440 prints three numbers at least, so that ranges from files and from
// manifests read alike; a spelling as it is.
func printPEP440(key string) (text, mark string) {
	v := pep440Version{}
	v.epoch, key, _ = cutNumber(key)
	v.release, key, _ = cutNumbers(key)
	key, mark = v.readKey(key)
	count := 3
	if mark == "=" {
		count = int(key[0])
	}
	v.release = strings.Split(padded(v.release, count), ".")
	return v.text(), mark
}

// readKey reads what follows the release numbers in a key, and says what is missing of it.
func (v *pep440Version) readKey(key string) (rest, mark string) {
	tag, key := cutTag(key)
	switch tag {
	case 0:
		return "", "*"
	case pepPre:
		v.pre, key = key[:1], key[1:]
		if v.pre == "r" {
			v.pre = "rc"
		}
		v.preNum, key, _ = cutNumber(key)
	}
	if tag, key = cutTag(key); tag == 0 {
		return "", "*"
	} else if tag == 2 {
		v.post, key, _ = cutNumber(key)
	}
	if tag, key = cutTag(key); tag == 0 {
		return "", "*"
	} else if tag == 1 {
		v.dev, key, _ = cutNumber(key)
	}
	if key == "" {
		return "", "+*"
	}
	if tag, key = cutTag(key); tag == 1 {
		v.local, key = cutPEP440Local(key)
	}
	if key == "" {
		return "", ""
	}
	return key, "="
}

func cutPEP440Local(key string) (local, rest string) {
	var parts []string
	for {
		part := ""
		switch tag, after := cutTag(key); tag {
		case tagWord:
			part, key, _ = cutNumber(after)
		case tagNumber:
			part, key = cutWord(after)
		default:
			return strings.Join(parts, "."), after
		}
		parts = append(parts, part)
	}
}

func settlePEP440(key string) string {
	_, rest, _ := cutNumber(key)
	_, rest, end := cutNumbers(rest)
	if !end {
		return key
	}
	return key[:len(key)-len(rest)] + "\x03\x01\x02\x00" // final, no post-release, no development, no local part
}

// spelling is the version in one spelling only.
func (v Version) spelling() Interval {
	return Interval{v.scheme.before(v.key), v.scheme.after(v.key)}
}
