package inventory

import (
	"path"
	"slices"
	"strings"
)

// IsPath reports whether a text is a path on a machine, and no command that is looked up on
// PATH or an editor's variable. It may be one of any system: with a drive or of a share on
// Windows, below the home, or from the root.
func IsPath(raw string) bool {
	switch {
	case raw == "":
		return false
	case raw[0] == '/' || raw[0] == '~' || strings.HasPrefix(raw, `\\`):
		return true
	case hasDrive(raw):
		return len(raw) > 2 && (raw[2] == '\\' || raw[2] == '/')
	}
	_, known := windowsFolder(raw)
	return known
}

func hasDrive(p string) bool {
	return len(p) > 1 && p[1] == ':' && (p[0] >= 'a' && p[0] <= 'z' || p[0] >= 'A' && p[0] <= 'Z')
}

// windowsFolders are the variables with which paths on Windows begin, and what they stand
// for where that is usual; a tilde is the home.
var windowsFolders = map[string]string{
	"userprofile": "~", "localappdata": "~/AppData/Local", "appdata": "~/AppData/Roaming",
	"programfiles": "C:/Program Files", "programfiles(x86)": "C:/Program Files (x86)", "programdata": "C:/ProgramData", "systemdrive": "C:",
}

// windowsFolder writes out the variable with which a path begins.
func windowsFolder(raw string) (string, bool) {
	name, rest, closed := strings.Cut(strings.TrimPrefix(raw, "%"), "%")
	if !strings.HasPrefix(raw, "%") || !closed {
		return raw, false
	}
	folder, known := windowsFolders[strings.ToLower(name)]
	if !known || rest != "" && rest[0] != '\\' && rest[0] != '/' {
		return raw, false
	}
	return folder + rest, true
}

// Absolute is a path on the machine as Followed has it: with slashes, and with the home
// folder written out.
func (m *Machine) Absolute(raw string) string {
	raw, _ = windowsFolder(raw)
	at := slashed(raw)
	if rest, ok := strings.CutPrefix(at, "~"); ok && m.Inventory.Machine.Home != "" {
		at = path.Join(slashed(m.Inventory.Machine.Home), rest)
	}
	return at
}

// slashed is a clean path with slashes.
func slashed(p string) string {
	share := strings.HasPrefix(p, `\\`) || strings.HasPrefix(p, "//")
	p = path.Clean(strings.ReplaceAll(p, `\`, "/"))
	if share {
		p = "/" + p
	}
	return p
}

// key is a path as paths are compared: where the system does not tell cases apart, in
// lower case.
func (m *Machine) key(p string) string {
	if p == "" {
		return ""
	}
	p = m.Absolute(p)
	if m.IgnoresCase() {
		p = strings.ToLower(p)
	}
	return p
}

// IgnoresCase reports whether the machine's system does not tell cases of paths apart.
func (m *Machine) IgnoresCase() bool {
	return m.Inventory.Machine.OS == "windows" || m.Inventory.Machine.OS == "darwin"
}

// AtHome reports whether a path that begins with ~ may lead to an installation of a tool.
// Where none can, it does not matter whose home it is.
func (m *Machine) AtHome(tool string) bool {
	home := m.key(m.Inventory.Machine.Home)
	return home != "" && slices.ContainsFunc(m.byTool[tool], func(in *Installed) bool {
		return below(home, in.at) || below(home, in.home) || in.home != "" && below(in.home, home)
	})
}

// below reports whether a path is a folder or lies in it.
func below(folder, at string) bool {
	rest, in := strings.CutPrefix(at, strings.TrimSuffix(folder, "/"))
	return in && (rest == "" || rest[0] == '/')
}

// InHome reports whether a path lies in somebody's home folder: what is there is that
// person's own, and nothing that others share may point at it.
func (m *Machine) InHome(at string) bool {
	at = m.key(at)
	if home := m.key(m.Inventory.Machine.Home); home != "" && home != "/" && strings.HasPrefix(at, strings.TrimSuffix(home, "/")+"/") {
		return true
	}
	at = strings.ToLower(at)
	if hasDrive(at) {
		at = at[2:]
	}
	return slices.ContainsFunc(homes, func(above string) bool { return strings.HasPrefix(at, above) })
}

// homes are where systems keep home folders, in lower case and without a drive.
var homes = []string{"/home/", "/users/", "/root/", "/var/home/", "~"}
