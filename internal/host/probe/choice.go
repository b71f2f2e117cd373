package probe

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/version"
)

// defaults are the user's own choices: version files in the home folder, and a file or
// link beside a versioned root that names one of its versions.
func (p *probe) defaults(reader *reading.Reader) []inventory.Default {
	var out []inventory.Default
	have := map[string]bool{}
	add := func(tool, raw, source string) {
		if !have[tool] && raw != "" {
			have[tool] = true
			out = append(out, inventory.Default{Tool: tool, Raw: raw, Source: source})
		}
	}
	if home := p.machine.Info.Home; home != "" {
		for _, c := range reader.ReadTop(os.DirFS(p.disk.on(home))).Claims {
			if c.Role == claim.Pin {
				add(c.Tool, c.Raw, "~/"+c.File)
			}
		}
	}
	for _, root := range p.roots() {
		raw, source := p.beside(root)
		add(root.tool.Name, raw, p.short(source))
	}
	return out
}

// root is a versioned root: the folder whose children are installations.
type root struct {
	tool *catalogue.Tool
	dir  string
}

func (p *probe) roots() []root {
	var out []root
	for _, c := range p.found {
		if versionIn(filepath.Base(c.home)) == "" || c.tool.BundledWith != "" {
			continue
		}
		r := root{c.tool, filepath.Dir(c.home)}
		if !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	slices.SortFunc(out, func(a, b root) int { return strings.Compare(a.tool.Name+a.dir, b.tool.Name+b.dir) })
	return out
}

// beside finds what names the default version of a versioned root.
func (p *probe) beside(r root) (raw, source string) {
	above := filepath.Dir(r.dir)
	for _, file := range []string{
		filepath.Join(r.dir, "default"), filepath.Join(r.dir, "current"),
		filepath.Join(above, "version"), filepath.Join(above, "default"), filepath.Join(above, "current"),
	} {
		real, err := p.disk.real(file)
		if err != nil {
			continue
		}
		if p.disk.isDir(real, nil) {
			for _, c := range p.found {
				if c.tool == r.tool && c.home == real && real != file {
					return filepath.Base(real), file
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

func (p *probe) short(path string) string {
	if rest, ok := strings.CutPrefix(path, p.machine.Info.Home+"/"); ok && p.machine.Info.Home != "" {
		return "~/" + rest
	}
	return path
}

// overrides are variables that beat a pin: those the catalogue names, and <FOLDER>_VERSION
// for the dot-folder of the home in which a versioned root lies.
func (p *probe) overrides() []inventory.Override {
	var out []inventory.Override
	for _, tool := range p.catalogue.Tools() {
		for _, o := range tool.Overrides {
			value := strings.TrimSpace(p.machine.Env[o.Variable])
			if value != "" && !slices.ContainsFunc(o.Ignore, func(i catalogue.Pattern) bool { return i.FindString(value) == value }) {
				out = append(out, inventory.Override{Tool: tool.Name, Variable: o.Variable, Raw: value})
				break
			}
		}
	}
	for _, r := range p.roots() {
		inHome, ok := strings.CutPrefix(r.dir, p.machine.Info.Home+"/.")
		if !ok {
			continue
		}
		folder, _, _ := strings.Cut(inHome, "/")
		variable := strings.ToUpper(strings.NewReplacer("-", "_", ".", "_").Replace(folder)) + "_VERSION"
		if value := strings.TrimSpace(p.machine.Env[variable]); value != "" {
			out = append(out, inventory.Override{Tool: r.tool.Name, Variable: variable, Raw: value})
		}
	}
	return out
}

// firstOnPath is what a terminal finds first, tool by tool.
func (p *probe) firstOnPath(ctx context.Context, known *inventory.Machine, defaults []inventory.Default) []inventory.OnPath {
	var out []inventory.OnPath
	for _, tool := range p.catalogue.Tools() {
		for _, name := range tool.Installation.Executables {
			if strings.ContainsAny(name, "*[?") {
				continue
			}
			if at, ok := p.onPath(name); ok {
				out = append(out, p.first(ctx, tool, at, known, defaults))
				break
			}
		}
	}
	return out
}

func (p *probe) onPath(name string) (string, bool) {
	for _, dir := range p.machine.Path {
		at := filepath.Join(dir, name)
		real, err := p.disk.real(at)
		if err == nil && p.disk.executable(real) {
			return at, true
		}
	}
	return "", false
}

func (p *probe) first(ctx context.Context, tool *catalogue.Tool, at string, known *inventory.Machine, defaults []inventory.Default) inventory.OnPath {
	out := inventory.OnPath{Tool: tool.Name, Path: at}
	real, err := p.disk.real(at)
	if err != nil {
		return out
	}
	for _, in := range known.Installed(tool.Name) {
		if in.Path == real {
			out.Version = in.Version
			return out
		}
	}
	if p.disk.isShellScript(real) {
		out.Shim = true
		out.Version = p.behindShim(ctx, tool, at, known, defaults)
	}
	return out
}

// behindShim is the version a shim leads to outside any repository: the default's, or
// what it says itself.
func (p *probe) behindShim(ctx context.Context, tool *catalogue.Tool, at string, known *inventory.Machine, defaults []inventory.Default) string {
	for _, d := range defaults {
		if d.Tool != tool.Name {
			continue
		}
		set, err := version.ParseRange("plain", tool.Scheme(), d.Raw)
		if err != nil {
			continue
		}
		if in := known.Newest(tool.Name, set, inventory.Build{}); in != nil {
			return in.Version
		}
	}
	if !p.machine.Run {
		return ""
	}
	for _, source := range tool.Installation.Version {
		if source.Run != nil {
			env := []string{"PATH=" + strings.Join(p.machine.Path, ":"), "HOME=" + p.machine.Info.Home}
			return joined(source.Pattern, p.ask(ctx, at, source.Run, env))
		}
	}
	return ""
}
