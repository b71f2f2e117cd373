package probe

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/version"
)

// defaults are the user's own choices: version files in the home folder, settings beside a
// versioned root, and a file or link there that names one of its versions.
func (p *probe) defaults(reader *reading.Reader) []inventory.Default {
	var out []inventory.Default
	have := map[string]bool{}
	add := func(d inventory.Default) {
		if !have[d.Tool] && d.Raw != "" {
			have[d.Tool] = true
			out = append(out, d)
		}
	}
	if home := p.machine.Info.Home; home != "" {
		if real, err := p.disk.real(home); err == nil {
			for _, c := range reader.ReadTop(p.disk.files(real)).Claims {
				if c.Role == claim.Pin && p.wants(c.Tool) {
					add(inventory.Default{Tool: c.Tool, Raw: c.Raw, Source: "~/" + c.File})
				}
			}
		}
	}
	for _, r := range p.roots() {
		if set := p.settings(r); set.raw != "" {
			d := inventory.Default{Tool: r.tool.Name, Raw: set.raw, Source: set.source}
			if in := p.named(r, set.raw); in != nil {
				d.Path = in.Home
			}
			add(d)
			continue
		}
		raw, source := p.beside(r)
		add(inventory.Default{Tool: r.tool.Name, Raw: raw, Source: p.short(source)})
	}
	return out
}

func (p *probe) wants(tool string) bool {
	return slices.ContainsFunc(p.tools, func(t *catalogue.Tool) bool { return t.Name == tool })
}

// beside finds what names the default version of a versioned root.
func (p *probe) beside(r root) (raw, source string) {
	above := path.Dir(r.dir)
	for _, file := range []string{
		path.Join(r.dir, "default"), path.Join(r.dir, "current"),
		path.Join(above, "version"), path.Join(above, "default"), path.Join(above, "current"), path.Join(above, "alias/default"),
	} {
		real, err := p.disk.real(file)
		if err != nil {
			continue
		}
		if p.disk.isDir(real, nil) {
			for _, key := range sortedKeys(p.found) {
				c := p.found[key]
				if c.tool == r.tool && (c.home == real || within(real, c.home)) && real != file {
					return path.Base(real), file
				}
			}
			continue
		}
		data, err := p.disk.head(real, 256)
		if err != nil {
			continue
		}
		words := strings.Fields(string(data))
		if len(words) == 0 {
			continue
		}
		if _, err := version.ParseRange("plain", r.tool.Scheme(), words[0]); err == nil || r.tool.IsAlias(words[0]) || words[0] == "system" {
			return words[0], file
		}
	}
	return "", ""
}

func (p *probe) short(at string) string {
	home := strings.TrimSuffix(p.machine.Info.Home, "/")
	if rest, ok := strings.CutPrefix(at, home+"/"); ok && home != "" {
		return "~/" + rest
	}
	return at
}

// overrides are variables that beat a pin: those the catalogue names, and <FOLDER>_VERSION
// for the dot-folder of the home in which a versioned root lies.
func (p *probe) overrides() []inventory.Override {
	var out []inventory.Override
	for _, tool := range p.tools {
		for _, o := range tool.Overrides {
			value := p.choice(o.Variable)
			if value != "" && !slices.ContainsFunc(o.Ignore, func(i catalogue.Pattern) bool { return i.FindString(value) == value }) {
				out = append(out, inventory.Override{Tool: tool.Name, Variable: o.Variable, Raw: value})
				break
			}
		}
	}
	for _, r := range p.roots() {
		if slices.ContainsFunc(out, func(o inventory.Override) bool { return o.Tool == r.tool.Name }) {
			continue
		}
		for _, name := range p.variablesOf(r) {
			if value := p.choice(name); value != "" {
				out = append(out, inventory.Override{Tool: r.tool.Name, Variable: name, Raw: value})
				break
			}
		}
	}
	return out
}

// onPath tells of PATH folder by folder, and what a terminal finds first, tool by tool.
func (p *probe) onPath() ([]inventory.PathFolder, []inventory.OnPath) {
	var folders []inventory.PathFolder
	taken := map[string]bool{}
	seen := map[string]bool{}
	for _, dir := range p.path {
		real, err := p.disk.real(dir)
		if err != nil {
			real = dir
		}
		if seen[real] {
			continue // the second time it finds nothing new
		}
		seen[real] = true
		f := inventory.PathFolder{Folder: dir, From: p.from[dir], There: p.disk.isDir(dir, nil)}
		for _, e := range p.disk.list(dir) {
			bare := p.bare(e.Name())
			for _, one := range p.looked.match(anywhere, bare) {
				if t, ok := p.pathed(one.tool, dir, e.Name()); ok {
					t.Wins = !taken[one.tool.Name+"\x00"+bare]
					taken[one.tool.Name+"\x00"+bare] = true
					f.Tools = append(f.Tools, t)
				}
			}
		}
		slices.SortStableFunc(f.Tools, func(a, b inventory.PathedTool) int { return strings.Compare(a.Tool, b.Tool) })
		if len(f.Tools) > 0 || !f.There && !slices.Contains(usualPath, dir) {
			folders = append(folders, f)
		}
	}
	var first []inventory.OnPath
	for _, tool := range p.tools {
		if one, ok := p.first(tool); ok {
			first = append(first, one)
		}
	}
	return folders, first
}

// pathed is an executable in a folder of PATH.
func (p *probe) pathed(tool *catalogue.Tool, dir, name string) (inventory.PathedTool, bool) {
	at := path.Join(dir, name)
	out := inventory.PathedTool{Tool: tool.Name, Name: name}
	real, err := p.disk.real(at)
	if err != nil {
		return out, true // a link that leads nowhere is on PATH all the same
	}
	if !p.disk.executable(real, p.windows) {
		return out, false
	}
	out.Leads = real
	if in := p.installedAt(tool.Name, real); in != nil {
		out.Version = in.Version
		return out, true
	}
	for _, x := range p.inv.Proxies {
		if x.Tool == tool.Name && x.Leads == real {
			out.Version, out.Proxy = x.Version, true
			return out, true
		}
	}
	if p.stub(real) != nil {
		return out, false // with nothing behind it
	}
	out.Proxy = p.passing[real]
	if in := p.sharing(tool.Name, real); in != nil && !out.Proxy {
		out.Version = in.Version
	}
	return out, true
}

// sharing is the installation in whose bin folder an executable lies: a further name of it.
func (p *probe) sharing(tool, real string) *inventory.Installation {
	for i := range p.inv.Installations {
		in := &p.inv.Installations[i]
		if in.Tool == tool && in.Origin != "system" && path.Dir(in.Path) == path.Dir(real) {
			return in
		}
	}
	return nil
}

// first is what a terminal finds first for a tool.
func (p *probe) first(tool *catalogue.Tool) (inventory.OnPath, bool) {
	for _, name := range tool.Installation.Executables {
		if strings.ContainsAny(name, "*[?") {
			continue
		}
		for _, dir := range p.path {
			link, real, ok := p.executableAt(dir, name)
			if !ok {
				continue
			}
			out := inventory.OnPath{Tool: tool.Name, Path: link}
			for _, x := range p.inv.Proxies {
				if x.Tool == tool.Name && x.Leads == real {
					out.Version, out.Shim = x.Version, true
					return out, true
				}
			}
			if p.stub(real) != nil {
				continue
			}
			if in := p.installedAt(tool.Name, real); in != nil {
				out.Version = in.Version
			} else if in := p.sharing(tool.Name, real); in != nil {
				out.Version = in.Version
			}
			return out, true
		}
	}
	return inventory.OnPath{}, false
}
