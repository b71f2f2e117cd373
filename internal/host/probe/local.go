package probe

import (
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"time"

	"wexo/internal/core/inventory"
)

// Local is the machine Wexo runs on.
func Local(now time.Time) Machine {
	name, err := os.Hostname()
	if err != nil || name == "" {
		name = "this-machine"
	}
	home, err := os.UserHomeDir()
	if err != nil {
		home = ""
	}
	env := map[string]string{}
	for _, pair := range os.Environ() {
		key, value, _ := strings.Cut(pair, "=")
		env[key] = value
	}
	var path []string
	for _, dir := range filepath.SplitList(os.Getenv("PATH")) {
		if filepath.IsAbs(dir) {
			path = append(path, dir)
		}
	}
	return Machine{
		Info:  inventory.MachineInfo{Name: name, OS: runtime.GOOS, Arch: runtime.GOARCH, Home: home},
		Files: "/", Path: path, Env: env, Run: true, Now: now.UTC().Truncate(time.Second),
	}
}

// Followed follows paths on the machine Wexo runs on, and those that the machine's own
// variables and PATH name: what each leads to, or nothing where nothing is there.
func Followed(m *inventory.Machine, paths []string) map[string]string {
	for _, o := range m.Inventory.Overrides {
		paths = append(paths, o.Raw)
	}
	for _, p := range m.Inventory.FirstOnPath {
		paths = append(paths, p.Path)
	}
	out := map[string]string{}
	for _, raw := range paths {
		at := m.Absolute(raw)
		if _, done := out[at]; done || !filepath.IsAbs(at) {
			continue
		}
		real, err := filepath.EvalSymlinks(at)
		if err != nil {
			real = ""
		}
		out[at] = filepath.ToSlash(real)
	}
	return out
}
