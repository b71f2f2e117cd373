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
	for _, dir := range filepath.SplitList(env["PATH"]) {
		if filepath.IsAbs(dir) {
			path = append(path, dir)
		}
	}
	return Machine{
		Info:  inventory.MachineInfo{Name: name, OS: runtime.GOOS, Arch: runtime.GOARCH, Home: home},
		Files: "/", Path: path, Env: env, Run: true, Now: now.UTC().Truncate(time.Second),
	}
}

// Follow is the real path behind a path on the machine Wexo runs on.
func Follow(path string) (real string, ok bool) {
	real, err := filepath.EvalSymlinks(path)
	return real, err == nil
}
