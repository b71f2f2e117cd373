package probe

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/host/origin"
)

// mostPassedOver is how many executables are named that are passed over: a tree of a stranger's
// may hold any number, and an inventory has to stay one that can be sent.
const mostPassedOver = 100

// foreignTo reports whether a candidate is part of somebody's source, and keeps why: what a
// repository, an unpacked archive or a surveyed folder brings is no installation, wherever it
// lies.
func (p *probe) foreignTo(c *candidate) bool {
	why := p.sourceOf(c)
	if why == "" {
		return false
	}
	key := c.tool.Name + "\x00" + c.path
	if !p.passed[key] && len(p.passedOver) < mostPassedOver {
		p.passed[key] = true
		p.passedOver = append(p.passedOver, inventory.PassedOver{Tool: c.tool.Name, Path: c.path, Why: why})
	}
	return true
}

func (p *probe) sourceOf(c *candidate) string {
	if p.avoided(c.path) || p.avoided(c.link) {
		return "it lies in a folder that is surveyed"
	}
	file := origin.File{Path: c.path, Home: c.home, Tool: c.tool.Name, Own: ownFiles(c.tool), Kept: c.tool.Installation.Kept}
	why := p.origins.Source(file)
	if why == "" && !within(c.home, c.path) { // its files are those beside the link
		file.Path = c.link
		why = p.origins.Source(file)
	}
	return why
}

// sharedFolders tells in which folders things of many origins lie side by side, by their names
// and by where links lead that stand for them: a home may be one.
func (p *probe) sharedFolders() func(dir string) bool {
	machines := &p.catalogue.Places().Machines
	homes, leads := slices.Clone(p.homes), map[string]bool{}
	for _, home := range p.homes {
		if real, err := p.disk.real(home); err == nil && real != home {
			homes = append(homes, real)
		}
	}
	for _, dir := range machines.Shared.Roots {
		if real, err := p.disk.real(dir); err == nil && real != dir {
			leads[real] = true
		}
	}
	shared := machines.SharedBy(homes)
	return func(dir string) bool { return shared(dir) || leads[dir] }
}

// shares reports whether things of many origins lie side by side in a folder.
func (p *probe) shares(dir string) bool {
	return p.shared(dir) || path.Dir(dir) == "/" && isDrive(strings.TrimPrefix(dir, "/"))
}

// ownFiles are the names in a tool's home that belong to it: those that tell its version or
// show what it is.
func ownFiles(tool *catalogue.Tool) []string {
	in := tool.Installation
	out := []string{in.Script}
	for _, source := range in.Version {
		out = append(out, source.File)
	}
	for _, at := range in.Components {
		out = append(out, at.File)
	}
	if in.Maker != nil {
		out = append(out, in.Maker.File)
	}
	return slices.DeleteFunc(out, func(name string) bool { return name == "" || strings.ContainsAny(name, "/*?[") })
}
