package sentence

import (
	"cmp"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
)

func (w *words) residueStale() (message, remedy string) {
	c := w.claim(0)
	clears, anew := w.clears(c)
	message = fmt.Sprintf("%s was left by %s %s, but %s asks for %s: what is built on it may fail, or run on the other version.", place(c.File, c.Line), w.title(), cmp.Or(c.Means, c.Raw), w.at(1), w.asks(1))
	remedy = fmt.Sprintf("Delete %s, and build anew with the version that is asked for", list(clears))
	if anew != "" {
		remedy += fmt.Sprintf("; %s stays, and the next install follows it", anew)
	}
	return message, remedy + "."
}

// clears are what to delete of what a build left, and the lock file from which it is made
// anew; empty where the repository has none.
func (w *words) clears(c claim.Claim) (clears []string, anew string) {
	folder := path.Dir(c.File)
	rule := w.residueRule(c.File)
	if c.Line == 0 { // the folder's name is the claim
		clears = []string{c.File + "/"}
	} else if rule == nil || len(rule.Clears) == 0 {
		clears = []string{folder + "/"}
	}
	if rule == nil {
		return clears, ""
	}
	for _, name := range rule.Clears {
		clears = append(clears, path.Join(folder, name))
	}
	for _, lock := range rule.Anew {
		file := path.Join(c.Folder, lock)
		if slices.ContainsFunc(w.f.Repository.Claims, func(o claim.Claim) bool { return o.File == file }) {
			return clears, file
		}
	}
	return clears, ""
}

// residueRule is the rule by which a leftover was read.
func (w *words) residueRule(file string) *catalogue.ClaimRule {
	for i := range w.f.Tool.Claims {
		r := &w.f.Tool.Claims[i]
		if claim.Role(r.Role) != claim.Residue {
			continue
		}
		for _, pattern := range r.Files {
			if ok, err := path.Match(path.Base(pattern), path.Base(file)); ok && err == nil {
				return r
			}
		}
	}
	return nil
}

func (w *words) defaultMismatch() (message, remedy string) {
	var names []string
	for _, p := range w.v.Pinned {
		names = append(names, p.Name)
	}
	return fmt.Sprintf("PATH on %s runs %s %s, and nothing there follows version files, but %s %s another one (%s): who calls the tool by its name gets the wrong version.",
			w.some(w.v.Machines), w.title(), w.v.Near[0].Version, list(some(names, "other repository", "other repositories")), verb(len(names) == 1, "pins", "pin"), list(some(strings.Split(w.v.Reason, "\x00"), "other", "others"))),
		"Run it with the pinned one first on PATH (wexo with FOLDER -- COMMAND does that), or let a program that follows version files stand first."
}

func (w *words) installationBroken() (message, remedy string) {
	r := w.v.Near[0]
	what := strings.TrimSpace(w.title() + " " + r.Version)
	return fmt.Sprintf("%s at %s on %s does not work: %s.", what, r.Path, w.some(w.v.Machines), strings.TrimSuffix(w.v.Reason, ".")),
		anew(w.v)
}

// anew is how the installations that are meant are mended: those that the system brought, by
// the system.
func anew(v *assess.Verdict) string {
	var packages []string
	for _, s := range v.Installed {
		if s.SystemPackage != "" {
			packages = append(packages, s.SystemPackage)
		}
	}
	if len(packages) > 0 {
		return fmt.Sprintf("Install the system's package anew: %s.", list(short(unique(packages))))
	}
	return fmt.Sprintf("Install it anew, or take it away: %s.", alone(v))
}

// alone names what the installations that are meant have for themselves.
func alone(v *assess.Verdict) string {
	var out []string
	for _, s := range v.Installed {
		out = append(out, s.Alone())
	}
	return list(short(unique(out)))
}

func (w *words) installationUnneeded() (message, remedy string) {
	r, in := w.v.Near[0], w.v.Installed[0]
	size := ""
	if in.SizeBytes > 0 {
		size = ", " + Bytes(in.SizeBytes)
	}
	message = fmt.Sprintf("No repository that was surveyed would run %s %s at %s on %s%s, and nothing there points at it.", w.title(), r.Version, r.Path, w.some(w.v.Machines), size)
	if with := GoesWith(in.Installed.Installation.Components, in.Installed.Installation.Packages); len(with) > 0 {
		message += " With it would go " + list(some(with, "other", "others")) + "."
	}
	return message, fmt.Sprintf("Keep it if something outside the surveyed repositories needs it; otherwise it can go: %s.", alone(w.v))
}

// some are the first few of a list, with how many more there are.
func some(names []string, one, several string) []string {
	if more := len(names) - mostPlaces; more > 0 {
		return append(names[:mostPlaces:mostPlaces], Count(more, one, several))
	}
	return names
}

// GoesWith are what is in an installation and would go with it, sorted.
func GoesWith(components, packages map[string]string) []string {
	out := []string{}
	for _, of := range []map[string]string{components, packages} {
		for _, name := range slices.Sorted(maps.Keys(of)) {
			out = append(out, strings.TrimSpace(name+" "+of[name]))
		}
	}
	return append([]string{}, unique(out)...)
}

// Bytes is a size in the largest unit of which there is one.
func Bytes(n int64) string {
	for _, unit := range []struct {
		size int64
		name string
	}{{1e9, "GB"}, {1e6, "MB"}, {1e3, "kB"}} {
		if n >= unit.size {
			return strings.TrimSuffix(fmt.Sprintf("%.1f", float64(n)/float64(unit.size)), ".0") + " " + unit.name
		}
	}
	return fmt.Sprintf("%d B", n)
}
