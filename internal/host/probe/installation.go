package probe

import (
	"context"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// installations describes a candidate: one installation, or the several versions that lie
// side by side in its home and share the executable.
func (p *probe) installations(ctx context.Context, c *candidate) []inventory.Installation {
	if each := p.each(c); len(each) > 0 {
		var out []inventory.Installation
		for _, one := range each {
			in := p.describeOne(c, told{version: one.version})
			in.Package, in.Own = one.kind, one.folder
			if p.machine.Sizes {
				in.SizeBytes = p.sizeOf(one.folder)
			}
			out = append(out, in)
		}
		return out
	}
	in := p.describeOne(c, p.version(ctx, c))
	p.verify(ctx, c, &in)
	if p.machine.Sizes {
		in.SizeBytes = p.size(c, in.Own)
	}
	return []inventory.Installation{in}
}

// beside is a version in a folder of its own below a home.
type beside struct{ version, kind, folder string }

// each lists the versions that lie side by side in a home.
func (p *probe) each(c *candidate) []beside {
	var out []beside
	for _, e := range c.tool.Installation.Each {
		if e.Unless != "" && len(p.matching(c.home, e.Unless)) > 0 {
			continue
		}
		for _, folder := range p.matching(c.home, e.Folders) {
			version := path.Base(folder)
			if _, err := c.tool.Scheme().Parse(version); err == nil && p.disk.isDir(folder, nil) {
				out = append(out, beside{version, e.Package, folder})
			}
		}
	}
	return out
}

// describeOne tells all of an installation but what asking it would tell.
func (p *probe) describeOne(c *candidate, t told) inventory.Installation {
	in := inventory.Installation{Tool: c.tool.Name, Version: t.version, Path: c.path, Home: c.home, Origin: p.origin(c), Health: "good",
		Components: map[string]string{}, Packages: map[string]string{}}
	if in.Arch = archOf(p.disk, c.path); in.Arch == "" && c.broken == "" {
		in.Arch = p.machine.Info.Arch
	}
	in.Vendor, in.Variant = p.vendor(c), variant(c)
	for _, kind := range c.tool.Packages {
		if kind.Beside == "" || p.disk.exists(path.Join(c.home, kind.Beside)) {
			in.Package = kind.Kind
			break
		}
	}
	for name, at := range c.tool.Installation.Components {
		for _, file := range p.matching(c.home, at.File) {
			if text := p.take(file, at.Pattern); text != "" {
				in.Components[name] = text
				break
			}
		}
	}
	if one, ok := p.packageOf(c); ok {
		in.SystemPackage = one.name + " " + one.version
	}
	in.Own = c.path
	if p.hasOwnFolder(c, t) {
		in.Own = strings.TrimSuffix(c.home, "/Contents/Home")
	}
	in.Fetching = p.fetching(c)
	p.parts(c, &in)
	p.packages(c, in.Packages)
	p.health(c, t, &in)
	return in
}

// hasOwnFolder reports whether a candidate's home holds nothing else: it is called by its
// version or as the tool, or its version was told by a file in it and no other tool lies there.
func (p *probe) hasOwnFolder(c *candidate, t told) bool {
	if c.system || c.home == p.machine.Info.Home || inventory.IsCommon(c.home) || p.origin(c) == "system" {
		return false
	}
	base := strings.ToLower(path.Base(strings.TrimSuffix(c.home, "/Contents/Home")))
	if versionIn(base) != "" || strings.Contains(base, c.tool.Name) {
		return true
	}
	if t.file == "" || !within(c.home, t.file) {
		return false
	}
	for _, other := range p.found {
		if other.home == c.home && other.tool != c.tool && other.tool.BundledWith != c.tool.Name {
			return false
		}
	}
	return true
}

// parts tells which parts of a kit are there.
func (p *probe) parts(c *candidate, in *inventory.Installation) {
	for _, part := range c.tool.Installation.Parts {
		if in.Parts == nil {
			in.Parts = map[string]bool{}
		}
		in.Parts[part.Name] = p.any(c.home, part.Any)
	}
}

// variant is what the tool was built against, where its folder's name says so (1.17.3-otp-27).
func variant(c *candidate) string {
	for _, label := range sortedKeys(c.tool.BuiltAgainst) {
		m := regexp.MustCompile(`(?i)[-_]` + regexp.QuoteMeta(label) + `[-_]?(\d+)`).FindStringSubmatch(path.Base(c.home))
		if m != nil {
			return label + "-" + m[1]
		}
	}
	return ""
}

// mostPackages is how many packages are told of one installation.
const mostPackages = 500

// packages reads which packages were installed into an installation.
func (p *probe) packages(c *candidate, into map[string]string) {
	for _, list := range c.tool.Installation.Packages {
		for _, file := range p.matching(c.home, list.File) {
			if len(into) == mostPackages {
				return
			}
			if list.Named.Regexp != nil {
				if m := list.Named.FindStringSubmatch(strings.TrimPrefix(file, c.home)); len(m) > 2 {
					into[m[1]] = m[2]
				}
				continue
			}
			data, err := p.disk.head(file, maxEntry)
			if err != nil {
				continue
			}
			if name := joined(list.Name, string(data)); name != "" {
				into[name] = joined(list.Version, string(data))
			}
		}
	}
}

func (p *probe) origin(c *candidate) string {
	if c.tool.BundledWith != "" {
		if host, known := p.catalogue.Tool(c.tool.BundledWith); known && p.hasHome(host, c.home) {
			return "bundled"
		}
	}
	switch {
	case p.private(c):
		return "bundled"
	case slices.Contains([]string{"/usr", "/", "/usr/local"}, c.home):
		return "system"
	case versionIn(path.Base(strings.TrimSuffix(c.home, "/Contents/Home"))) != "":
		return "versioned-root"
	case p.amongOthers(c):
		return "versioned-root"
	}
	return "standalone"
}

// private reports whether another program brought a candidate for itself: an IDE its Java, an
// SDK its Python. It lies in that program's folder, which has executables of its own.
func (p *probe) private(c *candidate) bool {
	onPath := slices.Contains(p.path, path.Dir(c.link)) || slices.Contains(p.path, path.Dir(c.path)) // for all to use
	if c.system || onPath || !p.catalogue.Places().Machines.IsPrivate(path.Base(strings.TrimSuffix(c.home, "/Contents/Home"))) {
		return false
	}
	for dir := path.Dir(c.home); !inventory.IsCommon(dir) && dir != p.machine.Info.Home; dir = path.Dir(dir) {
		if slices.ContainsFunc(p.disk.list(path.Join(dir, "bin")), func(e entry) bool { return !e.IsDir() }) {
			return true
		}
	}
	return false
}

// amongOthers reports whether the folder above a home holds further installations of the
// tool: their names need not be versions.
func (p *probe) amongOthers(c *candidate) bool {
	n := 0
	for _, other := range p.found {
		if other.tool == c.tool && path.Dir(other.home) == path.Dir(c.home) && !other.system {
			n++
		}
	}
	return n > 1
}

func (p *probe) vendor(c *candidate) string {
	maker := c.tool.Installation.Maker
	if maker == nil {
		return ""
	}
	text := p.take(path.Join(c.home, maker.File), maker.Pattern)
	if text == "" {
		return ""
	}
	return c.tool.VendorMade(text)
}

// need is the first part that an installation cannot do without and that is not there.
func (p *probe) need(c *candidate) *catalogue.Need {
	for i := range c.tool.Installation.Needs {
		if n := &c.tool.Installation.Needs[i]; !p.any(c.home, n.Any) {
			return n
		}
	}
	return nil
}
