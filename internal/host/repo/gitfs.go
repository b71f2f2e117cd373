package repo

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"wexo/internal/host/repo/odb"
)

// gitFS is a commit's tree as a file system. Folders are read when asked for, files only
// by those who open them.
type gitFS struct {
	mu      sync.Mutex
	objects *odb.Store
	root    odb.ID
	trees   map[odb.ID][]treeEntry // listings, however many places they stand at
	odd     map[odb.ID]string      // of trees with entries that are left out, the first
	entries int                    // in trees
	folders map[string]odb.ID      // the trees of paths that were asked for lately
}

// treeEntry is a name in a tree.
type treeEntry struct {
	name string
	mode fs.FileMode
	id   odb.ID
	link bool // a submodule: a commit of another repository, of which this one holds nothing
}

// gitEntry is a file, folder or link at a place.
type gitEntry struct {
	treeEntry
	fs    *gitFS
	in    string // the folder's path
	size  int64
	sized bool
}

const (
	maxTree    = 16 << 20  // bytes of a folder's listing
	maxBlob    = 64 << 20  // bytes of a file
	maxHeld    = 1_000_000 // names in listings that are held
	maxFolders = 20_000    // folders whose place is remembered
)

func openGit(ctx context.Context, l Location, how Reading) (*Tree, error) {
	at, err := how.Within.layoutOf(l)
	if err != nil {
		return nil, err
	}
	name := nameOf(how.Ref)
	revision, err := parseRevision(name)
	if err != nil {
		return nil, err
	}
	id, err := at.find(revision.name)
	if errors.Is(err, errNoRef) && shortName.MatchString(revision.name) {
		id, err = at.complete(revision.name)
	}
	switch {
	case errors.Is(err, errNoRef) && how.Ref == "" && at.hasBranches():
		return nil, errors.New("its HEAD leads to a branch that is not there, though others are; name the ref that is meant")
	case errors.Is(err, errNoRef) && how.Ref == "":
		return nil, ErrNoCommits
	case errors.Is(err, errNoRef):
		return nil, fmt.Errorf("it has no ref %q", how.Ref)
	case err != nil:
		return nil, err
	}
	store, err := odb.Open(at.objects, len(id)/2)
	if err != nil {
		return nil, err
	}
	id, root, err := revision.commit(store, id)
	if errors.Is(err, errNoRef) {
		err = fmt.Errorf("it has no ref %q", name)
	}
	if err != nil {
		return nil, errors.Join(err, store.Close())
	}
	g := &gitFS{objects: store, root: root, trees: map[odb.ID][]treeEntry{}, folders: map[string]odb.ID{".": root}}
	if _, err := g.tree(root); err != nil {
		return nil, errors.Join(fmt.Errorf("the files of its commit %s cannot be read: %w", id, err), store.Close())
	}
	return &Tree{FS: g, Ref: name, Commit: id, close: store.Close}, nil
}

// complete is the one object whose name begins so.
func (at layout) complete(short string) (string, error) {
	store, err := odb.Open(at.objects, at.nameSize())
	if err != nil {
		return "", err
	}
	id, err := store.Complete(short)
	if errors.Is(err, odb.ErrMissing) {
		err = errNoRef
	}
	return id.String(), errors.Join(err, store.Close())
}

// tree gives a listing, sorted by name. The caller holds the lock.
func (g *gitFS) tree(id odb.ID) ([]treeEntry, error) {
	if list, ok := g.trees[id]; ok {
		return list, nil
	}
	kind, data, err := g.objects.Read(id, maxTree) // which asks for the size before it reads
	if err == nil && kind != odb.Tree {
		err = errors.New("what should be a folder is none")
	}
	if err != nil {
		return nil, err
	}
	list, odd, err := parseTree(data, len(g.root))
	if err != nil {
		return nil, err
	}
	if odd != "" {
		if g.odd == nil {
			g.odd = map[odb.ID]string{}
		}
		g.odd[id] = odd
	}
	if g.entries += len(list); g.entries > maxHeld {
		clear(g.trees)
		g.entries = len(list)
	}
	g.trees[id] = list
	return list, nil
}

// parseTree reads a tree object: mode, space, name, zero byte, object name.
// Odd is the first entry that git would not check out, or that stands there twice: it is left out.
func parseTree(data []byte, idSize int) (list []treeEntry, odd string, err error) {
	for len(data) > 0 {
		space, zero := bytes.IndexByte(data, ' '), bytes.IndexByte(data, 0)
		if space < 0 || zero < space || len(data) < zero+1+idSize {
			return nil, "", errors.New("its folder listing is damaged")
		}
		m, link, ok := modeOf(data[:space])
		name := string(data[space+1 : zero])
		id := odb.ID(data[zero+1 : zero+1+idSize])
		data = data[zero+1+idSize:]
		if !ok || name == "" || name == "." || name == ".." || strings.Contains(name, "/") {
			odd = cmp.Or(odd, name, "a name of no letters")
			continue
		}
		list = append(list, treeEntry{name, m, id, link})
	}
	slices.SortStableFunc(list, func(a, b treeEntry) int { return strings.Compare(a.name, b.name) })
	once := slices.CompactFunc(list, func(a, b treeEntry) bool {
		if a.name == b.name {
			odd = cmp.Or(odd, a.name)
		}
		return a.name == b.name
	})
	return once, odd, nil
}

// modeOf is the kind of an entry, by the part of its mode by which git tells it too: the rest
// of what a tree says is nobody's business.
func modeOf(text []byte) (mode fs.FileMode, submodule, ok bool) {
	n, err := strconv.ParseUint(string(text), 8, 32)
	if err != nil {
		return 0, false, false
	}
	switch n & 0o170000 {
	case 0o040000:
		return fs.ModeDir | 0o755, false, true
	case 0o160000:
		return fs.ModeDir | 0o755, true, true
	case 0o100000:
		return 0o644 | fs.FileMode(n&0o111), false, true
	case 0o120000:
		return fs.ModeSymlink | 0o777, false, true
	}
	return 0, false, false
}

var errNoDirectory = errors.New("not a directory")

// folder gives the tree at a path. The caller holds the lock.
func (g *gitFS) folder(name string) (odb.ID, error) {
	if id, ok := g.folders[name]; ok {
		return id, nil
	}
	e, err := g.lookup(name)
	if err != nil {
		return "", err
	}
	switch {
	case e.link:
		return "", fs.ErrNotExist
	case !e.mode.IsDir():
		return "", errNoDirectory
	}
	if len(g.folders) > maxFolders {
		clear(g.folders)
		g.folders["."] = g.root
	}
	g.folders[name] = e.id
	return e.id, nil
}

// lookup finds an entry without following a link at its end. The caller holds the lock.
func (g *gitFS) lookup(name string) (*gitEntry, error) {
	if name == "." {
		return &gitEntry{treeEntry: treeEntry{name: ".", mode: fs.ModeDir | 0o755, id: g.root}, fs: g, in: "."}, nil
	}
	in, base := path.Dir(name), path.Base(name)
	id, err := g.folder(in)
	if err != nil {
		return nil, err
	}
	list, err := g.tree(id)
	if err != nil {
		return nil, err
	}
	i, found := slices.BinarySearchFunc(list, base, func(e treeEntry, name string) int { return cmp.Compare(e.name, name) })
	if !found {
		return nil, fs.ErrNotExist
	}
	return &gitEntry{treeEntry: list[i], fs: g, in: in}, nil
}

var errEscapes = errors.New("path escapes from the repository")

// follow finds an entry and follows links, as long as they stay in the tree.
func (g *gitFS) follow(name string) (*gitEntry, error) {
	for range 16 {
		e, err := g.lookup(name)
		if err != nil || e.mode&fs.ModeSymlink == 0 {
			return e, err
		}
		_, target, err := g.objects.Read(e.id, 4096)
		if errors.Is(err, odb.ErrTooLarge) {
			return nil, errors.New("the link is too long")
		}
		if err != nil {
			return nil, err
		}
		if path.IsAbs(string(target)) {
			return nil, errEscapes
		}
		name = path.Join(path.Dir(name), string(target))
		if !fs.ValidPath(name) {
			return nil, errEscapes
		}
	}
	return nil, errors.New("links lead in a circle")
}

func (e *gitEntry) measure() error {
	if e.sized || e.mode.IsDir() {
		return nil
	}
	kind, size, err := e.fs.objects.Stat(e.id)
	if err == nil && kind != odb.Blob {
		err = errors.New("what should be a file is none")
	}
	if err != nil {
		return err
	}
	e.size, e.sized = size, true
	return nil
}

// Open reads a file whole; check its size with Stat first.
func (g *gitFS) Open(name string) (fs.File, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	e, err := g.follow(name)
	if err != nil {
		return nil, &fs.PathError{Op: "open", Path: name, Err: err}
	}
	f := &gitFile{entry: e}
	if e.mode.IsDir() {
		return f, nil
	}
	kind, data, err := g.objects.Read(e.id, maxBlob)
	if err == nil && kind != odb.Blob {
		err = errors.New("what should be a file is none")
	}
	if err != nil {
		return nil, &fs.PathError{Op: "open", Path: name, Err: err}
	}
	e.size, e.sized = int64(len(data)), true
	f.Reader = bytes.NewReader(data)
	return f, nil
}

// Work is what reading objects has taken, in steps.
func (g *gitFS) Work() int64 {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.objects.Work()
}

// Stat describes a file, following links.
func (g *gitFS) Stat(name string) (fs.FileInfo, error) { return g.describe("stat", name, g.follow) }

// Lstat describes a file without following a link at its end.
func (g *gitFS) Lstat(name string) (fs.FileInfo, error) { return g.describe("lstat", name, g.lookup) }

func (g *gitFS) describe(op, name string, find func(string) (*gitEntry, error)) (fs.FileInfo, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	e, err := find(name)
	if err == nil {
		err = e.measure()
	}
	if err != nil {
		return nil, &fs.PathError{Op: op, Path: name, Err: err}
	}
	return e, nil
}

// ReadLink is part of fs.ReadLinkFS; the reader needs Lstat only.
func (g *gitFS) ReadLink(name string) (string, error) {
	return "", &fs.PathError{Op: "readlink", Path: name, Err: errors.ErrUnsupported}
}

// ReadDir lists a folder, sorted by name.
func (g *gitFS) ReadDir(name string) ([]fs.DirEntry, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if e, err := g.lookup(name); err == nil && e.link {
		return nil, nil // as git leaves it: an empty folder
	}
	id, err := g.folder(name)
	if err != nil {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: err}
	}
	list, err := g.tree(id)
	if err != nil {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: err}
	}
	entries := make([]gitEntry, len(list))
	out := make([]fs.DirEntry, len(list))
	for i, e := range list {
		entries[i] = gitEntry{treeEntry: e, fs: g, in: name}
		out[i] = &entries[i]
	}
	if odd := g.odd[id]; odd != "" {
		return out, fmt.Errorf("its folder listing holds %.60q as git would not check it out; that is left out", odd)
	}
	return out, nil
}

// gitEntry is its own fs.DirEntry and fs.FileInfo.
func (e *gitEntry) Name() string       { return e.name }
func (e *gitEntry) IsDir() bool        { return e.mode.IsDir() }
func (e *gitEntry) Submodule() bool    { return e.link }
func (e *gitEntry) Type() fs.FileMode  { return e.mode.Type() }
func (e *gitEntry) Mode() fs.FileMode  { return e.mode }
func (e *gitEntry) Size() int64        { return e.size }
func (e *gitEntry) ModTime() time.Time { return time.Time{} }
func (e *gitEntry) Sys() any           { return nil }

// Object is the name of a file's or a folder's object, which stands for what it holds; ""
// for links, whose target may change while they do not.
func (e *gitEntry) Object() string {
	if e.mode&fs.ModeSymlink != 0 {
		return ""
	}
	return e.id.String()
}

// Info describes the entry with its size.
func (e *gitEntry) Info() (fs.FileInfo, error) { return e.fs.Lstat(path.Join(e.in, e.name)) }

// gitFile is an opened file.
type gitFile struct {
	io.Reader
	entry *gitEntry
}

func (f *gitFile) Stat() (fs.FileInfo, error) { return f.entry, nil }
func (f *gitFile) Close() error               { return nil }
func (f *gitFile) Read(p []byte) (int, error) {
	if f.Reader == nil {
		return 0, errors.New("is a directory")
	}
	return f.Reader.Read(p)
}

func sortEntries(list []fs.DirEntry) {
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
}
