// Package demo is a made-up estate to look at: the repositories and machines of a
// botanic-garden trust. Repositories are text archives that become real git
// repositories; machines are laid out as stand-in toolchains that the real probing reads.
package demo

import (
	"embed"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"
	"golang.org/x/sync/errgroup"
	"golang.org/x/tools/txtar"

	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

//go:embed repositories/*.txtar machines/*.yaml toolchains.yaml wexo.yaml catalogue
var files embed.FS

// Configuration is the name of the estate's own file, in the folder where it is laid.
const Configuration = "wexo.yaml"

// LayConfiguration writes the estate's configuration, with the catalogue folder that it names.
func LayConfiguration(dir string) error {
	return fs.WalkDir(files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || name != Configuration && !strings.HasPrefix(name, "catalogue/") {
			return err
		}
		data, err := files.ReadFile(name)
		if err != nil {
			return err
		}
		return writeFile(filepath.Join(dir, filepath.FromSlash(name)), data, 0o644)
	})
}

// Day is the day on which the demo's verdicts hold, so that pictures stay the same.
var Day = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

// Clock is a clock that stands at eight in the morning of Day when it is made, and runs from there.
func Clock(now func() time.Time) func() time.Time {
	start := now()
	return func() time.Time { return Day.Add(8 * time.Hour).Add(now().Sub(start)) }
}

// Earlier are the days of surveys before Day, so that findings have an age.
var Earlier = []time.Time{time.Date(2026, 8, 3, 0, 0, 0, 0, time.UTC), time.Date(2026, 10, 26, 0, 0, 0, 0, time.UTC)}

// LayRepositories makes the repositories below a folder, each with one commit.
func LayRepositories(dir string) error {
	names, err := fs.Glob(files, "repositories/*.txtar")
	if err != nil {
		return err
	}
	var g errgroup.Group
	g.SetLimit(2 * runtime.GOMAXPROCS(0))
	for _, name := range names {
		g.Go(func() error {
			data, err := files.ReadFile(name)
			if err == nil {
				err = layRepository(filepath.Join(dir, strings.TrimSuffix(path.Base(name), ".txtar")), txtar.Parse(data))
			}
			if err != nil {
				return fmt.Errorf("demo repository %s: %w", path.Base(name), err)
			}
			return nil
		})
	}
	return g.Wait()
}

func layRepository(dir string, archive *txtar.Archive) error {
	for _, f := range archive.Files {
		if err := writeFile(filepath.Join(dir, filepath.FromSlash(f.Name)), f.Data, 0o644); err != nil {
			return err
		}
	}
	for _, args := range [][]string{
		{"init", "--quiet", "--initial-branch=main"},
		{"add", "--all", "--force"},
		{"commit", "--quiet", "--message", strings.TrimSpace(string(archive.Comment))},
	} {
		if err := git(dir, args...); err != nil {
			return err
		}
	}
	return nil
}

// git runs git with a fixed author and date, so that commits are the same on every machine.
func git(dir string, args ...string) error {
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "core.hooksPath=" + os.DevNull, "-c", "core.autocrlf=false", "-c", "commit.gpgSign=false"}, args...)...)
	date := "2026-07-20T09:00:00Z"
	cmd.Env = append(os.Environ(), "GIT_CONFIG_NOSYSTEM=1", "GIT_CONFIG_GLOBAL="+os.DevNull,
		"GIT_AUTHOR_NAME=Garden Trust", "GIT_AUTHOR_EMAIL=garden@trust.invalid", "GIT_AUTHOR_DATE="+date,
		"GIT_COMMITTER_NAME=Garden Trust", "GIT_COMMITTER_EMAIL=garden@trust.invalid", "GIT_COMMITTER_DATE="+date)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("git %s: %w: %s", args[0], err, strings.TrimSpace(string(out)))
	}
	return nil
}

func writeFile(name string, data []byte, mode os.FileMode) error {
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return err
	}
	return os.WriteFile(name, data, mode)
}

// machine is one file of machines/.
type machine struct {
	Machine inventory.MachineInfo `yaml:"machine"`
	TakenAt time.Time             `yaml:"takenAt"`
	Path    []string              `yaml:"path"`
	Env     map[string]string     `yaml:"env"`
	Files   map[string]string     `yaml:"files"`
	// Before is what the machine had at another time: some things were not there yet.
	Before struct {
		TakenAt time.Time         `yaml:"takenAt"`
		Without []string          `yaml:"without"` // "python 3.13.1"
		Default map[string]string `yaml:"default"`
	} `yaml:"earlier"`

	Installed []struct {
		Tool    string `yaml:"tool"`
		Version string `yaml:"version"`
		Maker   string `yaml:"maker"`
		Home    string `yaml:"home"`
	} `yaml:"installed"`
}

// LayMachines lays out the machines below a folder, each in a folder of its own, and
// gives what probing needs to know of them.
func LayMachines(dir string) ([]probe.Machine, error) {
	var layouts map[string]map[string]string
	data, err := files.ReadFile("toolchains.yaml")
	if err == nil {
		err = yaml.Unmarshal(data, &layouts)
	}
	if err != nil {
		return nil, err
	}
	names, err := fs.Glob(files, "machines/*.yaml")
	if err != nil {
		return nil, err
	}
	var out []probe.Machine
	for _, name := range names {
		m, err := readMachine(name)
		if err != nil {
			return nil, err
		}
		root := filepath.Join(dir, m.Machine.Name)
		if err := m.lay(root, layouts); err != nil {
			return nil, fmt.Errorf("demo machine %s: %w", m.Machine.Name, err)
		}
		out = append(out, probe.Machine{Info: m.Machine, Files: root, Path: m.Path, Env: m.Env, Now: m.TakenAt})
	}
	return out, nil
}

// WeekBefore is what a machine of the estate had at an earlier time; false for one of which only
// the present is known.
func WeekBefore(now inventory.Inventory) (inventory.Inventory, bool) {
	m, err := readMachine("machines/" + now.Machine.Name + ".yaml")
	if err != nil || m.Before.TakenAt.IsZero() {
		return inventory.Inventory{}, false
	}
	out := now
	out.TakenAt = m.Before.TakenAt
	out.Installations = slices.DeleteFunc(slices.Clone(now.Installations), func(in inventory.Installation) bool {
		return slices.Contains(m.Before.Without, in.Tool+" "+in.Version)
	})
	out.FirstOnPath = slices.DeleteFunc(slices.Clone(now.FirstOnPath), func(p inventory.OnPath) bool {
		return slices.Contains(m.Before.Without, p.Tool+" "+p.Version)
	})
	out.Defaults = slices.Clone(now.Defaults)
	for i, d := range out.Defaults {
		if raw, ok := m.Before.Default[d.Tool]; ok {
			out.Defaults[i].Raw = raw
		}
	}
	return out, true
}

func readMachine(name string) (machine, error) {
	var m machine
	data, err := files.ReadFile(name)
	if err == nil {
		err = yaml.Unmarshal(data, &m)
	}
	if err != nil {
		return m, fmt.Errorf("%s: %w", name, err)
	}
	return m, nil
}

func (m machine) lay(root string, layouts map[string]map[string]string) error {
	for _, in := range m.Installed {
		fill := filler(in.Version, in.Maker)
		for name, content := range layouts[in.Tool] {
			if err := put(root, path.Join(in.Home, fill.Replace(name)), fill.Replace(content)); err != nil {
				return err
			}
		}
	}
	for name, content := range m.Files {
		if err := put(root, name, content); err != nil {
			return err
		}
	}
	return nil
}

func filler(version, maker string) *strings.Replacer {
	short, _, _ := strings.Cut(version, "+")
	n := append(strings.Split(short, "."), "0", "0")
	return strings.NewReplacer("{version}", version, "{short}", short, "{maker}", maker,
		"{line}", n[0]+"."+n[1], "{major}", n[0], "{minor}", n[1], "{patch}", n[2])
}

// standIn is the content of an executable that is never run.
const standIn = "\x7fELF stand-in of a toolchain's executable; it is never run\n"

func put(root, name, content string) error {
	at := filepath.Join(root, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
		return err
	}
	if target, ok := strings.CutPrefix(content, "-> "); ok {
		return os.Symlink(strings.TrimSpace(target), at)
	}
	switch {
	case content == "exec":
		return writeFile(at, []byte(standIn), 0o755)
	case strings.HasPrefix(content, "#!"):
		return writeFile(at, []byte(content), 0o755)
	}
	return writeFile(at, []byte(content), 0o644)
}
