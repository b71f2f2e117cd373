package version

import (
	"errors"
	"regexp"
	"strings"
)

// pep440Form is the form that Python's packaging rules accept, all spellings included.
var pep440Form = regexp.MustCompile(`(?i)^\s*v?(?:(\d+)!)?(\d+(?:\.\d+)*)` +
	`(?:[-_.]?(alpha|a|beta|b|preview|pre|c|rc)[-_.]?(\d+)?)?` +
	`(?:(?:-(\d+))|(?:[-_.]?(post|rev|r)[-_.]?(\d+)?))?` +
	`(?:[-_.]?(dev)[-_.]?(\d+)?)?` +
	`(?:\+([a-z0-9]+(?:[-_.][a-z0-9]+)*))?\s*$`)

// pep440Version is the parts of one version, normalised.
type pep440Version struct {
	epoch       string
	release     []string
	pre, preNum string // "a", "b" or "rc"; "" where there is none
	post, dev   string // numbers; "" where there is none
	local       string
}

func readPEP440(raw string) (pep440Version, error) {
	m := pep440Form.FindStringSubmatch(raw)
	if m == nil {
		return pep440Version{}, errors.New("it does not follow Python's version rules")
	}
	v := pep440Version{epoch: shown(m[1])}
	for n := range strings.SplitSeq(m[2], ".") {
		if len(n) > 200 {
			return pep440Version{}, errors.New("a number has more than 200 digits")
		}
		v.release = append(v.release, shown(n))
	}
	switch strings.ToLower(m[3]) {
	case "":
	case "alpha", "a":
		v.pre = "a"
	case "beta", "b":
		v.pre = "b"
	default:
		v.pre = "rc"
	}
	v.preNum = shown(m[4])
	if m[5] != "" || m[6] != "" {
		v.post = shown(m[5] + m[7])
	}
	if m[8] != "" {
		v.dev = shown(m[9])
	}
	v.local = strings.ToLower(strings.NewReplacer("-", ".", "_", ".").Replace(m[10]))
	return v, nil
}

func parsePEP440(raw string) (parsed, error) {
	v, err := readPEP440(raw)
	if err != nil {
		return parsed{}, err
	}
	pre := v.pre != "" || v.dev != ""
	return parsed{
		key: v.key(), text: v.text(), prerelease: pre, numbers: len(v.release),
		exact: len(v.release) > 2 || pre || v.post != "" || v.local != "",
	}, nil
}

func (v pep440Version) text() string {
	var b strings.Builder
	if v.epoch != "0" {
		b.WriteString(v.epoch + "!")
	}
	b.WriteString(strings.Join(v.release, "."))
	if v.pre != "" {
		b.WriteString(v.pre + v.preNum)
	}
	if v.post != "" {
		b.WriteString(".post" + v.post)
	}
	if v.dev != "" {
		b.WriteString(".dev" + v.dev)
	}
	if v.local != "" {
		b.WriteString("+" + v.local)
	}
	return b.String()
}

// base is the key of epoch and release; everything of that release sorts after it.
func (v pep440Version) base() []byte {
	key := appendNumber(make([]byte, 0, 32), v.epoch)
	n := len(v.release)
	for n > 1 && v.release[n-1] == "0" {
		n--
	}
	for _, part := range v.release[:n] {
		key = appendNumber(append(key, tagNumber), part)
	}
	return append(key, tagEnd)
}

func (v pep440Version) key() string {
	key := v.base()
	switch {
	case v.pre == "" && v.post == "" && v.dev != "":
		key = append(key, 1)
	case v.pre != "":
		key = appendNumber(append(key, 2, v.pre[0]), v.preNum)
	default:
		key = append(key, 3)
	}
	key = appendOptional(key, v.post, 1, 2)
	key = appendOptional(key, v.dev, 2, 1)
	if v.local == "" {
		return string(append(key, 0))
	}
	key = append(key, 1)
	for part := range strings.SplitSeq(v.local, ".") {
		if allDigits(part) {
			key = appendNumber(append(key, tagWord), part)
		} else {
			key = appendWord(append(key, tagNumber), part)
		}
	}
	return string(append(key, tagEnd))
}

// appendOptional writes a number that may be missing, with the tags that place either.
func appendOptional(key []byte, number string, none, some byte) []byte {
	if number == "" {
		return append(key, none)
	}
	return appendNumber(append(key, some), number)
}

func prefixPEP440(raw string) (from, to Cut, err error) {
	v, err := readPEP440(strings.TrimSpace(raw))
	if err != nil {
		return from, to, err
	}
	if v.pre != "" || v.post != "" || v.dev != "" || v.local != "" {
		return from, to, errors.New("not a partial version")
	}
	return v.cut(), pep440Version{epoch: v.epoch, release: bumped(v.release)}.cut(), nil
}

// cut is the place before everything of the release, its development versions included.
func (v pep440Version) cut() Cut {
	w := pep440Version{epoch: v.epoch, release: strings.Split(padded(v.release, 3), ".")}
	return Cut{key: string(v.base()), text: w.text()}
}

// floorPEP440 is the key of the release alone, where nothing but prereleases lies before the version.
func floorPEP440(key string) string {
	rest := skipNumbers(skipNumber(key))
	if strings.HasPrefix(rest, "\x03\x01\x02\x00") { // final, not a post-release, not in development, no local part
		return key[:len(key)-len(rest)]
	}
	return key
}
