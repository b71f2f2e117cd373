// Package probe finds what a machine has, by shape: folders laid out as versioned
// roots, the system's own places, and what is on PATH. Versions come from the files
// an installation leaves and from the system's packages; only where none tells is the
// executable asked, with a clean environment and a time limit. Nothing inside a repository,
// and nothing that others may write, is ever run.
package probe

import (
	"context"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/host/origin"
)

// Machine says where to look. Files is the folder in which the machine's files lie: "/"
// for the machine Wexo runs on, another one for an unpacked image or a stand-in, where
// nothing is run.
type Machine struct {
	Info      inventory.MachineInfo
	Files     string
	Path      []string          // the folders of PATH, in order; nil takes what start-up files say
	Env       map[string]string // the environment
	Bare      bool              // as if no variable chose a version; where one leads is looked at all the same
	Run       bool              // executables may be asked for their version
	Now       time.Time
	Tools     []string // probed for these alone, and for what they come with; all where nil
	Sizes     bool     // sizes on disk are told too, which takes longer
	Avoid     []string // folders that are surveyed: nothing below them is run
	Said      *Said    // what executables said before; may be nil
	Checkouts []string // folders below which repositories are listed
}

// Take probes a machine.
func Take(ctx context.Context, c *catalogue.Catalogue, reader *reading.Reader, m Machine) inventory.Inventory {
	if m.Info.Arch == "" {
		m.Info.Arch = runtime.GOARCH
	}
	p := newProbe(c, m)
	defer p.disk.close()
	p.origins = origin.On(p.disk.files("/"), reader, p.shares)
	packages := make(chan struct{})
	go func() { // beside the search: nearly every machine's are asked for
		defer close(packages)
		p.readPackages(ctx)
	}()
	p.readStartup()
	p.search()
	p.system()
	p.wired = p.readTables(reader)
	p.pointedAt()
	<-packages
	inv := inventory.Inventory{Format: inventory.Format, Machine: p.machine.Info, TakenAt: m.Now,
		Installations: p.describe(ctx), FirstOnPath: []inventory.OnPath{}, Defaults: []inventory.Default{}, Overrides: []inventory.Override{}}
	p.inv = &inv
	inv.Defaults = append(inv.Defaults, p.defaults(reader)...)
	inv.Overrides = append(append(inv.Overrides, p.overrides()...), p.switches()...)
	inv.Proxies = p.proxies()
	inv.SearchPath, inv.FirstOnPath = p.onPath()
	inv.Startup = p.startup
	inv.Editors = p.tables()
	inv.Checkouts = p.checkouts()
	inv.PassedOver = p.passedOver
	p.show(&inv)
	return inv
}

type probe struct {
	machine    Machine
	catalogue  *catalogue.Catalogue
	tools      []*catalogue.Tool
	looked     *looking
	disk       disk
	windows    bool
	homes      []string              // home folders of the machine, the user's own first
	found      map[string]*candidate // by tool and real path
	origins    *origin.Machine
	shared     func(dir string) bool // folders in which things of many origins lie side by side
	passed     map[string]bool       // executables that are passed over, by tool and path
	passedOver []inventory.PassedOver
	passing    map[string]bool // executables that only pass a call on, links followed
	walked     map[string]int  // folders that were walked, and how deep
	folders    int
	packaging  systemPackages
	startup    []inventory.StartupLine
	wired      []inventory.Wiring // what editors' tables and settings say, before it is followed
	path       []string           // folders of PATH
	from       map[string]string
	inv        *inventory.Inventory
	mu         sync.Mutex
	libs       []string // folders of the system's libraries, once they were asked for
}

func newProbe(c *catalogue.Catalogue, m Machine) *probe {
	p := &probe{machine: m, catalogue: c, found: map[string]*candidate{}, passing: map[string]bool{}, passed: map[string]bool{},
		walked: map[string]int{}, from: map[string]string{}, windows: m.Info.OS == "windows"}
	p.disk = disk{root: m.Files}.opened()
	if p.windows {
		p.disk.drive, p.disk.names = systemDrive, &names{}
		p.machine.Env = map[string]string{}
		for name, value := range m.Env { // cases do not count
			p.machine.Env[strings.ToUpper(name)] = value
		}
		if drive := p.env("SystemDrive"); len(drive) == 2 && isDrive(drive) {
			p.disk.drive = drive
		}
	}
	p.machine.Info.Home = p.inside(m.Info.Home)
	p.tools = wanted(c, m.Tools)
	p.looked = lookingFor(p.tools)
	p.homes = p.homeFolders()
	p.shared = p.sharedFolders()
	p.machine.Avoid = nil
	for _, dir := range m.Avoid { // who surveys all of the home has toolchains there all the same
		if dir = p.inside(dir); !p.shares(dir) {
			p.machine.Avoid = append(p.machine.Avoid, dir)
		}
	}
	for _, dir := range m.Path {
		p.path = append(p.path, p.inside(dir))
	}
	return p
}

// choice is what a variable chooses.
func (p *probe) choice(name string) string {
	if p.machine.Bare {
		return ""
	}
	return p.env(name)
}

// env is a variable of the machine.
func (p *probe) env(name string) string {
	if p.windows {
		name = strings.ToUpper(name)
	}
	return strings.TrimSpace(p.machine.Env[name])
}

// wanted are the tools that are asked for, with those that they come with or that come
// with them.
func wanted(c *catalogue.Catalogue, names []string) []*catalogue.Tool {
	if names == nil {
		return c.Tools()
	}
	var out []*catalogue.Tool
	for _, t := range c.Tools() {
		if slices.Contains(names, t.Name) || slices.ContainsFunc(names, func(name string) bool {
			other, known := c.Tool(name)
			return known && (other.BundledWith == t.Name || other.BuiltAgainst != nil && slices.Contains(mapped(other.BuiltAgainst), t.Name))
		}) {
			out = append(out, t)
		}
	}
	return out
}

func mapped(m map[string]string) (out []string) {
	for _, name := range m {
		out = append(out, name)
	}
	return out
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
	described := make([][]inventory.Installation, len(list))
	var g errgroup.Group
	g.SetLimit(atATime)
	for i, c := range list {
		g.Go(func() error {
			described[i] = p.installations(ctx, c)
			return nil
		})
	}
	_ = g.Wait() // what cannot be told of one says so itself
	out := []inventory.Installation{}
	for i, one := range described {
		for _, in := range one {
			switch {
			case in.Version == "" && list[i].broken == "" && !list[i].surely:
				// A file of that name outside any bin folder, and nothing tells a version: something else.
			case slices.ContainsFunc(out, func(o inventory.Installation) bool { return sameInstallation(o, in) }):
			default:
				out = append(out, in)
			}
		}
	}
	return out
}

// sameInstallation reports whether two executables are of one installation: further names
// of it, which are files of their own.
func sameInstallation(a, b inventory.Installation) bool {
	return a.Tool == b.Tool && a.Home == b.Home && a.Version == b.Version && a.Version != "" && a.Arch == b.Arch
}
