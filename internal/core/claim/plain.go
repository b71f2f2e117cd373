package claim

import (
	"regexp"
	"strconv"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

var (
	labelFirst = regexp.MustCompile(`^([A-Za-z][A-Za-z_+]*?(?:-[A-Za-z][A-Za-z_+]*?)*?)[-_@]?v?(\d[\w.+-]*)$`)
	number     = regexp.MustCompile(`^[=v]*\d+(\.(\d+|[xX*]))*([-._+]?[0-9A-Za-z][\w.+-]*)?$`)
)

// WantPlain reads the text of a version file: a version, part of one, a name, with
// labels before or after the number: a vendor, what it is built against, a kind of
// package, a processor.
func WantPlain(t *catalogue.Tool, raw string) (Wanted, error) {
	raw = strings.TrimSpace(raw)
	if strings.EqualFold(raw, "system") {
		return Wanted{System: true, Set: version.Releases(t.Scheme())}, nil
	}
	if t.IsDevelopment(raw) {
		return Wanted{Kept: true, Set: version.All(t.Scheme())}, nil
	}
	if t.IsAlias(raw) {
		return Wanted{Alias: raw}, nil
	}
	set, err := version.ParseRange("plain", t.Scheme(), raw)
	l, labelErr := version.Separate(t.Scheme(), raw)
	if labelErr != nil {
		return Wanted{Set: set}, err
	}
	if err == nil && !needsLabels(t, l) {
		return Wanted{Set: set}, nil
	}
	return labelled(t, l)
}

// needsLabels tells whether a text that is a version as a whole is still better read as
// a number with labels: where vendors build the tool, or it says what it was built against.
func needsLabels(t *catalogue.Tool, l version.Labelled) bool {
	if len(t.Vendors) > 0 {
		return l.After != ""
	}
	for _, label := range l.Labels(t.Systems()...) {
		if label.Kind == version.BuiltAgainst {
			return true
		}
	}
	return false
}

func labelled(t *catalogue.Tool, l version.Labelled) (Wanted, error) {
	set, err := version.ParseRange("plain", t.Scheme(), l.Number)
	w := Wanted{Set: set}
	for _, side := range []string{l.Before, l.After} {
		labels := version.Labelled{After: side}.Labels(t.Systems()...)
		known := len(labels) == 1 && labels[0].Kind != version.OtherLabel // jdk says what is asked for, though it is a name of Java too
		if len(labels) > 0 && (known || !w.vendor(t, strings.Trim(side, "-_@ =/:"))) {
			w.labels(t, labels)
		}
	}
	return w, err
}

// vendor takes a whole label for the tool's own name or for a vendor's.
func (w *Wanted) vendor(t *catalogue.Tool, text string) bool {
	if isName(t, text) {
		return true
	}
	vendor, known := t.VendorOf(text)
	if known {
		w.Vendor = vendor
	}
	return known
}

func (w *Wanted) labels(t *catalogue.Tool, labels []version.Label) {
	for _, label := range labels {
		switch label.Kind {
		case version.BuiltAgainst:
			w.Variant = strings.ToLower(label.Text)
		case version.Architecture:
			w.Arch = label.Of
		case version.KitLabel:
			w.Package = "kit"
		case version.RuntimeLabel:
			w.Package = "runtime"
		case version.OtherLabel:
			if !w.vendor(t, label.Text) && w.Unknown == "" {
				w.Unknown = label.Text
			}
		}
	}
}

func isName(t *catalogue.Tool, label string) bool {
	label = strings.TrimRight(label, "0123456789") // openjdk64
	if strings.EqualFold(label, t.Name) {
		return true
	}
	for _, name := range t.Names {
		if strings.EqualFold(label, name) {
			return true
		}
	}
	return false
}

// Fits tells whether the text can be a pin of the tool at all: a number of one of its
// lines, or one of its names. It guards claims that rest on shape alone.
func Fits(t *catalogue.Tool, raw string) bool {
	w, err := WantPlain(t, raw)
	if err != nil || zeros.MatchString(raw) {
		return false
	}
	if w.Alias != "" || w.System || w.Kept {
		return true
	}
	if len(t.Lines) == 0 {
		return true
	}
	for _, l := range t.Lines {
		if w.Set.Overlaps(l.WithPrereleases()) {
			return true
		}
	}
	return false
}

// zeros are numbers that stand where nobody wrote one yet.
var zeros = regexp.MustCompile(`^[=v]*0+(?:\.0+)*$`)

// FitsAlone tells whether a text that stands alone can be the tool's: what is known of its
// lines must speak for it, and words that many tools and other things use do not count.
func FitsAlone(t *catalogue.Tool, raw string) bool {
	if len(t.Lines) == 0 || !Fits(t, raw) {
		return false
	}
	if w, err := WantPlain(t, raw); err != nil || w.Unknown != "" || w.Alias == "" && beyond(t, w.Set) {
		return false
	}
	lower := strings.ToLower(raw)
	_, general := t.Aliases[lower]
	return !general && lower != "system" || strings.HasPrefix(lower, "lts") || lower == t.Name
}

// beyond tells whether a set holds nothing but what lies above the newest release of a line
// that had ended when the catalogue was looked at: no such release will come.
func beyond(t *catalogue.Tool, set version.Set) bool {
	l := t.LineFor(set)
	if l == nil || set.IsEmpty() || l.Newest().IsZero() || l.End.IsZero() || !l.End.Before(t.Checked.Time) {
		return false
	}
	return !set.Overlaps(version.LessThan(l.Newest())) && !set.Contains(l.Newest())
}

// Plausible tells whether a number can be a version of the tool that somebody set up: what
// lies far beyond its newest known line is a shortened number (Ruby 30), or means something else.
func Plausible(t *catalogue.Tool, raw string) bool {
	w, err := WantPlain(t, raw)
	if err != nil || len(t.Lines) == 0 || w.Set.IsEmpty() {
		return true
	}
	first, _, _ := strings.Cut(t.Lines[len(t.Lines)-1].Line, ".")
	newest, err := strconv.Atoi(first)
	if err != nil {
		return true
	}
	limit, err := t.Scheme().Parse(strconv.Itoa(newest + 2))
	return err != nil || w.Set.Overlaps(version.LessThan(limit))
}

// NumberLike reports whether a word has the shape of a version's number.
func NumberLike(word string) bool { return number.MatchString(word) }

// VersionLike tells whether a word has the shape of a version.
func VersionLike(word string) bool {
	return len(word) <= 64 && (NumberLike(word) || labelFirst.MatchString(word))
}
