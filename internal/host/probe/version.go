package probe

import (
	"archive/zip"
	"context"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

var numberIn = regexp.MustCompile(`\d+(?:\.\d+)*(?:[-+_.]?(?:rc|beta|alpha|[ab])\.?\d+)?`)

// processors are the parts of names that hold numbers and are no versions.
var processors = regexp.MustCompile(`(?i)(?:x86[_-]64|x86|x64|i[3-6]86|amd64|arm64|aarch64|armv\d+\w*|win(?:dows)?[-_]?(?:32|64)|linux[-_]?(?:32|64)|macos(?:x)?[-_]?\d*|musl|c\+\+)`)

// versionIn is the number in a folder's name; empty where there is none.
func versionIn(name string) string {
	if strings.HasPrefix(name, ".") {
		return ""
	}
	return numberIn.FindString(processors.ReplaceAllString(name, ""))
}

const (
	// maxEvidence is up to which size files are read that tell a version, in bytes.
	maxEvidence = 4 << 20
	// maxArchive is up to which size archives are opened for an entry.
	maxArchive = 64 << 20
	// maxEntry is up to which size an entry of an archive is read.
	maxEntry = 64 << 10
)

// told is a version with what told it.
type told struct {
	version string
	file    string // the evidence; empty where it is none of the installation's files
}

// version learns a candidate's version: from files, from the system's packages, from the
// executable's own resources, by asking, and at last from the folder's name.
func (p *probe) version(ctx context.Context, c *candidate) told {
	for _, source := range c.tool.Installation.Version {
		if source.Run == nil {
			if t := p.versionFrom(c, source); t.version != "" {
				return t
			}
		}
	}
	if v := p.packaged(c); v != "" {
		return told{version: v}
	}
	if v := resourceVersion(p.disk, c.path); p.fits(c, v) {
		return told{version: v}
	}
	if v := p.askVersion(ctx, c); v != "" {
		return told{version: v}
	}
	if v := versionIn(path.Base(strings.TrimSuffix(c.home, "/Contents/Home"))); p.fits(c, v) && !c.system && mayBe(c.tool, v) {
		return told{version: v}
	}
	return told{}
}

// mayBe reports whether a number in a folder's name may be a version: one far beyond all
// that the catalogue knows was written without its dots.
func mayBe(tool *catalogue.Tool, number string) bool {
	most := 0
	for i := range tool.Lines {
		most = max(most, major(tool.Lines[i].Line))
	}
	return most == 0 || major(number) <= most+9
}

// major is the number before a version's first dot; zero where none stands there alone.
func major(text string) int {
	first, _, _ := strings.Cut(text, ".")
	n, _ := strconv.Atoi(first)
	return n
}

// askVersion runs a candidate, if it may be run.
func (p *probe) askVersion(ctx context.Context, c *candidate) string {
	if c.broken != "" {
		return ""
	}
	for _, source := range c.tool.Installation.Version {
		if source.Run == nil {
			continue
		}
		out, err := p.ask(ctx, c, source.Run)
		if err != nil {
			c.notes = append(c.notes, err.Error())
			continue
		}
		if v := joined(source.Pattern, out); p.fits(c, v) {
			return v
		}
	}
	return ""
}

// versionFrom reads the version from files; a system folder may hold those of several
// installations, so the number in the executable's name must fit.
func (p *probe) versionFrom(c *candidate, source catalogue.VersionSource) told {
	if source.Itself {
		if v := p.searched(c, source.Pattern); p.fits(c, v) {
			return told{version: v}
		}
		return told{}
	}
	homes := []string{c.home}
	if own := homeOf(c.path); own != c.home {
		homes = append(homes, own)
	}
	for _, home := range homes {
		if len(source.Newest) > 0 {
			if t := p.newestNamed(c, home, source); t.version != "" {
				return t
			}
			continue
		}
		if source.Name != "" {
			for _, file := range p.matching(home, source.Name) {
				if v := joined(source.Pattern, strings.TrimPrefix(file, home)); p.fits(c, v) {
					return told{v, file}
				}
			}
			continue
		}
		for _, file := range p.matching(home, source.File) {
			text := ""
			if source.Entry != "" {
				text = joined(source.Pattern, p.entry(file, source.Entry))
			} else {
				text = p.take(file, source.Pattern)
			}
			if p.fits(c, text) {
				return told{text, file}
			}
		}
	}
	return told{}
}

// newestNamed is the newest version that the paths of several files tell.
func (p *probe) newestNamed(c *candidate, home string, source catalogue.VersionSource) (newest told) {
	var most version.Version
	for _, glob := range source.Newest {
		for _, file := range p.matching(home, glob) {
			text := joined(source.Pattern, strings.TrimPrefix(file, home))
			if !p.fits(c, text) {
				continue
			}
			if v, err := c.tool.Scheme().Parse(text); err == nil && (newest.version == "" || v.Compare(most) > 0) {
				newest, most = told{text, file}, v
			}
		}
	}
	return newest
}

// entry is the text of an entry of an archive; empty where it cannot be read.
func (p *probe) entry(file, name string) string {
	real, err := p.disk.real(file)
	if err != nil {
		return ""
	}
	info, err := p.disk.lstat(real)
	if err != nil || !info.Mode().IsRegular() || info.Size() > maxArchive {
		return ""
	}
	opened, err := p.disk.open(real)
	if err != nil {
		return ""
	}
	defer opened.Close()
	archive, err := zip.NewReader(opened, info.Size())
	if err != nil {
		return ""
	}
	f, err := archive.Open(name)
	if err != nil {
		return ""
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, maxEntry))
	if err != nil {
		return ""
	}
	return string(data)
}

// take gives the groups of a pattern in a file, joined with dots.
func (p *probe) take(file string, pattern catalogue.Pattern) string {
	data, err := p.disk.head(file, maxEvidence)
	if err != nil {
		return ""
	}
	return joined(pattern, string(data))
}

// joined are the groups of a pattern that took part, joined with dots.
func joined(pattern catalogue.Pattern, text string) string {
	if pattern.Regexp == nil {
		return ""
	}
	m := pattern.FindStringSubmatchIndex(text)
	if m == nil {
		return ""
	}
	var out []string
	for i := 2; i < len(m); i += 2 {
		if m[i] >= 0 {
			out = append(out, text[m[i]:m[i+1]])
		}
	}
	return strings.Join(out, ".")
}

var endNumber = regexp.MustCompile(`\d+(?:\.\d+)?$`)

// fits tells whether the text is a version of the tool that suits the executable's name
// (python3.11, gcc-12).
func (p *probe) fits(c *candidate, text string) bool {
	if text == "" {
		return false
	}
	if _, err := c.tool.Scheme().Parse(text); err != nil {
		return false
	}
	number := endNumber.FindString(p.bareName(path.Base(c.path)))
	return number == "" || text == number || strings.HasPrefix(text, number) || !strings.Contains(number, ".") && strings.HasPrefix(strings.ReplaceAll(text, ".", ""), number)
}

// bareName is a name without an ending of Windows, where that is the system.
func (p *probe) bareName(name string) string {
	if bare := p.bare(name); bare != "" {
		return bare
	}
	return name
}
