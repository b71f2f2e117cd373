// Package probe finds what a machine has, by shape: folders laid out as versioned
// roots, the system's own places, and what is on PATH. Versions come from the files
// an installation leaves; only where none tells is the executable asked, with a clean
// environment and a time limit. Nothing inside a repository is ever run.
package probe

import (
	"context"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
)

// Machine says where to look. Files is the folder in which the machine's files lie: "/"
// for the machine Wexo runs on, another one for an unpacked image or a stand-in, where
// nothing is run.
type Machine struct {
	Info  inventory.MachineInfo
	Files string
	Path  []string          // the folders of PATH, in order
	Env   map[string]string // the environment
	Run   bool              // executables may be asked for their version
	Now   time.Time
}

// Take probes a machine.
func Take(ctx context.Context, c *catalogue.Catalogue, reader *reading.Reader, m Machine) inventory.Inventory {
	if m.Info.Arch == "" {
		m.Info.Arch = runtime.GOARCH
	}
	p := &probe{machine: m, catalogue: c, disk: disk{m.Files}, found: map[string]*candidate{}}
	p.search()
	p.system()
	inv := inventory.Inventory{Format: inventory.Format, Machine: m.Info, TakenAt: m.Now,
		Installations: p.describe(ctx), FirstOnPath: []inventory.OnPath{}, Defaults: []inventory.Default{}, Overrides: []inventory.Override{}}
	known := inventory.NewMachine(inv, c)
	inv.Defaults = append(inv.Defaults, p.defaults(reader)...)
	inv.Overrides = append(inv.Overrides, p.overrides()...)
	inv.FirstOnPath = append(inv.FirstOnPath, p.firstOnPath(ctx, known, inv.Defaults)...)
	return inv
}

type probe struct {
	machine   Machine
	catalogue *catalogue.Catalogue
	disk      disk
	found     map[string]*candidate // by tool and real path
	folders   int
}

// candidate is an executable that may be an installation.
type candidate struct {
	tool   *catalogue.Tool
	path   string // links followed
	link   string // where it was found
	home   string
	broken string // why it cannot be an installation that works
	system bool
}

// maxFolders limits the search on a machine with unusual disks.
const maxFolders = 60_000

// search walks the places where versioned roots lie.
func (p *probe) search() {
	home, places := p.machine.Info.Home, &p.catalogue.Places().Machines
	if home != "" {
		for _, e := range p.disk.list(home) {
			if strings.HasPrefix(e.Name(), ".") && !places.Skips(e.Name()) && p.disk.isDir(filepath.Join(home, e.Name()), e) {
				p.walk(filepath.Join(home, e.Name()), places.DotFolders)
			}
		}
		for _, root := range places.Home {
			p.walk(filepath.Join(home, root.Path), root.Depth)
		}
	}
	for _, root := range places.Roots {
		p.walk(root.Path, root.Depth)
	}
}

// walk looks for installations in a folder and below it.
func (p *probe) walk(dir string, depth int) {
	if p.folders++; p.folders > maxFolders {
		return
	}
	entries := p.disk.list(dir)
	home := p.examine(dir, entries)
	if depth == 0 || home && versionIn(filepath.Base(dir)) != "" {
		return
	}
	for _, e := range entries {
		if e.IsDir() && !p.catalogue.Places().Machines.Skips(e.Name()) {
			p.walk(filepath.Join(dir, e.Name()), depth-1)
		}
	}
}

// examine looks for executables of every tool in a folder and tells whether it is an installation's home.
func (p *probe) examine(dir string, entries []entry) bool {
	isHome := false
	for _, tool := range p.catalogue.Tools() {
		for _, inside := range tool.Installation.Inside {
			listed := entries
			if inside != "" {
				first, _, _ := strings.Cut(inside, "/")
				if !slices.ContainsFunc(entries, func(e entry) bool { return e.Name() == first }) {
					continue
				}
				listed = p.disk.list(filepath.Join(dir, inside))
			}
			if p.pick(tool, filepath.Join(dir, inside), listed, false) {
				isHome = true
			}
		}
	}
	return isHome
}

// pick adds the tool's executables of one folder.
func (p *probe) pick(tool *catalogue.Tool, dir string, entries []entry, system bool) bool {
	any := false
	for _, pattern := range tool.Installation.Executables {
		for _, e := range entries {
			if ok, err := filepath.Match(pattern, e.Name()); err != nil || !ok || e.IsDir() {
				continue
			}
			if p.add(tool, filepath.Join(dir, e.Name()), system) {
				any = true
			}
		}
	}
	return any
}

// add takes an executable, unless it is a shim, lies in an environment that only borrows
// its installation, or is known already.
func (p *probe) add(tool *catalogue.Tool, link string, system bool) bool {
	real, err := p.disk.real(link)
	c := &candidate{tool: tool, path: real, link: link, system: system}
	if err != nil {
		if system {
			return false
		}
		c.path, c.home, c.broken = link, homeOf(link), "its executable is a link that leads nowhere"
	} else {
		if p.disk.isShellScript(real) && !p.ownScript(tool, homeOf(real)) {
			return false
		}
		c.home = homeOf(real)
		if !matches(tool, filepath.Base(real)) { // bin/npm leads to a script elsewhere
			c.home = homeOf(link)
		}
		if p.disk.isDir(real, nil) {
			return false
		}
		if !p.disk.executable(real) {
			c.broken = "its executable may not be run"
		}
	}
	for _, file := range tool.Installation.NotBeside {
		if p.disk.exists(filepath.Join(homeOf(link), file)) {
			return false
		}
	}
	key := tool.Name + "\x00" + c.path
	if known, seen := p.found[key]; seen {
		return known.home == c.home
	}
	if c.broken != "" && p.hasHome(tool, c.home) {
		return true
	}
	p.found[key] = c
	return true
}

// ownScript tells whether a script is the tool itself: some are started by one.
func (p *probe) ownScript(tool *catalogue.Tool, home string) bool {
	return tool.Installation.Script != "" && slices.ContainsFunc(p.matching(home, tool.Installation.Script), p.disk.exists)
}

func (p *probe) hasHome(tool *catalogue.Tool, home string) bool {
	for _, c := range p.found {
		if c.tool == tool && c.home == home {
			return true
		}
	}
	return false
}

func matches(tool *catalogue.Tool, base string) bool {
	return slices.ContainsFunc(tool.Installation.Executables, func(pattern string) bool {
		ok, err := filepath.Match(pattern, base)
		return err == nil && ok
	})
}

// homeOf is the folder above an executable's bin folder, or its own folder.
func homeOf(path string) string {
	dir := filepath.Dir(path)
	if filepath.Base(dir) == "bin" {
		return filepath.Dir(dir)
	}
	return dir
}

// system looks in the system's own places and on PATH.
func (p *probe) system() {
	dirs := slices.Concat(p.catalogue.Places().Machines.System, p.machine.Path)
	seen := map[string]bool{}
	for _, dir := range dirs {
		real, err := p.disk.real(dir)
		if err != nil || seen[real] {
			continue
		}
		seen[real] = true
		entries := p.disk.list(real)
		for _, tool := range p.catalogue.Tools() {
			p.pick(tool, real, entries, true)
		}
	}
}

// atATime is how many installations are described at a time: some are run for it.
const atATime = 8

// describe turns the candidates into installations, several at a time.
func (p *probe) describe(ctx context.Context) []inventory.Installation {
	var list []*candidate
	for _, c := range p.found {
		list = append(list, c)
	}
	slices.SortFunc(list, func(a, b *candidate) int {
		return strings.Compare(a.tool.Name+"\x00"+a.path, b.tool.Name+"\x00"+b.path)
	})
	out := make([]inventory.Installation, len(list))
	var g errgroup.Group
	g.SetLimit(atATime)
	for i, c := range list {
		g.Go(func() error {
			out[i] = p.installation(ctx, c)
			return nil
		})
	}
	_ = g.Wait() // what cannot be told of one says so itself
	return slices.DeleteFunc(out, func(in inventory.Installation) bool {
		// A file of that name outside any bin folder, and nothing tells a version: something else.
		return in.Version == "" && in.Health != "broken" && filepath.Base(filepath.Dir(in.Path)) != "bin"
	})
}
