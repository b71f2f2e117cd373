package probe

import (
	"path/filepath"
	"strings"
	"time"

	"wexo/internal/core/inventory"
)

// Foreign is a machine whose files lie in a folder: an unpacked image, a mounted disk or
// subsystem. Nothing of it is run; what it is, is told by its files.
func Foreign(root, user string, now time.Time) Machine {
	d := disk{root: root}.opened()
	defer d.close()
	m := Machine{Info: inventory.MachineInfo{Name: filepath.Base(root), OS: systemOf(d)}, Files: root, Env: map[string]string{}, Now: now.UTC().Truncate(time.Second)}
	for _, at := range []string{"/bin/sh", "/usr/bin/env", "/bin/busybox", "/usr/lib/os-release"} {
		if real, err := d.real(at); err == nil && m.Info.Arch == "" {
			m.Info.Arch = archOf(d, real)
		}
	}
	m.Info.Home = homeIn(d, m.Info.OS, user)
	return m
}

// systemOf is the system that a root is of, by the folders that it alone has.
func systemOf(d disk) string {
	switch {
	case d.exists("/Windows/System32"):
		return "windows"
	case d.exists("/System/Library"):
		return "darwin"
	}
	return "linux"
}

// homeIn is a user's home folder; without a user the administrator's, or the only person's.
func homeIn(d disk, system, user string) string {
	if system != "linux" {
		people := ""
		for _, e := range d.list("/Users") {
			switch e.Name() {
			case "Public", "Shared", "Default", "Default User", "All Users":
				continue
			}
			if !e.IsDir() || user != "" && e.Name() != user {
				continue
			}
			if people != "" {
				return ""
			}
			people = "/Users/" + e.Name()
		}
		return people
	}
	name, _, _ := strings.Cut(user, ":") // a group may stand behind it
	data, err := d.head("/etc/passwd", maxEntry)
	if err == nil {
		for line := range strings.Lines(string(data)) {
			f := strings.Split(strings.TrimSpace(line), ":")
			if len(f) > 5 && (f[0] == name || f[2] == name || name == "" && f[2] == "0") {
				return f[5]
			}
		}
	}
	return "/root"
}
