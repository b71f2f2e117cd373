package excerpt

import (
	"regexp"
	"strings"
	"unicode"
)

// Value is a value on a line, as something that is said of it gives it.
type Value struct {
	Raw    string
	Column int // of its first byte, from 1; 0 where that is not known
	Length int // of what stands there, in bytes, where that refers to a value elsewhere; 0 otherwise
}

// Claimed is the line with a number, with the values that something rests on and the keys they
// stand behind; all else on it is masked, whatever it is. Lines count from 1. Nil where the file
// ends before it.
func Claimed(text []byte, line int, values []Value) []Line {
	one, ok := lineOf(text, line)
	if !ok {
		return nil
	}
	return []Line{{line, onlyClaimed(one, values)}}
}

func lineOf(text []byte, line int) (string, bool) {
	number := 0
	for one := range strings.Lines(string(text)) {
		if number++; number == line {
			return strings.TrimRight(one, "\r\n"), true
		}
	}
	return "", false
}

var (
	// keyBehind is what stands before a value: a key with its separator and quotes, an operator.
	keyBehind = regexp.MustCompile(`([A-Za-z_][\w.-]*)["']?\]?[ \t]*(?:=>|:=|==|[=:@])[ \t]*[bru]?["']?[\[({]?["']?[ \t]*[\^~<>=!v]{0,3}[ \t]*$`)
	// wordBehind is a first word of a line, with nothing but space between it and the value.
	wordBehind = regexp.MustCompile(`^[ \t]*([A-Za-z][\w.-]*)[ \t]+["']?[\^~<>=!v]{0,3}[ \t]*$`)
	// tagBehind is the tag that a value stands in.
	tagBehind = regexp.MustCompile(`<([A-Za-z_][\w.:-]*)>[ \t]*$`)
)

// onlyClaimed masks all of a line but values and the keys before them.
func onlyClaimed(line string, values []Value) string {
	visible := make([]bool, len(line))
	for _, v := range values {
		begin := placeOf(line, v)
		if begin < 0 {
			continue
		}
		show(visible, begin, begin+lengthOf(line, begin, v))
		for _, p := range []*regexp.Regexp{keyBehind, wordBehind, tagBehind} {
			if m := p.FindStringSubmatchIndex(line[:begin]); m != nil && !behindValue(line[:m[2]]) {
				show(visible, m[2], begin) // the separator with it
			}
		}
	}
	var b strings.Builder
	masked := false
	for i, r := range line {
		switch {
		case visible[i]:
			b.WriteRune(r)
			masked = false
		case unicode.IsSpace(r) || strings.ContainsRune(`"'{}[]()<>=:,;`, r): // no secret is made of these
			b.WriteRune(r)
			masked = false
		case !masked:
			b.WriteString(hidden)
			masked = true
		}
	}
	return shown(b.String())
}

// reference is the name of a value that stands elsewhere, with what stands around it.
var reference = regexp.MustCompile(`^[\w.:/@{}$()-]+$`)

// lengthOf is how much of a line a value takes that begins there.
func lengthOf(line string, begin int, v Value) int {
	if !strings.HasPrefix(line[begin:], v.Raw) {
		return v.Length
	}
	return len(v.Raw)
}

// behindValue reports whether what stands before a word makes it a value itself.
func behindValue(before string) bool {
	before = strings.TrimRight(before, " \t\"'")
	return strings.HasSuffix(before, "=") || strings.HasSuffix(before, ":")
}

func show(visible []bool, begin, end int) {
	for i := begin; i < min(end, len(visible)); i++ {
		visible[i] = true
	}
}

// placeOf is where a value begins in a line; below zero where it does not stand there.
func placeOf(line string, v Value) int {
	if v.Raw == "" {
		return -1
	}
	if at := v.Column - 1; at >= 0 && at <= len(line) && strings.HasPrefix(line[at:], v.Raw) {
		return at
	}
	if at := v.Column - 1; at >= 0 && v.Length > 0 && at+v.Length <= len(line) {
		if text := line[at : at+v.Length]; strings.ContainsAny(text, "${") && reference.MatchString(text) {
			return at
		}
	}
	return strings.Index(line, v.Raw)
}
