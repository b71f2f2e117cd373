package probe

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

var numberIn = regexp.MustCompile(`\d+(?:\.\d+)*(?:[-+_.]?(?:rc|beta|alpha|[ab])\.?\d+)?`)

// versionIn is the number in a folder's name; empty where there is none.
func versionIn(name string) string {
	if strings.HasPrefix(name, ".") {
		return ""
	}
	return numberIn.FindString(name)
}

// evidence files are read up to this size, in bytes.
const maxEvidence = 1 << 20

// installation describes a candidate.
func (p *probe) installation(ctx context.Context, c *candidate) inventory.Installation {
	in := inventory.Installation{Tool: c.tool.Name, Path: c.path, Home: c.home, Origin: p.origin(c), Health: "good",
		Components: map[string]string{}, Packages: map[string]string{}}
	in.Version = p.version(ctx, c)
	switch {
	case c.broken != "":
		in.Health, in.HealthReason = "broken", c.broken
	case in.Version == "":
		in.Health, in.HealthReason = "unknown", "neither its files nor its executable tell a version"
	}
	if in.Arch = p.disk.arch(c.path); in.Arch == "" && c.broken == "" {
		in.Arch = p.machine.Info.Arch
	}
	in.Vendor = p.vendor(c)
	for _, kind := range c.tool.Packages {
		if kind.Beside == "" || p.disk.exists(filepath.Join(c.home, kind.Beside)) {
			in.Package = kind.Kind
			break
		}
	}
	for name, at := range c.tool.Installation.Components {
		if text := p.take(filepath.Join(c.home, at.File), at.Pattern); text != "" {
			in.Components[name] = text
		}
	}
	p.packages(c, in.Packages)
	return in
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
			data, err := p.disk.head(file, maxEvidence)
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
	case c.home == "/usr" || c.home == "/" || c.home == "/usr/local":
		return "system"
	case versionIn(filepath.Base(strings.TrimSuffix(c.home, "/Contents/Home"))) != "":
		return "versioned-root"
	}
	return "standalone"
}

func (p *probe) vendor(c *candidate) string {
	maker := c.tool.Installation.Maker
	if maker == nil {
		return ""
	}
	text := p.take(filepath.Join(c.home, maker.File), maker.Pattern)
	if text == "" {
		return ""
	}
	return c.tool.VendorMade(text)
}

// take gives the groups of a pattern in a file, joined with dots.
func (p *probe) take(file string, pattern catalogue.Pattern) string {
	data, err := p.disk.head(file, maxEvidence)
	if err != nil {
		return ""
	}
	return joined(pattern, string(data))
}

func joined(pattern catalogue.Pattern, text string) string {
	if pattern.Regexp == nil {
		return ""
	}
	m := pattern.FindStringSubmatch(text)
	if m == nil {
		return ""
	}
	return strings.Join(m[1:], ".")
}

// version learns a candidate's version: from files, then by asking, then from the folder's name.
func (p *probe) version(ctx context.Context, c *candidate) string {
	for _, source := range c.tool.Installation.Version {
		if source.File != "" {
			if v := p.versionFrom(c, source); v != "" {
				return v
			}
		}
	}
	if p.machine.Run && c.broken == "" {
		for _, source := range c.tool.Installation.Version {
			if source.Run != nil {
				if v := joined(source.Pattern, p.ask(ctx, c.path, source.Run, nil)); p.fits(c, v) {
					return v
				}
			}
		}
	}
	if v := versionIn(filepath.Base(c.home)); p.fits(c, v) && !c.system {
		return v
	}
	return ""
}

// versionFrom reads the version from files; a system folder may hold those of several
// installations, so the number in the executable's name must fit.
func (p *probe) versionFrom(c *candidate, source catalogue.VersionSource) string {
	for _, file := range p.matching(c.home, source.File) {
		if v := p.take(file, source.Pattern); p.fits(c, v) {
			return v
		}
	}
	return ""
}

// matching are the files below a home that a path or glob of the catalogue means.
func (p *probe) matching(home, file string) []string {
	path := filepath.Join(home, file)
	if !strings.Contains(file, "*") {
		return []string{path}
	}
	found, err := filepath.Glob(p.disk.on(path))
	if err != nil {
		return nil
	}
	if p.disk.root != "/" && p.disk.root != "" {
		for i, f := range found {
			found[i] = strings.TrimPrefix(f, filepath.Clean(p.disk.root))
		}
	}
	return found
}

var endNumber = regexp.MustCompile(`\d+\.\d+$`)

// fits tells whether the text is a version of the tool that suits the executable's name (python3.11).
func (p *probe) fits(c *candidate, text string) bool {
	if _, err := c.tool.Scheme().Parse(text); err != nil {
		return false
	}
	number := endNumber.FindString(filepath.Base(c.path))
	return number == "" || text == number || strings.HasPrefix(text, number)
}

// askLimit is how long an executable may take to tell its version.
const askLimit = 3 * time.Second

// ask runs an executable with a clean environment, outside any repository.
func (p *probe) ask(ctx context.Context, path string, args, env []string) string {
	if p.inRepository(path) {
		return ""
	}
	ctx, cancel := context.WithTimeout(ctx, askLimit)
	defer cancel()
	cmd := exec.CommandContext(ctx, path, args...)
	cmd.Dir = "/"
	cmd.Env = append([]string{"PATH=/usr/bin:/bin", "LC_ALL=C", "HOME=" + os.TempDir()}, env...)
	cmd.WaitDelay = 200 * time.Millisecond
	out, err := cmd.CombinedOutput()
	if err != nil || len(out) > 1<<16 {
		return ""
	}
	return strings.TrimSpace(string(styling.ReplaceAll(out, nil)))
}

// styling are the escapes with which programs colour what they print.
var styling = regexp.MustCompile("\x1b\\[[0-9;]*m")

// inRepository tells whether a path lies in a git repository: nothing there is ever run.
func (p *probe) inRepository(path string) bool {
	for dir := filepath.Dir(path); ; dir = filepath.Dir(dir) {
		if p.disk.exists(filepath.Join(dir, ".git")) {
			return true
		}
		if dir == filepath.Dir(dir) {
			return false
		}
	}
}
