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
			in.Package = one.kind
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
		in.SizeBytes = p.size(c)
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
	if in.Arch = archOf(p.disk.on(c.path)); in.Arch == "" && c.broken == "" {
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
	p.parts(c, &in)
	p.packages(c, in.Packages)
	p.health(c, t, &in)
	return in
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
	case slices.Contains([]string{"/usr", "/", "/usr/local"}, c.home):
		return "system"
	case versionIn(path.Base(strings.TrimSuffix(c.home, "/Contents/Home"))) != "":
		return "versioned-root"
	case p.amongOthers(c):
		return "versioned-root"
	}
	return "standalone"
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
