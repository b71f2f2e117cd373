package claim

import (
	"cmp"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// Wanted is what a claim's text asks for, before names are looked up by date.
type Wanted struct {
	Set     version.Set
	Alias   string // a name such as lts; Set is then to be looked up
	Vendor  string // as the catalogue names it
	Variant string // what it is built against: otp-27
	Package string // runtime or kit, where the text names one
	Arch    string // a processor, where the text names one
	Unknown string // a label that no vendor or variant has
	System  bool   // "whatever the system has"
	// Fallbacks are what is tried in order where nothing fits Set's first version; Set holds all of them.
	Fallbacks []Wanted
	Kept      bool // a path, a git reference or a dated build: it names no version that could be compared
}

// Want reads the claim's text for its tool. It fails where the text is no version,
// no range and no name of the tool.
func (c Claim) Want(t *catalogue.Tool) (Wanted, error) {
	if c.Locked != nil {
		set, err := version.ParseSet(t.Scheme(), c.Locked.Range)
		return Wanted{Set: set}, err
	}
	text := c.Raw
	if c.Means != "" {
		text = c.Means
	}
	w, err := WantOf(t, c.Dialect, c.Reading, text)
	w.Vendor = cmp.Or(w.Vendor, c.Vendor)
	if err != nil || len(c.Fallbacks) == 0 {
		return w, err
	}
	first := w
	w.Fallbacks = []Wanted{first}
	for _, text := range c.Fallbacks {
		f, err := WantOf(t, c.Dialect, "", text)
		if err != nil {
			continue
		}
		w.Fallbacks = append(w.Fallbacks, f)
		w.Set = w.Set.Unite(f.Set)
	}
	return w, nil
}

// WantOf reads a text in a dialect, or as a claim rule's reading says.
func WantOf(t *catalogue.Tool, dialect, reading, text string) (Wanted, error) {
	switch {
	case reading == "kept" || reading == "path":
		return Wanted{Kept: true, Set: version.All(t.Scheme())}, nil
	case reading == "name":
		return wantName(t, text)
	case reading == "level":
		return wantLevel(t, dialect, text)
	case reading == "caret" || strings.HasPrefix(reading, "minimum") || dialect != "plain":
		set, err := RangeOf(t.Scheme(), dialect, reading, text)
		return Wanted{Set: set}, err
	}
	for _, kept := range t.Kept {
		if kept.MatchString(text) {
			return Wanted{Kept: true, Set: version.All(t.Scheme())}, nil
		}
	}
	return WantPlain(t, text)
}

// wantLevel reads the level that code is written for: what is at least as new, without what refuses
// it by now.
func wantLevel(t *catalogue.Tool, dialect, text string) (Wanted, error) {
	reading := ""
	if dialect == "plain" {
		reading = "minimum"
	}
	set, err := RangeOf(t.Scheme(), dialect, reading, text)
	return Wanted{Set: set.Intersect(t.Builds(text))}, err
}

// RangeOf reads a text that names versions and nothing else, as a component's does.
func RangeOf(s version.Scheme, dialect, reading, text string) (version.Set, error) {
	switch {
	case reading == "caret":
		return caretRange(dialect, s, text)
	case reading == "level" && dialect == "plain":
		return minimum(s, "minimum", text)
	case strings.HasPrefix(reading, "minimum"):
		return minimum(s, reading, text)
	}
	return version.ParseRange(dialect, s, text)
}

// minimum is the version or newer, within the major, minor or hundred that it names.
func minimum(s version.Scheme, reading, text string) (version.Set, error) {
	set, err := version.Minimum(s, text)
	if err != nil || reading == "minimum" {
		return set, err
	}
	parts := strings.Split(text, ".")
	numbers := make([]int, 0, len(parts))
	for _, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil || n > 1<<30 {
			return set, nil //nolint:nilerr // a prerelease: the minimum alone is what can be said
		}
		numbers = append(numbers, n)
	}
	for len(numbers) < 3 {
		numbers = append(numbers, 0)
	}
	var below string
	switch reading {
	case "minimum-same-major":
		below = strconv.Itoa(numbers[0] + 1)
	case "minimum-same-minor":
		below = fmt.Sprintf("%d.%d", numbers[0], numbers[1]+1)
	case "minimum-same-hundred":
		below = fmt.Sprintf("%d.%d.%d", numbers[0], numbers[1], (numbers[2]/100+1)*100)
	}
	end, err := s.Parse(below)
	if err != nil {
		return set, nil //nolint:nilerr // the scheme has no such number
	}
	return set.Intersect(version.LessThan(end)), nil
}

// caretRange reads ranges in which carets and tildes stand beside a dialect's own
// operators: "^3.9", "~3.9", "^2.7 || ^3.9", ">=3.8,<4".
func caretRange(dialect string, s version.Scheme, text string) (version.Set, error) {
	out := version.None(s)
	for alternative := range strings.SplitSeq(text, "||") {
		set := version.All(s)
		for part := range strings.SplitSeq(alternative, ",") {
			one, err := caretPart(dialect, s, strings.TrimSpace(part))
			if err != nil {
				return set, err
			}
			set = set.Intersect(one)
		}
		out = out.Unite(set)
	}
	return out, nil
}

func caretPart(dialect string, s version.Scheme, part string) (version.Set, error) {
	tilde := strings.HasPrefix(part, "~") && !strings.HasPrefix(part, "~=")
	if !tilde && !strings.HasPrefix(part, "^") {
		if part != "" && part[0] >= '0' && part[0] <= '9' && !strings.Contains(part, "*") {
			part = "==" + part
		} else if part != "*" && strings.HasSuffix(part, "*") && part[0] != '=' && part[0] != '!' {
			part = "==" + part
		}
		if part == "*" {
			return version.Releases(s), nil
		}
		return version.ParseRange(dialect, s, part)
	}
	text := strings.TrimSpace(part[1:])
	set, err := version.Minimum(s, text)
	if err != nil {
		return set, err
	}
	var numbers []int
	for p := range strings.SplitSeq(text, ".") {
		n, err := strconv.Atoi(p)
		if err != nil || n > 1<<30 {
			return set, fmt.Errorf("%q: %q is no number", part, p)
		}
		numbers = append(numbers, n)
	}
	at := 0 // the number that may not change
	if tilde {
		at = min(1, len(numbers)-1)
	} else {
		for at < len(numbers)-1 && numbers[at] == 0 {
			at++
		}
	}
	numbers[at]++
	var below []string
	for _, n := range numbers[:at+1] {
		below = append(below, strconv.Itoa(n))
	}
	end, err := s.Parse(strings.Join(below, "."))
	if err != nil {
		return set, err
	}
	return set.Intersect(version.LessThan(end)), nil
}

var (
	inBrackets = regexp.MustCompile(`\s*\([^)]*\)`)
	numberIn   = regexp.MustCompile(`\d+(?:\.\d+)*`)
)

// wantName reads the name that an editor gives to an installation: "JavaSE-17",
// "corretto-21", "Python 3.11 (seed-ledger)". A name without a number says nothing.
func wantName(t *catalogue.Tool, text string) (Wanted, error) {
	text = strings.TrimSpace(inBrackets.ReplaceAllString(text, ""))
	if w, err := WantPlain(t, text); err == nil && w.Unknown == "" {
		return w, nil
	}
	number := numberIn.FindString(text)
	if number == "" {
		return Wanted{Kept: true, Set: version.All(t.Scheme())}, nil
	}
	set, err := version.ParseRange("plain", t.Scheme(), number)
	return Wanted{Set: set}, err
}
