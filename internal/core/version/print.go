package version

import (
	"fmt"
	"strings"
)

// String prints the set for people: ">=20.9.0 <21.0.0 || >=22.0.0", "*" for all
// releases, "none" for the empty set. Prereleases show only where a lower bound names
// one, or where there is nothing else; Canonical tells everything.
func (s Set) String() string {
	for c := range schemes[s.scheme].classes {
		list := s.list(c)
		if len(list) == 0 {
			continue
		}
		words := make([]string, len(list))
		for n, i := range list {
			if c == released {
				i.From = s.named(i.From)
			}
			words[n] = i.String()
		}
		return strings.Join(words, " || ")
	}
	return "none"
}

// named is the lower bound as written: at a prerelease of the release where the
// interval begins, if the prereleases from there on belong to the set.
func (s Set) named(from Cut) Cut {
	for _, i := range s.lists[early] {
		if i.From.end != 0 || from.end != 0 || i.From.settled() != from {
			continue
		}
		if _, mark := schemes[s.scheme].print(i.From.key); mark != "*" {
			return i.From
		}
	}
	return from
}

// String prints an interval: ">=20.9.0 <21.0.0", "20.11.1" where it holds one version.
func (i Interval) String() string { return i.print(Cut.Text) }

func (i Interval) print(text func(Cut) string) string {
	if i.one() {
		return text(i.From)
	}
	var words []string
	if i.From.end == 0 {
		words = append(words, map[bool]string{false: ">=", true: ">"}[i.From.after]+text(i.From))
	}
	if i.To.end == 0 {
		words = append(words, map[bool]string{false: "<", true: "<="}[i.To.after]+text(i.To))
	}
	if len(words) == 0 {
		return "*"
	}
	return strings.Join(words, " ")
}

// classNames are the words of the canonical form for the lists after the releases.
var classNames = [...]string{early: "prereleases", third: "post-releases", fourth: "post-prereleases", fifth: "local", sixth: "local-prereleases"}

func (s Scheme) className(c class) string {
	if s == Composer && c == third {
		return "branches"
	}
	return classNames[c]
}

// Canonical prints the whole set so that ParseSet reads it back: the releases, then
// the other classes of versions by name. Equal bounds print alike, however they were written.
//
//	>=1.2.3 <2.0.0; prereleases >=1.2.3-beta.2 <=1.2.3*
//
// A star behind a version stands for everything that shares its number, +* for its
// local builds too, and = for this spelling only.
func (s Set) Canonical() string {
	var parts []string
	for c := range schemes[s.scheme].classes {
		list := s.list(c)
		if len(list) == 0 {
			continue
		}
		words := make([]string, len(list))
		for n, i := range list {
			words[n] = i.print(Cut.marked)
		}
		text := strings.Join(words, " || ")
		if c != released {
			text = s.scheme.className(c) + " " + text
		}
		parts = append(parts, text)
	}
	if len(parts) == 0 {
		return "none"
	}
	return strings.Join(parts, "; ")
}

func (c Cut) marked() string {
	text, mark := schemes[c.scheme].print(c.key)
	return text + mark
}

// ParseSet reads what Canonical printed for a set of the scheme.
func ParseSet(s Scheme, text string) (Set, error) {
	out := None(s)
	if text == "none" {
		return out, nil
	}
	if s == NoScheme {
		return out, fmt.Errorf("set %q: no scheme given", text)
	}
	for part := range strings.SplitSeq(text, "; ") {
		c := released
		for n := early; n < schemes[s].classes; n++ {
			if rest, ok := strings.CutPrefix(part, s.className(n)+" "); ok {
				c, part = n, rest
				break
			}
		}
		for words := range strings.SplitSeq(part, " || ") {
			i, err := s.parseInterval(words)
			if err != nil {
				return out, fmt.Errorf("set %q: %w", text, err)
			}
			out = out.Unite(None(s).with(c, i))
		}
	}
	return out, nil
}

func (s Scheme) parseInterval(text string) (Interval, error) {
	out := Interval{first, last}
	switch text {
	case "*":
		return out, nil
	case "":
		return out, errNumber
	}
	for word := range strings.FieldsSeq(text) {
		op, rest := cutOperator(word, ">=", "<=", ">", "<")
		key, err := s.parseCut(rest)
		if err != nil {
			return out, err
		}
		if op == "" || op[0] == '>' {
			out.From = Cut{key: key, scheme: s, after: op == ">"}
		}
		if op == "" || op[0] == '<' {
			out.To = Cut{key: key, scheme: s, after: op != "<"}
		}
	}
	return out, nil
}

// parseCut gives the key, or the beginning of keys, that a marked version stands for.
func (s Scheme) parseCut(text string) (string, error) {
	if short, ok := strings.CutSuffix(text, "+*"); ok {
		v, err := s.Parse(short)
		if err != nil {
			return "", err
		}
		return v.key[:v.ordered-1], nil
	}
	if short, ok := strings.CutSuffix(text, "*"); ok {
		from, _, err := schemes[s].line(short)
		return from, err
	}
	short, spelling := strings.CutSuffix(text, "=")
	v, err := s.Parse(short)
	if err != nil || spelling {
		return v.key, err
	}
	return v.order(), nil
}
