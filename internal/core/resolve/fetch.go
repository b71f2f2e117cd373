package resolve

import (
	"regexp"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// StartsProxy stands for a proxy in place of the version that starts what is fetched.
const StartsProxy = "proxy"

// fetch lets what a tool's own programs fetch run in place of what starts it, where a repository
// asks for another version and nothing on the machine keeps them from it.
func (k *climbing) fetch() {
	f := k.Tool.Fetches
	if f == nil || k.class.FetchesNothing(k.Tool.Name) != "" {
		return
	}
	starts, ok := k.starter(f)
	if !ok {
		return
	}
	switch by := k.out.DecidedBy; {
	case by == ByOverride && k.out.Number.IsZero() && k.class.override != nil && k.out.Where == f.Variable:
		k.fetched(k.class.override, starts)
		return
	case by == ByOverride:
		return
	case (by == ByPin || by == ByInherited) && k.out.State == Missing && len(k.Pins) > 0 && k.Pins[0].Fetched:
		k.fetched(k.Pins[0].Want, starts)
	}
	for i := range k.Bounds {
		b := &k.Bounds[i]
		if b.Fetched && !b.Silent() && !k.out.Number.IsZero() && !b.Set.Contains(k.out.Number) && b.Set.NoneBelow(k.out.Number) {
			k.fetched(b.Want, starts)
		}
	}
}

// starter is the installed version that would start and fetch another.
func (k *climbing) starter(f *catalogue.Fetching) (version string, ok bool) {
	if p := k.class.path; p != nil {
		if p.Shim {
			return "", f.Proxies
		}
		if p.leads != nil {
			return p.leads.Version, f.ByVersion(p.leads.Number) && p.leads.Fetching != "off"
		}
		return p.Version, f.ByVersion(p.number)
	}
	for _, h := range k.class.held {
		if h.At >= 0 && h.Health != "broken" {
			return h.Version, f.ByVersion(h.Number) && h.Fetching != "off"
		}
	}
	return "", false
}

// fetched makes what is asked for what runs; what is not known to exist is not fetched.
func (k *climbing) fetched(w *Want, starts string) {
	_, floating := w.On(k.on)
	number, ok := firstNamed(w)
	if !ok || floating || k.Tool.Unreleased(version.Exactly(number), k.on) != "" {
		return
	}
	k.out.State, k.out.Version, k.out.Number, k.out.Path, k.out.Starts = Met, number.String(), number, "", starts
	if k.out.DecidedBy == ByDefault || k.out.DecidedBy == ByPath {
		k.out.State = Unpinned
	}
	if starts == "" {
		k.out.Starts = StartsProxy
	}
}

// numbered is a version's number in a text.
var numbered = regexp.MustCompile(`\d+(?:\.\d+)*(?:[a-z-]+[\w.]*)?`)

// firstNamed is the release that a text names, the first one of a line that it names.
func firstNamed(w *Want) (version.Version, bool) {
	text := w.Means
	if text == "" {
		text = w.Raw
	}
	text = numbered.FindString(text)
	for text != "" && strings.Count(text, ".") < 2 && !strings.ContainsFunc(text, func(r rune) bool { return r >= 'a' && r <= 'z' }) {
		text += ".0"
	}
	v, err := w.Tool.Scheme().Parse(text)
	return v, err == nil && text != "" && w.Set.Contains(v)
}
