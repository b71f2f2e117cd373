package probe

import (
	"bufio"
	"bytes"
	"context"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/host/rpmdb"
)

// systemPackages are what the system's package management says, read from its files.
type systemPackages struct {
	debs  map[string]systemPackage
	names []string                 // of those, sorted
	lists map[string][]string      // of each Debian package the files that list what it holds
	files map[string]systemPackage // by the path of an executable, where the database names files itself
}

type systemPackage struct {
	name, version string
	size          int64  // in bytes
	list          string // the file that was written when it was installed, where there is one
}

// maxDatabase is up to which size a database of packages is read, in bytes.
const maxDatabase = 64 << 20

// packageOf is the system's package that an executable belongs to.
func (p *probe) packageOf(c *candidate) (systemPackage, bool) {
	if c.broken != "" || !c.system && !within("/usr", c.path) && !within("/opt", c.path) {
		return systemPackage{}, false
	}
	if c.owner == nil {
		one, ok := p.packaging.files[unmerged(c.path)]
		if !ok {
			one, _ = p.debOf(c)
		}
		c.owner = &one
	}
	return *c.owner, c.owner.name != ""
}

// unmerged is a path as packages name it that do not know that /bin became /usr/bin.
func unmerged(at string) string {
	for _, dir := range []string{"/bin/", "/sbin/", "/lib/"} {
		if strings.HasPrefix(at, dir) {
			return "/usr" + at
		}
	}
	return at
}

// readPackages reads the databases that name packages with their versions.
func (p *probe) readPackages(ctx context.Context) {
	p.packaging.debs, p.packaging.files = map[string]systemPackage{}, map[string]systemPackage{}
	for _, file := range append([]string{"/var/lib/dpkg/status"}, p.glob("/var/lib/dpkg/status.d/*")...) {
		if data, err := p.disk.head(file, maxDatabase); err == nil {
			p.readDebs(data)
		}
	}
	p.packaging.names = sortedKeys(p.packaging.debs)
	p.packaging.lists = map[string][]string{}
	for _, e := range p.disk.list("/var/lib/dpkg/info") {
		if name, ok := strings.CutSuffix(e.Name(), ".list"); ok {
			name, _, _ = strings.Cut(name, ":")
			p.packaging.lists[name] = append(p.packaging.lists[name], path.Join("/var/lib/dpkg/info", e.Name()))
		}
	}
	if data, err := p.disk.head("/lib/apk/db/installed", maxDatabase); err == nil {
		p.readApks(data)
	}
	for _, dir := range p.glob("/var/lib/pacman/local/*") {
		p.readPacman(dir)
	}
	p.readRPMs(ctx)
}

// rpmFiles are where RPM keeps its database, by system and by age.
var rpmFiles = []string{"/usr/lib/sysimage/rpm/rpmdb.sqlite", "/usr/lib/sysimage/rpm/Packages.db", "/var/lib/rpm/rpmdb.sqlite", "/var/lib/rpm/Packages.db", "/var/lib/rpm/Packages"}

// readRPMs reads the first database of RPM that has packages.
func (p *probe) readRPMs(ctx context.Context) {
	for _, file := range rpmFiles {
		real, err := p.disk.real(file)
		if err != nil {
			continue
		}
		packages, _ := rpmdb.Read(ctx, p.disk.on(real), p.holdsTools) // what could be read counts
		for _, one := range packages {
			for _, at := range one.Files {
				p.packaging.files[unmerged(at)] = systemPackage{name: one.Name, version: one.Version + "-" + one.Release, size: one.Size}
			}
		}
		if len(packages) > 0 {
			return
		}
	}
}

// holdsTools reports whether a folder may hold executables of tools: one for executables, or
// one that is called as one of them.
func (p *probe) holdsTools(folder string) bool {
	base := path.Base(folder)
	return strings.HasSuffix(base, "bin") || len(p.looked.exact[anywhere][base]) > 0
}

// readDebs reads stanzas of fields.
func (p *probe) readDebs(data []byte) {
	for stanza := range bytes.SplitSeq(data, []byte("\n\n")) {
		var one systemPackage
		installed := true
		for line := range bytes.Lines(stanza) {
			key, value, ok := bytes.Cut(line, []byte(":"))
			if !ok || len(key) == 0 || key[0] == ' ' {
				continue
			}
			text := string(bytes.TrimSpace(value))
			switch string(key) {
			case "Package":
				one.name = text
			case "Version":
				one.version = text
			case "Status":
				installed = strings.HasSuffix(text, " installed")
			case "Installed-Size":
				kib, _ := strconv.ParseInt(text, 10, 64)
				one.size = kib << 10
			}
		}
		if one.name != "" && installed {
			p.packaging.debs[one.name] = one
		}
	}
}

// debOf finds a Debian package whose list of files has the executable: of those alone whose
// names have something of the tool's.
func (p *probe) debOf(c *candidate) (systemPackage, bool) {
	at := unmerged(c.path)
	older := strings.TrimPrefix(at, "/usr")
	stems := stemsOf(c.tool)
	for _, name := range p.packaging.names {
		if !slices.ContainsFunc(stems, func(stem string) bool { return strings.Contains(name, stem) }) {
			continue
		}
		for _, list := range p.packaging.lists[name] {
			data, err := p.disk.head(list, maxDatabase)
			if err != nil {
				continue
			}
			if hasLine(data, at) || hasLine(data, older) {
				one := p.packaging.debs[name]
				one.list = list
				return one, true
			}
		}
	}
	return systemPackage{}, false
}

// stemsOf are the texts of which one is in the names of a tool's packages.
func stemsOf(t *catalogue.Tool) []string {
	out := append([]string{t.Name}, t.Names...)
	for _, pattern := range t.Installation.Executables {
		if stem := stemOf(pattern); len(stem) > 1 {
			out = append(out, stem)
		}
	}
	return out
}

// stemOf is the word with which a pattern of executables begins.
func stemOf(pattern string) string {
	return strings.TrimRight(strings.TrimRightFunc(strings.SplitN(pattern, "[", 2)[0], func(r rune) bool { return r == '*' || r == '.' || r >= '0' && r <= '9' }), "-.")
}

func sortedKeys[T any](m map[string]T) []string {
	out := make([]string, 0, len(m))
	for key := range m {
		out = append(out, key)
	}
	slices.Sort(out)
	return out
}

func hasLine(data []byte, line string) bool {
	if line == "" {
		return false
	}
	for rest := data; ; {
		at := bytes.Index(rest, []byte(line))
		if at < 0 {
			return false
		}
		begin, end := len(data)-len(rest)+at, len(data)-len(rest)+at+len(line)
		if (begin == 0 || data[begin-1] == '\n') && (end == len(data) || data[end] == '\n') {
			return true
		}
		rest = data[end:]
	}
}

// readApks reads a database that names each package's files: P is the package, V its
// version, I its size, F a folder and R a file in it.
func (p *probe) readApks(data []byte) {
	var one systemPackage
	dir := ""
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		key, value, ok := strings.Cut(lines.Text(), ":")
		switch {
		case !ok:
			one, dir = systemPackage{}, ""
		case key == "P":
			one.name = value
		case key == "V":
			one.version = value
		case key == "I":
			one.size, _ = strconv.ParseInt(value, 10, 64)
		case key == "F":
			dir = "/" + value
		case key == "R" && p.holdsTools(dir):
			p.packaging.files[unmerged(path.Join(dir, value))] = one
		}
	}
}

// readPacman reads the folder of one package: its description and its list of files.
func (p *probe) readPacman(dir string) {
	data, err := p.disk.head(path.Join(dir, "desc"), maxEntry)
	if err != nil {
		return
	}
	field := func(name string) string {
		_, rest, _ := strings.Cut(string(data), "%"+name+"%\n")
		text, _, _ := strings.Cut(rest, "\n")
		return text
	}
	one := systemPackage{name: field("NAME"), version: field("VERSION")}
	one.size, _ = strconv.ParseInt(field("SIZE"), 10, 64)
	files, err := p.disk.head(path.Join(dir, "files"), maxEvidence)
	if err != nil || one.name == "" {
		return
	}
	for line := range strings.Lines(string(files)) {
		if at := "/" + strings.TrimSpace(line); p.holdsTools(path.Dir(at)) {
			p.packaging.files[unmerged(at)] = one
		}
	}
}

// upstream is the number of the packaged version itself, without an epoch, a revision or
// what a repackaging adds.
var upstream = regexp.MustCompile(`^(?:\d+:)?(?:.*\+really)?v?(\d+(?:\.\d+)+)(?:[~_]?((?:rc|beta|alpha|b|a)\d+))?`)

// packaged is a candidate's version as the system's packages tell it.
func (p *probe) packaged(c *candidate) string {
	one, ok := p.packageOf(c)
	if !ok {
		return ""
	}
	m := upstream.FindStringSubmatch(one.version)
	if m == nil || !namesTool(one.name, c.tool) {
		return ""
	}
	for _, v := range []string{m[1] + m[2], m[1] + "-" + m[2], m[1]} {
		if v = strings.TrimSuffix(v, "-"); p.fits(c, v) {
			return v
		}
	}
	return ""
}

// namesTool reports whether a package is the tool's own: its version is the tool's.
func namesTool(name string, t *catalogue.Tool) bool {
	return slices.ContainsFunc(stemsOf(t), func(stem string) bool { return strings.HasPrefix(name, stem) || strings.HasSuffix(name, "-"+stem) })
}
