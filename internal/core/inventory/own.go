package inventory

import (
	"path"
	"slices"
	"strings"
)

// Alone is what belongs to the installation and to nothing else: a folder, or where it shares
// its folder with other programs, its executable. What is said of taking an installation away
// is said of it. Where the inventory does not tell, a folder is taken to be the
// installation's only if it is called by its version.
func (in Installation) Alone() string {
	if in.Own != "" {
		return in.Own
	}
	line, _, _ := strings.Cut(in.Version, ".")
	if in.Origin == "versioned-root" && line != "" && strings.Contains(path.Base(slashed(in.Home)), line) && !IsCommon(in.Home) {
		return in.Home
	}
	return in.Path
}

// common are folders that programs of many kinds are put into.
var common = []string{"/usr/local", "/Program Files", "/Program Files (x86)", "/home/linuxbrew", "/Library/Frameworks"}

// IsCommon reports whether a folder is one that holds many programs, whatever the machine: a
// root, a system's or user's own folder.
func IsCommon(dir string) bool {
	at := path.Clean("/" + strings.TrimPrefix(slashed(dir), "/"))
	if len(at) > 2 && at[2] == ':' { // a drive
		at = path.Clean("/" + at[3:])
	}
	parent, base := path.Dir(at), path.Base(at)
	return parent == "/" || slices.Contains(common, at) || slices.Contains([]string{"/home", "/Users", "/var/home"}, parent) ||
		slices.Contains([]string{".local", "bin", "AppData", "Local", "Roaming", "Programs"}, base)
}
