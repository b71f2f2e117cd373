package probe

import (
	"fmt"
	"os"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// scripts are the endings of programs that another program runs: they are a tool's own,
// whatever they are called.
var scripts = []string{".js", ".cjs", ".mjs", ".phar", ".rb", ".py", ".jar", ".pl"}

// passes reports whether an executable only passes a call on: it is a script that is not
// the tool's own, or a program of another name that stands for the tool among others.
func (p *probe) passes(tool *catalogue.Tool, link, real string) bool {
	if p.disk.isShellScript(real) || p.windows && isBatch(real) {
		return !p.ownScript(tool, homeOf(real)) && !p.ownScript(tool, homeOf(link))
	}
	base := p.bareName(path.Base(real))
	if slices.Contains(scripts, path.Ext(base)) {
		return false
	}
	if !hasStem(tool, base) {
		head, err := p.disk.head(real, 2)
		return err == nil && string(head) != "#!"
	}
	return p.manyNamed(tool, real)
}

func isBatch(at string) bool {
	ext := strings.ToLower(path.Ext(at))
	return ext == ".cmd" || ext == ".bat"
}

// hasStem reports whether a name has a word of the tool's executables in it.
func hasStem(tool *catalogue.Tool, base string) bool {
	return slices.ContainsFunc(tool.Installation.Executables, func(pattern string) bool {
		stem := stemOf(pattern)
		return stem != "" && strings.Contains(base, stem)
	})
}

// manyNamed reports whether a file has names of several tools in its folder, by hard links.
func (p *probe) manyNamed(tool *catalogue.Tool, real string) bool {
	info, err := p.disk.lstat(real)
	if err != nil || linksTo(info) < 3 {
		return false
	}
	others := 0
	for _, e := range p.disk.list(path.Dir(real)) {
		other, err := e.Info()
		if err == nil && os.SameFile(info, other) && !hasStem(tool, p.bareName(e.Name())) {
			others++
		}
	}
	return others >= 2
}

// proxies follows every executable on PATH that passes calls on to what it would run.
func (p *probe) proxies() []inventory.Proxy {
	var out []inventory.Proxy
	for _, tool := range p.tools {
		var seen []string
		for _, dir := range p.path {
			for _, name := range tool.Installation.Executables {
				if strings.ContainsAny(name, "*?[") {
					continue
				}
				link, real, ok := p.executableAt(dir, name)
				if !ok || slices.Contains(seen, dir) || p.installedAt(tool.Name, real) != nil {
					continue
				}
				s := p.stub(real)
				if s == nil && !p.passes(tool, link, real) {
					continue
				}
				one := p.proxy(tool, link, real)
				if s != nil && one.Picks == "" {
					continue // there is nothing behind it
				}
				seen = append(seen, dir)
				out = append(out, one)
				break
			}
		}
	}
	return out
}

// executableAt finds an executable in a folder, under the name that the system gives it.
func (p *probe) executableAt(dir, name string) (link, real string, ok bool) {
	names := []string{name}
	if p.windows {
		names = []string{name + ".exe", name + ".cmd", name + ".bat"}
	}
	for _, n := range names {
		at := path.Join(dir, n)
		if real, err := p.disk.real(at); err == nil && p.disk.executable(real, p.windows) {
			return at, real, true
		}
	}
	return "", "", false
}

// installedAt is the installation whose executable lies at a path; the newest of those that
// share it, which is what it runs where nothing chooses.
func (p *probe) installedAt(tool, real string) *inventory.Installation {
	var found *inventory.Installation
	for i := range p.inv.Installations {
		if in := &p.inv.Installations[i]; in.Tool == tool && in.Path == real && (found == nil || p.newer(in, found)) {
			found = in
		}
	}
	return found
}

// newer reports whether an installation's version is newer than another's; one that cannot
// be told is older than all.
func (p *probe) newer(a, b *inventory.Installation) bool {
	tool, known := p.catalogue.Tool(a.Tool)
	if !known {
		return false
	}
	x, errX := tool.Scheme().Parse(a.Version)
	y, errY := tool.Scheme().Parse(b.Version)
	return errX == nil && (errY != nil || x.Compare(y) > 0)
}

// proxy follows one: the folder it picks from, what its settings and variables pick, and what
// they pick in which folders.
func (p *probe) proxy(tool *catalogue.Tool, link, real string) inventory.Proxy {
	out := inventory.Proxy{Tool: tool.Name, Path: link, Leads: real}
	if s := p.stub(real); s != nil {
		p.followStub(s, tool, &out)
		return out
	}
	if p.wrapped(tool, real, &out); out.Picks != "" {
		return out
	}
	r, known := p.rootOf(tool, link, real)
	var set chosen
	raw, because := p.chosenBy(r)
	if known {
		out.Root, set = r.dir, p.settings(r)
		for _, f := range set.folders {
			if in := p.named(r, f.raw); in != nil {
				f.Home, f.Version = in.Home, in.Version
			}
			out.Folders = append(out.Folders, f.FolderChoice)
		}
	}
	if raw == "" {
		raw, because = set.raw, set.source
	}
	if raw == "" && known {
		file := ""
		if raw, file = p.beside(r); raw != "" {
			because = p.short(file)
		}
	}
	if raw == "" {
		for _, d := range p.inv.Defaults {
			if d.Tool == tool.Name {
				raw, because = d.Raw, d.Source
			}
		}
	}
	if raw == "" {
		return out
	}
	out.Because = raw + ", " + because
	if raw == "system" {
		p.behind(tool, link, &out)
		return out
	}
	if in := p.named(r, raw); in != nil {
		out.Picks, out.Version = in.Home, in.Version
	}
	return out
}

// chosenBy is what a variable picks for everything: one that is called after the folder.
func (p *probe) chosenBy(r root) (raw, because string) {
	for _, name := range p.variablesOf(r) {
		if value := p.choice(name); value != "" {
			return value, "the variable " + name
		}
	}
	return "", ""
}

// variablesOf are the variables with which a proxy is told what to pick: called after the
// dot-folder of the home in which its root lies.
func (p *probe) variablesOf(r root) []string {
	folder := p.dotFolder(r.dir)
	if folder == "" {
		return nil
	}
	name := strings.ToUpper(strings.NewReplacer("-", "_", ".", "_").Replace(strings.TrimPrefix(path.Base(folder), ".")))
	return []string{name + "_VERSION", name + "_TOOLCHAIN"}
}

// dotFolder is the dot-folder of a home in which a path lies; "" where it lies in none.
func (p *probe) dotFolder(at string) string {
	for _, home := range p.homes {
		rest, ok := strings.CutPrefix(at, strings.TrimSuffix(home, "/")+"/.")
		if ok {
			first, _, _ := strings.Cut(rest, "/")
			return strings.TrimSuffix(home, "/") + "/." + first
		}
	}
	return ""
}

// rootOf finds the folder that a proxy picks from: in its own dot-folder, in one that its
// script names, or one whose settings name what is in it.
func (p *probe) rootOf(tool *catalogue.Tool, link, real string) (root, bool) {
	var roots []root
	for _, r := range p.rootsOf(tool) {
		if !within(r.dir, real) {
			roots = append(roots, r)
		}
	}
	text, _ := p.disk.head(real, maxEntry)
	own := p.dotFolder(link)
	if own == "" {
		own = p.dotFolder(real)
	}
	tests := []func(root) bool{
		func(r root) bool { return own != "" && within(own, r.dir) },
		func(r root) bool {
			folder := p.dotFolder(r.dir)
			return p.disk.isShellScript(real) && (folder != "" && strings.Contains(string(text), folder+"/") || strings.Contains(string(text), r.dir+"/"))
		},
		func(r root) bool { return p.settings(r).raw != "" },
	}
	for _, holds := range tests {
		if i := slices.IndexFunc(roots, holds); i >= 0 {
			return roots[i], true
		}
	}
	return root{tool: tool}, false
}

// wrapped finds what a script with a fixed target runs: the only installation whose
// executable its text names.
func (p *probe) wrapped(tool *catalogue.Tool, real string, out *inventory.Proxy) {
	text, err := p.disk.head(real, maxEntry)
	if err != nil || !p.disk.isShellScript(real) {
		return
	}
	var found *inventory.Installation
	for i := range p.inv.Installations {
		in := &p.inv.Installations[i]
		if in.Tool != tool.Name || in.Health == "broken" || !strings.Contains(string(text), in.Home+"/") || in.Origin == "system" {
			continue
		}
		if found != nil && found.Home != in.Home {
			return
		}
		found = in
	}
	if found != nil {
		out.Picks, out.Version, out.Because = found.Home, found.Version, "the script names it"
	}
}

// behind is what stands behind a proxy on PATH, for one that leaves the choice to it.
func (p *probe) behind(tool *catalogue.Tool, link string, out *inventory.Proxy) {
	passed := false
	for _, dir := range p.path {
		if dir == path.Dir(link) {
			passed = true
			continue
		}
		if !passed {
			continue
		}
		for _, name := range tool.Installation.Executables {
			if _, real, ok := p.executableAt(dir, name); ok {
				if in := p.installedAt(tool.Name, real); in != nil {
					out.Picks, out.Version = in.Home, in.Version
					return
				}
			}
		}
	}
}

// named is the installation of a root that a text means: its folder's name, the beginning of
// one, or a version or range of versions. A root without a folder is all of them.
func (p *probe) named(r root, raw string) *inventory.Installation {
	var newest, begun *inventory.Installation
	set, err := version.ParseRange("plain", r.tool.Scheme(), strings.TrimPrefix(raw, "v"))
	if r.tool.IsAlias(raw) {
		err = os.ErrNotExist
	}
	newer := func(a, b *inventory.Installation) bool { return b == nil || p.newer(a, b) }
	for i := range p.inv.Installations {
		in := &p.inv.Installations[i]
		if in.Tool != r.tool.Name || r.dir != "" && path.Dir(in.Home) != r.dir {
			continue
		}
		name := path.Base(in.Home)
		if name == raw {
			return in
		}
		if strings.HasPrefix(name, raw+"-") && newer(in, begun) {
			begun = in
		}
		if number, parseErr := r.tool.Scheme().Parse(in.Version); err == nil && parseErr == nil && set.Contains(number) && in.Health != "broken" && newer(in, newest) {
			newest = in
		}
	}
	if begun != nil {
		return begun
	}
	return newest
}

// because says where a setting stands.
func because(file string, line int) string { return fmt.Sprintf("%s:%d", file, line) }
