package catalogue

import (
	"slices"
	"strings"
)

// VendorOf finds the vendor that a label in a pin names: by its name, by one of its
// labels, or by an abbreviation that fits no other vendor.
func (t *Tool) VendorOf(label string) (string, bool) {
	label = strings.ToLower(label)
	for name, v := range t.Vendors {
		if name == label || slices.Contains(v.Labels, label) {
			return name, true
		}
	}
	for _, fits := range []func(short, long string) bool{func(short, long string) bool { return strings.HasPrefix(long, short) }, abbreviates} {
		if name, only := t.onlyVendor(label, fits); only {
			return name, true
		}
	}
	return "", false
}

// onlyVendor is the vendor whose name or label the short one fits, if no other's does.
func (t *Tool) onlyVendor(label string, fits func(short, long string) bool) (string, bool) {
	const shortest = 3 // shorter ones fit by chance
	if len(label) < shortest {
		return "", false
	}
	found := ""
	for name, v := range t.Vendors {
		if !slices.ContainsFunc(append([]string{name}, v.Labels...), func(long string) bool { return fits(label, long) }) {
			continue
		}
		if found != "" {
			return "", false
		}
		found = name
	}
	return found, found != ""
}

// abbreviates tells whether short is long with letters left out, its first one kept.
func abbreviates(short, long string) bool {
	if short == "" || long == "" || short[0] != long[0] {
		return false
	}
	for i := range len(short) {
		at := strings.IndexByte(long, short[i])
		if at < 0 {
			return false
		}
		long = long[at+1:]
	}
	return true
}

// VendorMade finds the vendor by what an installation says of its maker; the maker's own words where none is known.
func (t *Tool) VendorMade(maker string) string {
	names := make([]string, 0, len(t.Vendors))
	for name := range t.Vendors {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if p := t.Vendors[name].Maker; p.Regexp != nil && p.MatchString(maker) {
			return name
		}
	}
	return maker
}
