package probe

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// stub is what the catalogue says of an executable of the system that stands for another
// one; nil of all others. A stub is never run: some ask whether they should install something.
func (p *probe) stub(real string) *catalogue.Stub {
	stubs := p.catalogue.Places().Machines.Stubs
	for i := range stubs {
		s := &stubs[i]
		if s.OS == p.machine.Info.OS && s.Folder == path.Dir(real) && slices.Contains(s.Names, path.Base(real)) {
			return s
		}
	}
	return nil
}

// led is the executable that a stub leads to: in the first folder that has one of its name.
func (p *probe) led(s *catalogue.Stub, name string) string {
	for _, dir := range s.Leads {
		if at := path.Join(dir, name); p.disk.exists(at) {
			return at
		}
	}
	return ""
}

// addLed adds the executable that a stub leads to, unless that is a stub again.
func (p *probe) addLed(s *catalogue.Stub, tool *catalogue.Tool, name string) {
	at := p.led(s, name)
	if real, err := p.disk.real(at); at != "" && err == nil && p.stub(real) == nil {
		p.add(strings.TrimSuffix(path.Dir(at), "/usr/bin"), tool, at, false)
	}
}

// followStub tells what a stub runs: what a variable names, the newest of some folders, or
// what the system leads to.
func (p *probe) followStub(s *catalogue.Stub, tool *catalogue.Tool, out *inventory.Proxy) {
	var found *inventory.Installation
	if at := p.led(s, path.Base(out.Leads)); at != "" {
		if real, err := p.disk.real(at); err == nil {
			found, out.Because = p.installedAt(tool.Name, real), "the system leads to "+path.Dir(at)
		}
	}
	for i := range p.inv.Installations {
		in := &p.inv.Installations[i]
		if in.Tool != tool.Name || in.Health == "broken" || !slices.ContainsFunc(s.Newest, func(dir string) bool { return within(p.atHome(dir), in.Path) }) {
			continue
		}
		if found == nil || p.newer(in, found) {
			found, out.Because = in, "it is the newest of those that the system knows"
		}
	}
	for _, o := range tool.Overrides {
		if value := p.choice(o.Variable); o.Locates && value != "" && len(s.Newest) > 0 {
			found, out.Because = p.homed(tool, value), "the variable "+o.Variable
		}
	}
	if found != nil {
		out.Picks, out.Version = found.Home, found.Version
	}
}

// homed is the installation whose home is at a path.
func (p *probe) homed(tool *catalogue.Tool, at string) *inventory.Installation {
	real, err := p.disk.real(p.inside(at))
	if err != nil {
		return nil
	}
	for i := range p.inv.Installations {
		if in := &p.inv.Installations[i]; in.Tool == tool.Name && in.Home == real {
			return in
		}
	}
	return nil
}

// atHome is a path with the home in place of a tilde.
func (p *probe) atHome(at string) string {
	if rest, ok := strings.CutPrefix(at, "~/"); ok {
		return path.Join(p.machine.Info.Home, rest)
	}
	return at
}
