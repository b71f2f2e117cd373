package claim

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
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
	// Leave are files that are not to be read, and why.
	Leave map[string]string
	// Begin is called before each file that is read; it may be nil.
	Begin func(file string)
}

// pass is one reading under way.
type pass struct {
	*Reader
	Options
	budget  *budget
	tree    fs.FS
	rules   Rules
	scans   []scanned
	uses    []Use
	reading Reading

	folders  int
	claims   int
	same     map[string]int // how often a folder was read that git holds at many places
	told     map[string]bool
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
func (r *Reader) Read(tree fs.FS) Reading {
	return r.ReadTree(context.Background(), tree, Options{})
}

// ReadTree reads every claim of a tree. Where ctx ends, so does the reading, also inside a
// file; what was read until then is given, with a problem that names the cause.
func (r *Reader) ReadTree(ctx context.Context, tree fs.FS, o Options) Reading {
	p := &pass{Reader: r, Options: o, tree: tree, budget: newBudget(ctx), same: map[string]int{}, told: map[string]bool{}}
	p.rules = o.Rules.For(o.Name)
	p.whole(func() {
		p.ownRules()
		p.folder("", 0)
	})
	ended := p.budget.ended()
	over := p.budget.over
	p.budget = newBudget(context.WithoutCancel(ctx)) // what was read counts, however it ended
	p.whole(p.combine)
	if !ended && p.budget.over != nil {
		over = p.budget.over
	}
	if over != nil {
		p.cut(over.Error())
		p.reading.Ended = over.Error()
	}
	return p.reading
}

// whole does a part of reading that may be ended from anywhere in it.
func (p *pass) whole(do func()) {
	if err := p.budget.within(do); err != nil && p.budget.over == nil {
		p.budget.over = err
	}
	p.budget.file = allSteps // between files only the whole counts
}

func (p *pass) problem(folder, file string, err error) {
	s := scanning{file: file, folder: folder, out: &scan{}}
	s.unreadable(err)
	p.report(s.out.Problems...)
}

// report keeps problems, as many as anybody would read.
func (p *pass) report(list ...Problem) {
	for _, one := range list {
		if len(p.reading.Problems) == MaxProblems {
			p.cut(fmt.Sprintf("it has more than %d files that cannot be read or attributed; the others are not named", MaxProblems))
			return
		}
		p.reading.Problems = append(p.reading.Problems, one)
	}
}

// cut tells, once, that a part of the repository is not read.
func (p *pass) cut(reason string) {
	if !p.told[reason] {
		p.told[reason] = true
		p.reading.Problems = append(p.reading.Problems, Problem{Kind: Partial, Reason: reason})
	}
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
	entries, ok := p.open(folder)
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
		case p.budget.ended():
			return
		case e.IsDir():
			p.enter(folder, e, depth, entries)
		case p.reading.Files >= MaxFiles:
			p.cut(fmt.Sprintf("it has more than %d files; the others are not read", MaxFiles))
			return
		default:
			p.reading.Files++
			p.file(path.Join(folder, name), folder, e, name[0] == '.')
		}
	}
}

// folderCost and entryCost are what a folder and a name in it cost, in steps.
const (
	folderCost = 2_000
	entryCost  = 20
)

// open lists a folder that is read, and counts it.
func (p *pass) open(folder string) ([]fs.DirEntry, bool) {
	if p.budget.ended() {
		return nil, false
	}
	if p.folders++; p.folders > MaxFolders {
		p.cut(fmt.Sprintf("it has more than %d folders; the others are not read", MaxFolders))
		return nil, false
	}
	entries, ok := p.list(folder)
	p.budget.spend(folderCost + entryCost*len(entries))
	return entries, ok
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
	if len(p.reading.Skipped) == MaxProblems {
		return
	}
	p.reading.Skipped = append(p.reading.Skipped, SkippedFolder{folder, why})
}

// objectOf names the object behind an entry that git holds; "" for others.
func objectOf(e fs.DirEntry) string {
	if held, ok := e.(interface{ Object() string }); ok {
		return held.Object()
	}
	return ""
}

// repeated tells whether a folder was read at so many places already that it need not be again.
func (p *pass) repeated(folder string, e fs.DirEntry) bool {
	object := objectOf(e)
	if object == "" {
		return false
	}
	if p.same[object]++; p.same[object] <= MaxSame {
		return false
	}
	p.cut(fmt.Sprintf("one folder stands at more than %d places, of which %s is one; the others are not read", MaxSame, clip(folder)))
	return true
}

func (p *pass) enter(folder string, e fs.DirEntry, depth int, entries []fs.DirEntry) {
	name := e.Name()
	below := path.Join(folder, name)
	if p.repeated(below, e) {
		return
	}
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
	return "left out by rule", p.leavesOut(folder)
}

func besides(entries []fs.DirEntry, patterns []string) bool {
	return slices.ContainsFunc(entries, func(e fs.DirEntry) bool {
		return slices.ContainsFunc(patterns, func(pattern string) bool { _, ok := catalogue.HoldsFrom(pattern, e.Name()); return ok })
	})
}

// dotFolder reads the known files of a dot-folder, and unless it is quiet the small ones
// that look like version files, for the folder that holds it.
func (p *pass) dotFolder(folder, holds string, depth int, quiet bool) {
	entries, ok := p.open(folder)
	if !ok {
		return
	}
	for _, e := range entries {
		name := e.Name()
		below := path.Join(folder, name)
		if p.budget.ended() {
			return
		}
		if e.IsDir() {
			if p.repeated(below, e) {
				continue
			}
			if why, skipped := p.passedOver(below, name, entries); skipped {
				p.skip(below, why)
			} else if depth < maxDot {
				p.dotFolder(below, holds, depth+1, quiet)
			}
			continue
		}
		if p.reading.Files++; p.reading.Files > MaxFiles {
			return
		}
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
	mine := p.claimsFor(file)
	if !known && !byShape && len(mine) == 0 || p.leavesOut(file) {
		return
	}
	if why, left := p.Leave[file]; left {
		p.report(Problem{Kind: Unreadable, Folder: folder, File: file, Reason: why})
		return
	}
	var found []catalogue.Found
	reads := false
	if known {
		found = p.catalogue.RulesFor(file)
		kind, _ := p.catalogue.Places().KindOf(file)
		reads = kind != "" || p.catalogue.Places().HasView(file)
	}
	rules := p.usesAndRules(file, found)
	reads = reads || len(rules) > 0
	ordinary := slices.Contains(p.catalogue.Places().Ordinary.Files, base)
	limit := int64(MaxKnown)
	if !reads && len(mine) == 0 {
		if limit = MaxShape; !byShape || len(found) > 0 || ordinary {
			return
		}
	}
	if p.claims > MaxAll {
		p.cut(fmt.Sprintf("it makes more than %d claims; files behind those are not read", MaxAll))
		return
	}
	if p.Begin != nil {
		p.Begin(file)
	}
	s := p.remembered(file, e, func() *scan {
		return p.guarded(file, folder, func(s *scanning) {
			data, err := readLimited(p.tree, file, limit)
			switch {
			case err != nil && (reads || len(mine) > 0 || namedVersionFile(base) != ""):
				s.unreadable(err)
			case err != nil:
			default:
				if reads {
					p.scanKnown(s, data, rules)
				} else if byShape {
					s.shape(data)
				}
				p.scanRules(s.out, file, folder, data, mine)
			}
		})
	})
	p.keep(scanned{file, folder, s})
}

// usesAndRules notes which tools a file shows to be used, and gives the rules that read it.
func (p *pass) usesAndRules(file string, found []catalogue.Found) []catalogue.Found {
	var rules []catalogue.Found
	for _, f := range found {
		switch {
		case f.Rule == nil && len(p.uses) < MaxAllUses:
			p.uses = append(p.uses, Use{f.Tool.Name, f.Folder, file})
		case f.Rule == nil:
			p.cut(fmt.Sprintf("it has more than %d files that show which tools it uses; the others do not count", MaxAllUses))
		case Role(f.Rule.Role) != Residue:
			rules = append(rules, f)
		}
	}
	return rules
}

// keep takes what a file said, if it said anything.
func (p *pass) keep(s scanned) {
	p.claims += len(s.Claims)
	p.scans = append(p.scans, s)
}

// guarded reads one file with a budget of its own. What it said before its budget ran out,
// or before a fault of ours came to light, is kept.
func (p *pass) guarded(file, folder string, read func(s *scanning)) *scan {
	s := p.scanning(file, folder, &scan{})
	err := p.budget.within(func() {
		defer func() {
			thrown := recover()
			if _, spent := thrown.(overspent); spent {
				panic(thrown)
			}
			if thrown != nil {
				s.unreadable(fmt.Errorf("%w: %v", ErrFault, thrown))
			}
		}()
		read(s)
	})
	p.budget.file = allSteps
	if err != nil {
		s.partial(err.Error())
	}
	return s.out
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
	p := &pass{Reader: r, tree: tree, budget: newBudget(context.Background()), told: map[string]bool{}}
	entries, err := fs.ReadDir(tree, ".")
	if err != nil {
		return Reading{}
	}
	p.whole(func() {
		for _, e := range entries {
			if !e.IsDir() && strings.HasPrefix(e.Name(), ".") {
				p.file(e.Name(), "", e, true)
			}
		}
		p.combine()
	})
	return Reading{Claims: p.reading.Claims}
}

// Marks tells whether a file of this name alone shows that its folder is source with claims.
func (r *Reader) Marks(base string) bool {
	return r.catalogue.Known(base) || namedVersionFile(base) != ""
}
