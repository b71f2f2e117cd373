package claim

import (
	"regexp"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

var (
	labelFirst = regexp.MustCompile(`^([A-Za-z][A-Za-z_+]*?(?:-[A-Za-z][A-Za-z_+]*?)*?)[-_@]?v?(\d[\w.+-]*)$`)
	labelLast  = regexp.MustCompile(`^v?(\d[\d._+]*)-([A-Za-z][\w.+-]*)$`)
	numberLike = regexp.MustCompile(`^[=v]*\d+(\.(\d+|[xX*]))*([-._+]?[0-9A-Za-z][\w.+-]*)?$`)
)

// wantPlain reads the text of a version file: a version, part of one, a name, with
// a vendor's label before or after the number.
func wantPlain(t *catalogue.Tool, raw string) (Wanted, error) {
	raw = strings.TrimSpace(raw)
	if strings.EqualFold(raw, "system") {
		return Wanted{System: true, Set: version.Releases(t.Scheme())}, nil
	}
	if t.IsAlias(raw) {
		return Wanted{Alias: raw}, nil
	}
	if m := labelLast.FindStringSubmatch(raw); m != nil {
		if vendor, known := t.VendorOf(m[2]); known {
			set, err := version.ParseRange("plain", t.Scheme(), m[1])
			return Wanted{Set: set, Vendor: vendor}, err
		}
	}
	set, err := version.ParseRange("plain", t.Scheme(), raw)
	if err == nil && !(len(t.Vendors) > 0 && labelLast.MatchString(raw) && !strings.HasSuffix(strings.ToLower(raw), "-ea")) {
		return Wanted{Set: set}, nil
	}
	if m := labelFirst.FindStringSubmatch(raw); m != nil {
		w, labelErr := labelled(t, m[1], m[2], err)
		if i := strings.LastIndexAny(raw, "-@"); labelErr != nil && i > 0 { // a label with digits: openj9-17
			return labelled(t, raw[:i], strings.TrimPrefix(raw[i+1:], "v"), err)
		}
		return w, labelErr
	}
	if m := labelLast.FindStringSubmatch(raw); m != nil {
		return labelled(t, m[2], m[1], err)
	}
	return Wanted{}, err
}

func labelled(t *catalogue.Tool, label, number string, err error) (Wanted, error) {
	set, parseErr := version.ParseRange("plain", t.Scheme(), number)
	if parseErr != nil {
		return Wanted{Unknown: label}, err
	}
	if isName(t, label) {
		return Wanted{Set: set}, nil
	}
	if vendor, known := t.VendorOf(label); known {
		return Wanted{Set: set, Vendor: vendor}, nil
	}
	return Wanted{Set: set, Unknown: label}, nil
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

// fits tells whether the text can be a pin of the tool at all: a number of one of its
// lines, or one of its names. It guards claims that rest on shape alone.
func fits(t *catalogue.Tool, raw string) bool {
	w, err := wantPlain(t, raw)
	if err != nil {
		return false
	}
	if w.Alias != "" || w.System {
		return true
	}
	if len(t.Lines) == 0 {
		return true
	}
	for _, l := range t.Lines {
		if !w.Set.Intersect(l.Set().WithPrereleases()).IsEmpty() {
			return true
		}
	}
	return false
}

// versionLike tells whether a word has the shape of a version.
func versionLike(word string) bool {
	return len(word) <= 64 && (numberLike.MatchString(word) || labelFirst.MatchString(word))
}
