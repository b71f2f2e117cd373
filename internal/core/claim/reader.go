package claim

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/theory/jsonpath"

	"wexo/internal/core/catalogue"
)

// Limits of reading. A file or tree beyond them costs only itself.
const (
	MaxKnown = 4 << 20 // bytes of a known file
	MaxDepth = 40      // folders below the root
	MaxFiles = 500_000 // files of one repository
)

// skipped folders hold what was installed or built, not what a team wrote.
var skipped = map[string]bool{
	"node_modules": true, "bower_components": true, "vendor": true, "site-packages": true,
	"venv": true, ".venv": true, "__pycache__": true, "target": true, "build": true, "dist": true, ".git": true,
}

// settings folders are read for the files that rules name; their claims hold from the folder above.
var settings = map[string]bool{".vscode": true}

// Reader reads repositories with one catalogue. It may be used from several goroutines.
type Reader struct {
	catalogue *catalogue.Catalogue
	selectors selectors
}

// NewReader prepares a catalogue's rules; it fails where one of them cannot be compiled.
func NewReader(c *catalogue.Catalogue) (*Reader, error) {
	r := &Reader{c, selectors{}}
	for _, tool := range c.Tools() {
		for _, rule := range tool.Claims {
			if err := r.compile(rule); err != nil {
				return nil, fmt.Errorf("claims of %s: %w", tool.Name, err)
			}
		}
	}
	return r, nil
}

func (r *Reader) compile(rule catalogue.ClaimRule) error {
	if formats[rule.Format] == nil {
		return fmt.Errorf("unknown format %q", rule.Format)
	}
	if rule.Format != "json" {
		return nil
	}
	wanted := slices.Clone(rule.Select)
	if rule.When != nil {
		wanted = append(wanted, rule.When.Select)
	}
	for _, selector := range wanted {
		path, err := jsonpath.Parse(selector)
		if err != nil {
			return fmt.Errorf("selector %s: %w", selector, err)
		}
		r.selectors[selector] = path
	}
	return nil
}

// pass is one reading under way.
type pass struct {
	tree     fs.FS
	claims   []Claim
	uses     []Use
	problems []Problem
	files    int
}

// Read reads every claim of a tree. Folders that are repositories of their own are left out.
func (r *Reader) Read(tree fs.FS) Reading {
	p := &pass{tree: tree}
	r.readFolder(p, "", 0)
	return Reading{Claims: p.claims, Uses: p.uses, Problems: p.problems, Files: p.files}
}

func (r *Reader) readFolder(p *pass, folder string, depth int) {
	entries, err := fs.ReadDir(p.tree, dot(folder))
	if err != nil {
		p.problems = append(p.problems, Problem{Kind: Unreadable, Folder: folder, File: folder, Reason: plainError(err)})
		return
	}
	if depth > 0 && slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return e.Name() == ".git" }) {
		return
	}
	beside := r.toolsOf(entries)
	for _, e := range entries {
		name := e.Name()
		file := path.Join(folder, name)
		switch {
		case e.IsDir():
			r.enter(p, folder, name, depth)
		case p.files >= MaxFiles:
			return
		default:
			p.files++
			r.readFile(p, file, folder, e, beside)
		}
	}
}

func (r *Reader) enter(p *pass, folder, name string, depth int) {
	below := path.Join(folder, name)
	switch {
	case skipped[name]:
	case settings[name]:
		r.readSettings(p, below, folder)
	case strings.HasPrefix(name, "."):
	case depth >= MaxDepth:
		p.problems = append(p.problems, Problem{Kind: Unreadable, Folder: folder, File: below, Reason: fmt.Sprintf("folders are nested more than %d deep", MaxDepth)})
	default:
		r.readFolder(p, below, depth+1)
	}
}

// readSettings reads the known files of a settings folder for the folder above it.
func (r *Reader) readSettings(p *pass, below, folder string) {
	entries, err := fs.ReadDir(p.tree, below)
	if err != nil {
		return
	}
	for _, e := range entries {
		if !e.IsDir() {
			p.files++
			r.readFile(p, path.Join(below, e.Name()), folder, e, nil)
		}
	}
}

func (r *Reader) readFile(p *pass, file, folder string, e fs.DirEntry, beside []*catalogue.Tool) {
	base := e.Name()
	known := r.catalogue.Known(base)
	if !known && (base[0] != '.' || path.Dir(file) != dot(folder)) {
		return
	}
	uses := r.catalogue.RulesFor(file)
	reads := false
	for _, use := range uses {
		if use.Rule == nil {
			p.uses = append(p.uses, Use{use.Tool.Name, folder, file})
		} else {
			reads = true
		}
	}
	switch {
	case reads:
		data, err := readLimited(p.tree, file, MaxKnown)
		if err != nil {
			p.unreadable(folder, file, err)
			return
		}
		r.readKnown(p, file, folder, data, uses)
	case len(uses) == 0 && base[0] == '.':
		data, err := readLimited(p.tree, file, MaxShape)
		if err == nil {
			r.readShape(p, file, folder, data, beside)
		} else if namedVersionFile(base) != "" {
			p.unreadable(folder, file, err)
		}
	}
}

// toolsOf lists the tools that the files beside each other show.
func (r *Reader) toolsOf(entries []fs.DirEntry) []*catalogue.Tool {
	var out []*catalogue.Tool
	for _, e := range entries {
		if !r.catalogue.Known(e.Name()) {
			continue
		}
		for _, use := range r.catalogue.RulesFor(e.Name()) {
			if use.Rule == nil && !slices.Contains(out, use.Tool) {
				out = append(out, use.Tool)
			}
		}
	}
	return out
}

// readLimited reads a regular file of at most limit bytes.
func readLimited(tree fs.FS, file string, limit int64) ([]byte, error) {
	info, err := fs.Stat(tree, file)
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
	data, err := io.ReadAll(io.LimitReader(f, limit+1))
	if err != nil {
		return nil, errors.New(plainError(err))
	}
	return data, nil
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
	p := &pass{tree: tree}
	entries, err := fs.ReadDir(tree, ".")
	if err != nil {
		return Reading{}
	}
	for _, e := range entries {
		if !e.IsDir() && strings.HasPrefix(e.Name(), ".") {
			r.readFile(p, e.Name(), "", e, nil)
		}
	}
	return Reading{Claims: p.claims}
}

// Marks tells whether a file of this name alone shows that its folder is source with claims.
func (r *Reader) Marks(base string) bool {
	return r.catalogue.Known(base) || namedVersionFile(base) != ""
}
