package probe

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
)

// candidate is an executable that may be an installation.
type candidate struct {
	tool   *catalogue.Tool
	path   string // links followed
	link   string // where it was found
	home   string
	broken string // why it cannot be an installation that works
	system bool
	inside bool // it lies in the root in which it was found, or in one of them
	surely bool // it lies in a bin folder, and is no other program of the same name

	notes    []string       // why asking it told nothing
	refused  string         // what it said when it did not start
	owner    *systemPackage // once it was asked for; without a name where there is none
	doubtful bool           // its files may be those of another version
}

// maxFolders limits the search on a machine with unusual disks.
const maxFolders = 60_000

// looking is what names of executables mean: those of all tools at once, so that a folder is
// looked through once.
type looking struct {
	insides []string
	exact   map[string]map[string][]pattern // by the folder inside a home and the name
	globs   map[string][]pattern
}

// pattern is a name, or a glob of names, of a tool's executable.
type pattern struct {
	tool *catalogue.Tool
	text string
	rank int
}

func lookingFor(tools []*catalogue.Tool) *looking {
	l := &looking{exact: map[string]map[string][]pattern{}, globs: map[string][]pattern{}}
	for _, t := range tools {
		for _, inside := range t.Installation.Inside {
			if !slices.Contains(l.insides, inside) {
				l.insides = append(l.insides, inside)
				l.exact[inside] = map[string][]pattern{}
			}
			l.add(inside, t)
		}
		l.addAnywhere(t)
	}
	return l
}

// anywhere stands for folders that hold executables of many tools: those of the system.
const anywhere = "*"

func (l *looking) addAnywhere(t *catalogue.Tool) {
	if l.exact[anywhere] == nil {
		l.exact[anywhere] = map[string][]pattern{}
	}
	l.add(anywhere, t)
}

func (l *looking) add(inside string, t *catalogue.Tool) {
	for i, text := range t.Installation.Executables {
		one := pattern{t, text, i}
		if strings.ContainsAny(text, "*?[") {
			l.globs[inside] = append(l.globs[inside], one)
		} else {
			l.exact[inside][text] = append(l.exact[inside][text], one)
		}
	}
}

// match finds the tools that a name of an executable belongs to.
func (l *looking) match(inside, name string) []pattern {
	out := l.exact[inside][name]
	for _, g := range l.globs[inside] {
		if ok, err := path.Match(g.text, name); ok && err == nil {
			out = append(out[:len(out):len(out)], g)
		}
	}
	return out
}

// homeFolders are the home folders that are searched: the user's own, and on a machine
// that is looked at from outside those of the others.
func (p *probe) homeFolders() []string {
	var out []string
	if home := p.machine.Info.Home; home != "" {
		out = append(out, home)
	}
	if !p.foreign() {
		return out
	}
	for _, glob := range p.catalogue.Places().Machines.Homes {
		for _, dir := range p.glob(glob) {
			if !slices.Contains(out, dir) && p.disk.isDir(dir, nil) {
				out = append(out, dir)
			}
		}
	}
	return out
}

// foreign reports whether the machine is looked at from outside.
func (p *probe) foreign() bool { return !p.disk.own() }

// search walks the places where versioned roots lie.
func (p *probe) search() {
	places := &p.catalogue.Places().Machines
	for _, home := range p.homes {
		for _, e := range p.disk.list(home) {
			at, depth := path.Join(home, e.Name()), places.OpenFolders
			if strings.HasPrefix(e.Name(), ".") {
				depth = places.DotFolders
			}
			if !places.Skips(e.Name()) && p.disk.isDir(at, e) {
				p.walk(at, at, depth-1)
			}
		}
		for _, root := range places.Home {
			if root.OS == "" || root.OS == p.machine.Info.OS {
				at := path.Join(home, root.Path)
				p.walk(at, at, root.Depth)
			}
		}
	}
	for _, root := range places.Roots {
		if root.OS == "" || root.OS == p.machine.Info.OS {
			p.walk(root.Path, root.Path, root.Depth)
		}
	}
}

// walk looks for installations in a folder and below it.
func (p *probe) walk(root, dir string, depth int) {
	if before, walked := p.walked[dir]; walked && before >= depth {
		return
	}
	p.walked[dir] = depth
	if p.folders++; p.folders > maxFolders {
		return
	}
	entries := p.disk.list(dir)
	home := p.examine(root, dir, entries)
	if depth <= 0 || home && versionIn(path.Base(dir)) != "" || p.worktree(root, dir, entries) {
		return
	}
	for _, e := range entries {
		if e.IsDir() && !p.catalogue.Places().Machines.Skips(e.Name()) {
			p.walk(root, path.Join(dir, e.Name()), depth-1)
		}
	}
}

// worktree reports whether a folder is a working tree that is not entered: people's own
// projects. What hides behind a dot is not written by them, and may have come as one.
func (p *probe) worktree(root, dir string, entries []entry) bool {
	if strings.HasPrefix(path.Base(root), ".") || !slices.Contains(p.homes, path.Dir(root)) {
		return false
	}
	return slices.ContainsFunc(entries, func(e entry) bool { return e.Name() == ".git" }) || p.avoided(dir)
}

// examine looks for executables of every tool in a folder and tells whether it is an installation's home.
func (p *probe) examine(root, dir string, entries []entry) bool {
	isHome := false
	for _, inside := range p.looked.insides {
		listed := entries
		if inside != "" {
			first, _, _ := strings.Cut(inside, "/")
			if !slices.ContainsFunc(entries, func(e entry) bool { return e.Name() == first }) {
				continue
			}
			listed = p.disk.list(path.Join(dir, inside))
		}
		if p.pick(root, inside, path.Join(dir, inside), listed, false) {
			isHome = true
		}
	}
	return isHome
}

// pick adds the executables of one folder.
func (p *probe) pick(root, inside, dir string, entries []entry, system bool) bool {
	type hit struct {
		pattern
		name string
	}
	var hits []hit
	for _, e := range entries {
		if e.IsDir() {
			continue
		}
		for _, one := range p.looked.match(inside, p.bare(e.Name())) {
			hits = append(hits, hit{one, e.Name()})
		}
	}
	slices.SortStableFunc(hits, func(a, b hit) int { return a.rank - b.rank })
	any := false
	for _, h := range hits {
		if p.add(root, h.tool, path.Join(dir, h.name), system) {
			any = true
		}
	}
	return any
}

// bare is an executable's name without the ending that Windows gives it.
func (p *probe) bare(name string) string {
	if !p.windows {
		return name
	}
	lower := strings.ToLower(name)
	for _, ending := range []string{".exe", ".cmd", ".bat"} {
		if strings.HasSuffix(lower, ending) {
			return lower[:len(lower)-len(ending)]
		}
	}
	return ""
}

// add takes an executable, unless it is a proxy, lies in an environment that only borrows
// its installation, or is known already.
func (p *probe) add(root string, tool *catalogue.Tool, link string, system bool) bool {
	real, err := p.disk.real(link)
	c := &candidate{tool: tool, path: real, link: link, system: system}
	if err != nil {
		if system {
			return false
		}
		c.path, c.home, c.broken = link, homeOf(link), "its executable is a link that leads nowhere"
	} else {
		if s := p.stub(real); s != nil {
			p.passing[real] = true
			p.addLed(s, tool, path.Base(real))
			return false
		}
		if p.passes(tool, link, real) {
			p.passing[real] = true
			return false
		}
		c.home = homeOf(real)
		if !matches(tool, p.bare(path.Base(real))) { // bin/npm leads to a script elsewhere
			c.home = homeOf(link)
		}
		if p.disk.isDir(real, nil) {
			return false
		}
		if !p.disk.executable(real, p.windows) {
			if path.Base(path.Dir(real)) != "bin" {
				return false // a file of that name
			}
			c.broken = "its executable may not be run"
		}
	}
	for _, file := range tool.Installation.NotBeside {
		if p.disk.exists(path.Join(homeOf(link), file)) {
			return false
		}
	}
	if p.foreignTo(c) {
		return false
	}
	c.inside = within(p.realRoot(root), c.path)
	c.surely = path.Base(path.Dir(c.path)) == "bin" || path.Base(path.Dir(link)) == "bin" || system
	key := tool.Name + "\x00" + c.path
	if known, seen := p.found[key]; seen {
		known.inside, known.surely = known.inside || c.inside, known.surely || c.surely
		return known.home == c.home
	}
	if c.broken != "" && p.hasHome(tool, c.home) {
		return true
	}
	p.found[key] = c
	return true
}

func (p *probe) realRoot(root string) string {
	real, err := p.disk.real(root)
	if err != nil {
		return root
	}
	return real
}

// within reports whether a path is a folder or lies below it.
func within(dir, at string) bool {
	rest, ok := strings.CutPrefix(at, strings.TrimSuffix(dir, "/"))
	return ok && (rest == "" || rest[0] == '/')
}

// ownScript tells whether a script is the tool itself: some are started by one.
func (p *probe) ownScript(tool *catalogue.Tool, home string) bool {
	return tool.Installation.Script != "" && p.any(home, []string{tool.Installation.Script})
}

// any reports whether one of some files below a home is there.
func (p *probe) any(home string, files []string) bool {
	return slices.ContainsFunc(files, func(file string) bool {
		return slices.ContainsFunc(p.matching(home, file), p.disk.exists)
	})
}

func (p *probe) hasHome(tool *catalogue.Tool, home string) bool {
	for _, c := range p.found {
		if c.tool == tool && c.home == home {
			return true
		}
	}
	return false
}

func matches(tool *catalogue.Tool, base string) bool {
	return slices.ContainsFunc(tool.Installation.Executables, func(pattern string) bool {
		ok, err := path.Match(pattern, base)
		return err == nil && ok
	})
}

// homeOf is the folder above an executable's bin folder, or its own folder.
func homeOf(at string) string {
	dir := path.Dir(at)
	if base := path.Base(dir); base == "bin" || base == "sbin" {
		return path.Dir(dir)
	}
	return dir
}

// system looks in the system's own places and on PATH.
func (p *probe) system() {
	dirs := slices.Concat(p.catalogue.Places().Machines.System, p.path)
	seen := map[string]bool{}
	for _, dir := range dirs {
		real, err := p.disk.real(dir)
		if err != nil || seen[real] {
			continue
		}
		seen[real] = true
		root := real
		if within("/usr", real) {
			root = "/usr"
		}
		p.pick(root, anywhere, real, p.disk.list(real), true)
	}
}

// pointedAt looks where variables and editors say that an installation lies, which may be
// anywhere. Those in working trees are people's own.
func (p *probe) pointedAt() {
	var named []string
	for _, tool := range p.tools {
		for _, o := range tool.Overrides {
			if o.Locates {
				named = append(named, p.inside(p.env(o.Variable)))
			}
		}
	}
	for _, w := range p.wired {
		named = append(named, p.inside(w.Path))
	}
	shared := []string{"/", "/usr", "/usr/local", p.machine.Info.Home}
	seen := map[string]bool{}
	for _, at := range named {
		if !path.IsAbs(at) || seen[at] {
			continue
		}
		seen[at] = true
		homes := []string{at, path.Join(at, "Contents/Home")}
		if !p.disk.isDir(at, nil) { // an executable
			homes = []string{homeOf(at)}
		}
		for _, dir := range homes {
			if p.disk.isDir(dir, nil) && !slices.Contains(shared, dir) && !p.inWorkingTree(path.Join(dir, "x")) && !p.avoided(dir) {
				p.examine(dir, dir, p.disk.list(dir))
			}
		}
	}
}

// matching are the files below a home that a path or glob of the catalogue means, sorted.
func (p *probe) matching(home, file string) []string {
	at := path.Join(home, file)
	if !strings.ContainsAny(file, "*?[") {
		return []string{at}
	}
	return p.glob(at)
}

// mostGlobbed is how many paths one glob may mean.
const mostGlobbed = 5_000

// glob are the paths on the machine that a glob means, sorted. Links are followed as the
// machine itself would.
func (p *probe) glob(at string) []string {
	found := []string{"/"}
	for _, part := range strings.Split(strings.Trim(at, "/"), "/") {
		var next []string
		for _, dir := range found {
			if !strings.ContainsAny(part, "*?[") {
				next = append(next, path.Join(dir, part)) // whether it is there shows at the end
				continue
			}
			for _, e := range p.disk.list(dir) {
				if ok, err := path.Match(part, e.Name()); ok && err == nil && len(next) < mostGlobbed {
					next = append(next, path.Join(dir, e.Name()))
				}
			}
		}
		found = next
	}
	return slices.DeleteFunc(found, func(f string) bool { return !p.disk.exists(f) })
}
