package version

import (
	"errors"
	"regexp"
	"strings"
)

var (
	javaForm = regexp.MustCompile(`^(\d+(?:\.\d+)*)(?:-([a-zA-Z0-9]+))?(?:\+(\d+)?(?:-([-a-zA-Z0-9.]+))?)?$`)
	javaOld  = regexp.MustCompile(`^1\.(\d+)(?:\.(\d+))?(?:_(\d+))?(?:-(ea|beta[0-9]*|rc[0-9]*|internal))?(?:-?b(\d+))?(?:-([-a-zA-Z0-9]+))?$`)
	javaU    = regexp.MustCompile(`^(\d+)u(\d+)(?:-?b(\d+))?$`)
)

// javaVersion is a Java version in the new form; the old 1.8.0_292-b10 is 8.0.292+10.
type javaVersion struct {
	numbers           []string
	pre, build, extra string
}

func readJava(raw string) (javaVersion, error) {
	if len(raw) > 200 {
		return javaVersion{}, errors.New("it is longer than 200 bytes")
	}
	v, err := readJavaForms(strings.TrimSpace(raw))
	if err == nil && (v.numbers[0] == "0" || v.numbers[0] == "1") {
		return v, errors.New("the first versions, 1.0 and 1.1, are not told apart from others")
	}
	return v, err
}

func readJavaForms(raw string) (javaVersion, error) {
	if m := javaOld.FindStringSubmatch(raw); m != nil {
		v := javaVersion{numbers: []string{shown(m[1])}, pre: m[4], build: m[5], extra: m[6]}
		if m[2] != "" || m[3] != "" {
			v.numbers = append(v.numbers, shown(m[2]))
		}
		if m[3] != "" {
			v.numbers = append(v.numbers, shown(m[3]))
		}
		return v, nil
	}
	if m := javaU.FindStringSubmatch(raw); m != nil {
		return javaVersion{numbers: []string{shown(m[1]), "0", shown(m[2])}, build: m[3]}, nil
	}
	m := javaForm.FindStringSubmatch(raw)
	if m == nil {
		return javaVersion{}, errors.New("it follows neither the new form (17.0.9+9) nor the old one (1.8.0_292)")
	}
	numbers, _, err := numbersOf(m[1])
	if err != nil {
		return javaVersion{}, err
	}
	if len(numbers) > 1 && numbers[0] == "1" { // 1.8.0 in any other spelling is still 8.0
		numbers = numbers[1:]
	}
	v := javaVersion{numbers: numbers, pre: m[2], build: m[3], extra: m[4]}
	if strings.EqualFold(v.pre, "lts") || strings.EqualFold(v.pre, "ga") {
		v.pre = ""
	}
	return v, nil
}

func parseJava(raw string) (parsed, error) {
	v, err := readJava(raw)
	if err != nil {
		return parsed{}, err
	}
	return parsed{key: v.key(), text: v.text(), prerelease: v.pre != "", numbers: len(v.numbers), exact: v.build != "" || v.pre != ""}, nil
}

func (v javaVersion) text() string {
	text := strings.Join(v.numbers, ".")
	if v.pre != "" {
		text += "-" + v.pre
	}
	if v.build != "" {
		text += "+" + shown(v.build)
	}
	return text
}

func (v javaVersion) base() []byte {
	n := len(v.numbers)
	for n > 1 && v.numbers[n-1] == "0" {
		n--
	}
	key := make([]byte, 0, 24)
	for _, part := range v.numbers[:n] {
		key = appendNumber(append(key, tagNumber), part)
	}
	return append(key, tagEnd)
}

// key orders by numbers, then prereleases before the release, then the build number.
func (v javaVersion) key() string {
	key := v.base()
	switch {
	case v.pre == "":
		key = append(key, 9)
	case allDigits(v.pre):
		key = appendNumber(append(key, 1), v.pre)
	default:
		key = appendWord(append(key, 2), v.pre)
	}
	if v.build == "" {
		return string(append(key, tagEnd))
	}
	return string(appendNumber(append(key, tagNumber), v.build))
}

// prefixJava: a pin without a build number means every build of that number and
// every patch below it.
func prefixJava(raw string) (from, to Cut, err error) {
	v, err := readJava(raw)
	if err != nil {
		return from, to, err
	}
	if v.pre != "" || v.build != "" {
		return from, to, errors.New("not a partial version")
	}
	return javaCut(v.numbers), javaCut(bumped(v.numbers)), nil
}

func javaCut(numbers []string) Cut {
	return Cut{key: string(javaVersion{numbers: numbers}.base()), text: strings.Join(numbers, ".")}
}

// floorJava is the key of the numbers alone, for a release without a build number.
func floorJava(key string) string {
	rest := skipNumbers(key)
	if rest == "\x09\x01" {
		return key[:len(key)-len(rest)]
	}
	return key
}
