package assess

import (
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/policy"
)

// aparts tells which folders of one repository hold test data, examples or vendored code:
// what is wrong there is listed, and counts nowhere.
type aparts struct {
	usual    catalogue.Apart
	settings policy.Settings
	projects map[string]int // how many folders with claims lie below each folder
	known    map[string]bool
}

func newAparts(c *catalogue.Catalogue, s policy.Settings, folders []string) *aparts {
	a := &aparts{usual: c.Places().Apart, settings: s, projects: map[string]int{}, known: map[string]bool{}}
	for _, folder := range folders {
		for folder != "" {
			folder = claim.Above(folder)
			a.projects[folder]++
		}
	}
	return a
}

// holds reports whether a folder counts apart: what is decided of it or of the nearest
// folder above decides, otherwise the usual names do.
func (a *aparts) holds(folder string) bool {
	if folder == "" {
		return false
	}
	if known, ok := a.known[folder]; ok {
		return known
	}
	apart, decided := a.settings.CountsApart(folder)
	if !decided {
		apart = a.holds(claim.Above(folder)) || a.usually(folder)
	}
	a.known[folder] = apart
	return apart
}

// usually reports whether a folder's own name says that it counts apart, or it lies deep in
// one of those that mostly do.
func (a *aparts) usually(folder string) bool {
	name := baseOf(folder)
	if strings.HasPrefix(name, ".") { // some program keeps it for itself
		return true
	}
	if slices.Contains(a.usual.Named, name) || a.projects[folder] >= a.usual.Projects && slices.Contains(a.usual.Many, name) {
		return true
	}
	above := folder
	for range a.usual.Deep {
		above = claim.Above(above)
	}
	return above != "" && slices.Contains(a.usual.Many, baseOf(above))
}

func baseOf(folder string) string {
	return strings.ToLower(folder[strings.LastIndexByte(folder, '/')+1:])
}
