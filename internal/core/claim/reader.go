package claim

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
)

// Limits of reading. A file or tree beyond them costs only itself.
const (
	MaxKnown  = 8 << 20  // bytes of a known file; lock files are long
	MaxShape  = 64 << 10 // bytes of a file that is looked at for its shape
	MaxDepth  = 40       // folders below the root
	MaxFiles  = 500_000  // files of one repository
	MaxClaims = 10_000   // of one file
	maxDot    = 3        // folders below a dot-folder
)

// Reader reads repositories with one catalogue. It may be used from several goroutines.
type Reader struct {
	catalogue *catalogue.Catalogue
	selectors selectors
	residues  []catalogue.Use
}

// NewReader prepares a catalogue's rules; it fails where one of them cannot be compiled.
func NewReader(c *catalogue.Catalogue) (*Reader, error) {
	r := &Reader{catalogue: c, selectors: selectors{}}
	for _, use := range c.Uses() {
		if err := r.compile(use.Rule); err != nil {
			return nil, fmt.Errorf("claims of %s: %w", use.Tool.Name, err)
		}
		if Role(use.Rule.Role) == Residue {
			r.residues = append(r.residues, use)
		}
	}
	for _, v := range c.Places().Variables {
		for _, text := range append(v.Selectors(), v.Parent, v.At) {
			if err := r.compileSelector(v.Format, text); err != nil {
				return nil, err
			}
		}
	}
	return r, nil
}

func (r *Reader) compile(rule *catalogue.ClaimRule) error {
	wanted := append(slices.Clone(rule.Select), rule.Unless...)
	if rule.When != nil {
		wanted = append(wanted, rule.When.Select)
	}
	if rule.Locked != nil {
		wanted = append(wanted, rule.Locked.Each)
	}
	if rule.Format != foldersFormat && formats[rule.Format].parse == nil {
		return fmt.Errorf("unknown format %q", rule.Format)
	}
	for _, text := range wanted {
		if err := r.compileSelector(rule.Format, text); err != nil {
			return err
		}
	}
	return nil
}

func (r *Reader) compileSelector(format, text string) error {
	compile := formats[format].compile
	if compile == nil || text == "" || r.selectors[text] != nil {
		return nil
	}
	s, err := compile(text)
	if err != nil {
		return fmt.Errorf("selector %s: %w", text, err)
	}
	r.selectors[text] = s
	return nil
}

// ErrFault is a fault of Wexo itself, which a file brought to light.
var ErrFault = errors.New("reading it brought a fault of Wexo to light; please report it")

// Options say how to read a tree. The zero value reads a committed tree by the catalogue alone.
type Options struct {
	WorkingTree bool  // what builds left behind is read too
	Rules       Rules // the user's, for every repository
	Name        string
	// Remember keeps what files said, to be given again when a file is the same; nil keeps nothing.
	Remember *Memory
	// Stop ends the reading early, when it is closed; nil never does.
	Stop <-chan struct{}
}

func (o Options) stopped() bool {
	select {
	case <-o.Stop:
		return true
	default:
		return false
	}
}

// pass is one reading under way.
type pass struct {
	*Reader
	Options
	tree    fs.FS
	rules   Rules
	scans   []scanned
	uses    []Use
	reading Reading

	ignores  []ignoreFile   // what version control leaves out of a working tree
	definers map[string]int // files that define names, as places in scans; made when asked for
}

// scanned is a file with what it says by itself.
type scanned struct {
	file, folder string
	*scan
}

// Read reads every claim of a committed tree. Folders that are repositories of their own
// are left out.
func (r *Reader) Read(tree fs.FS) Reading { return r.ReadTree(tree, Options{}) }

// ReadTree reads every claim of a tree.
func (r *Reader) ReadTree(tree fs.FS, o Options) Reading {
	p := &pass{Reader: r, Options: o, tree: tree}
	p.rules = o.Rules.For(o.Name)
	p.ownRules()
	p.folder("", 0)
	return p.combine()
}

func (p *pass) problem(folder, file string, err error) {
	s := scanning{file: file, folder: folder, out: &scan{}}
	s.unreadable(err)
	p.reading.Problems = append(p.reading.Problems, s.out.Problems...)
}

func (p *pass) list(folder string) ([]fs.DirEntry, bool) {
	entries, err := fs.ReadDir(p.tree, dot(folder))
	if err != nil {
		p.problem(folder, folder, errors.New(plainError(err)))
		return nil, false
	}
	return entries, true
}

func (p *pass) folder(folder string, depth int) {
	if p.stopped() {
		return
	}
	entries, ok := p.list(folder)
	if !ok {
		return
	}
	if depth > 0 && p.leftBehind(folder, entries) {
		return
	}
	p.noteIgnored(folder, entries)
	for _, e := range entries {
		name := e.Name()
		switch {
		case e.IsDir():
			p.enter(folder, name, depth, entries)
		case p.reading.Files >= MaxFiles:
			return
		case p.stopped():
			return
		default:
			p.reading.Files++
			p.file(path.Join(folder, name), folder, e, name[0] == '.')
		}
	}
}

// leftBehind tells whether a folder is no source by what lies in it: a repository of its
// own, an environment, a build.
func (p *pass) leftBehind(folder string, entries []fs.DirEntry) bool {
	for _, e := range entries {
		switch e.Name() {
		case ".git":
			p.skip(folder, "a repository of its own")
			return true
		case "pyvenv.cfg":
			p.residue(folder, e.Name())
			p.skip(folder, "a virtual environment")
			return true
		case "CACHEDIR.TAG":
			p.residues(folder, path.Base(folder))
			p.skip(folder, "a cache")
			return true
		case "CMakeCache.txt":
			p.residue(folder, e.Name())
			p.skip(folder, "built")
			return true
		}
	}
	return false
}

func (p *pass) skip(folder, why string) {
	p.reading.Skipped = append(p.reading.Skipped, SkippedFolder{folder, why})
}

func (p *pass) enter(folder, name string, depth int, entries []fs.DirEntry) {
	below := path.Join(folder, name)
	why, skipped := p.passedOver(below, name, entries)
	switch {
	case skipped:
		p.skip(below, why)
		p.residues(below, name)
	case strings.HasPrefix(name, "."):
		p.dotFolder(below, folder, 1, slices.Contains(p.catalogue.Places().Quiet, name))
	case depth >= MaxDepth:
		p.problem(folder, below, fmt.Errorf("folders are nested more than %d deep", MaxDepth))
	default:
		p.folder(below, depth+1)
	}
}

// passedOver tells why a folder is not read, and whether that is so.
func (p *pass) passedOver(folder, name string, beside []fs.DirEntry) (why string, skipped bool) {
	s, skipped := p.catalogue.Places().Skipped(name, func(patterns []string) bool { return besides(beside, patterns) })
	if skipped && (!s.Ignored || p.leftOut(folder)) {
		return s.Why, true
	}
	return "left out by rule", p.rules.leavesOut(folder)
}

func besides(entries []fs.DirEntry, patterns []string) bool {
	return slices.ContainsFunc(entries, func(e fs.DirEntry) bool {
		return slices.ContainsFunc(patterns, func(pattern string) bool { _, ok := catalogue.HoldsFrom(pattern, e.Name()); return ok })
	})
}

// dotFolder reads the known files of a dot-folder, and unless it is quiet the small ones
// that look like version files, for the folder that holds it.
func (p *pass) dotFolder(folder, holds string, depth int, quiet bool) {
	if p.stopped() {
		return
	}
	entries, ok := p.list(folder)
	if !ok {
		return
	}
	for _, e := range entries {
		name := e.Name()
		below := path.Join(folder, name)
		if e.IsDir() {
			if why, skipped := p.passedOver(below, name, entries); skipped {
				p.skip(below, why)
			} else if depth < maxDot {
				p.dotFolder(below, holds, depth+1, quiet)
			}
			continue
		}
		p.reading.Files++
		p.file(below, holds, e, !quiet && shapely(name))
	}
}

// shapely tells whether a file's ending is one that version files have.
func shapely(name string) bool {
	switch path.Ext(name) {
	case "", ".json", ".jsonc", ".yaml", ".yml", ".toml", ".conf", ".cfg", ".ini", ".properties", ".env", ".version", ".versions", name:
		return true
	}
	return false
}

// file reads one file, or remembers what it said.
func (p *pass) file(file, folder string, e fs.DirEntry, byShape bool) {
	base := e.Name()
	known := p.catalogue.Known(base)
	mine := p.rules.claimsFor(file)
	if !known && !byShape && len(mine) == 0 || p.rules.leavesOut(file) {
		return
	}
	var found []catalogue.Found
	reads := false
	if known {
		found = p.catalogue.RulesFor(file)
		kind, _ := p.catalogue.Places().KindOf(file)
		reads = kind != "" || p.catalogue.Places().HasView(file)
	}
	var rules []catalogue.Found
	for _, f := range found {
		switch {
		case f.Rule == nil:
			p.uses = append(p.uses, Use{f.Tool.Name, f.Folder, file})
		case Role(f.Rule.Role) != Residue:
			rules = append(rules, f)
		}
	}
	reads = reads || len(rules) > 0
	ordinary := slices.Contains(p.catalogue.Places().Ordinary.Files, base)
	limit := int64(MaxKnown)
	if !reads && len(mine) == 0 {
		if limit = MaxShape; !byShape || len(found) > 0 || ordinary {
			return
		}
	}
	s := p.remembered(file, e, func() (s *scan) {
		defer func() {
			if fault := recover(); fault != nil { // a fault of ours costs one file, not the survey
				out := scanning{file: file, folder: folder, out: &scan{}}
				out.unreadable(fmt.Errorf("%w: %v", ErrFault, fault))
				s = out.out
			}
		}()
		data, err := readLimited(p.tree, file, limit)
		switch {
		case err != nil && (reads || len(mine) > 0 || namedVersionFile(base) != ""):
			out := scanning{file: file, folder: folder, out: &scan{}}
			out.unreadable(err)
			return out.out
		case err != nil:
			return &scan{}
		}
		s = &scan{}
		if reads {
			s = p.scanKnown(file, folder, data, rules)
		} else if byShape {
			s = p.scanShape(file, folder, data)
		}
		p.scanRules(s, file, folder, data, mine)
		return s
	})
	p.scans = append(p.scans, scanned{file, folder, s})
}

// readLimited reads a regular file of at most limit bytes.
func readLimited(tree fs.FS, file string, limit int64) ([]byte, error) {
	info, err := fs.Stat(tree, file) // before it is opened: a pipe would keep the opener waiting
	if err != nil {
		return nil, errors.New(plainError(err))
	}
	if !info.Mode().IsRegular() {
		return nil, errors.New("it is not a regular file")
	}
	if info.Size() > limit {
		return nil, fmt.Errorf("it has %s; no more than %s are read", bytesText(info.Size()), bytesText(limit))
	}
	f, err := tree.Open(file)
	if err != nil {
		return nil, errors.New(plainError(err))
	}
	defer f.Close()
	data := make([]byte, 0, info.Size()+1)
	for len(data) <= int(limit) {
		if len(data) == cap(data) {
			data = append(data, 0)[:len(data)]
		}
		n, err := f.Read(data[len(data):cap(data)])
		data = data[:len(data)+n]
		if errors.Is(err, io.EOF) {
			return data, nil
		}
		if err != nil {
			return nil, errors.New(plainError(err))
		}
	}
	return nil, fmt.Errorf("it grew beyond %s while it was read", bytesText(limit))
}

func bytesText(n int64) string {
	switch {
	case n >= 1<<20:
		return fmt.Sprintf("%d MB", n>>20)
	case n >= 1<<10:
		return fmt.Sprintf("%d KB", n>>10)
	}
	return fmt.Sprintf("%d bytes", n)
}

// plainError is a file error without the path, which the finding names anyway.
func plainError(err error) string {
	var pathErr *fs.PathError
	if errors.As(err, &pathErr) {
		err = pathErr.Err
	}
	switch {
	case errors.Is(err, fs.ErrPermission):
		return "this account may not read it"
	case errors.Is(err, fs.ErrNotExist):
		return "it is a link that leads nowhere"
	case strings.Contains(err.Error(), "escapes"):
		return "it is a link that leads out of the repository, and is not followed"
	}
	return err.Error()
}

func dot(folder string) string {
	if folder == "" {
		return "."
	}
	return folder
}

// ReadTop reads the version files of one folder and nothing below it, as a user's home
// folder holds them.
func (r *Reader) ReadTop(tree fs.FS) Reading {
	p := &pass{Reader: r, tree: tree}
	entries, err := fs.ReadDir(tree, ".")
	if err != nil {
		return Reading{}
	}
	for _, e := range entries {
		if !e.IsDir() && strings.HasPrefix(e.Name(), ".") {
			p.file(e.Name(), "", e, true)
		}
	}
	return Reading{Claims: p.combine().Claims}
}

// Marks tells whether a file of this name alone shows that its folder is source with claims.
func (r *Reader) Marks(base string) bool {
	return r.catalogue.Known(base) || namedVersionFile(base) != ""
}
