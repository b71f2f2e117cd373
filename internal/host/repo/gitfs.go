package repo

import (
	"bytes"
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"
	"sync"
	"time"
)

// gitFS is a commit's tree as a file system. Folders are read when asked for, files
// only by those who open them.
type gitFS struct {
	mu      sync.Mutex
	objects *objects
	folders map[string]map[string]*gitEntry
	ahead   map[string][]byte // listings by object name that are not parsed yet
	root    string            // the tree's object name
}

// gitEntry is a file, folder or link of the tree.
type gitEntry struct {
	fs    *gitFS
	name  string
	in    string // the folder's path
	mode  fs.FileMode
	id    string
	size  int64
	sized bool
}

// maxTree is the largest folder listing read, in bytes.
const maxTree = 64 << 20

// maxAhead is how many listings are held before they are asked for.
const maxAhead = 512

func openGit(ctx context.Context, dir, ref string) (*Tree, error) {
	o, err := startObjects(ctx, dir)
	if err != nil {
		return nil, err
	}
	name := ref
	if name == "" {
		name = "HEAD"
	}
	if strings.ContainsAny(name, "\n\r\x00") || strings.HasPrefix(name, "-") {
		return nil, errors.Join(fmt.Errorf("%q is no ref", ref), o.close())
	}
	commit, kind, _, err := o.info(name + "^{commit}")
	if err != nil {
		if errors.Is(err, errMissing) {
			o.close()
			if ref == "" {
				return nil, ErrNoCommits
			}
			return nil, fmt.Errorf("it has no ref %q", ref)
		}
		return nil, err
	}
	tree, _, _, err := o.info(commit + "^{tree}")
	if err != nil || kind != "commit" {
		return nil, errors.Join(fmt.Errorf("its commit %s cannot be read", commit), err)
	}
	g := &gitFS{objects: o, folders: map[string]map[string]*gitEntry{}, ahead: map[string][]byte{}, root: tree}
	return &Tree{FS: g, Ref: name, Commit: commit, close: o.close}, nil
}

// folder reads a folder's entries. The caller holds the lock.
func (g *gitFS) folder(name string) (map[string]*gitEntry, error) {
	if entries, ok := g.folders[name]; ok {
		return entries, nil
	}
	id := g.root
	if name != "." {
		e, err := g.lookup(name)
		if err != nil {
			return nil, err
		}
		if !e.mode.IsDir() {
			return nil, errors.New("not a directory")
		}
		id = e.id
	}
	data, err := g.listing(id)
	if err != nil {
		return nil, err
	}
	entries, err := g.parse(name, data)
	if err != nil {
		return nil, err
	}
	g.folders[name] = entries
	return entries, g.readAhead(entries)
}

// listing is a folder's tree object, read ahead or now.
func (g *gitFS) listing(id string) ([]byte, error) {
	if data, ok := g.ahead[id]; ok {
		delete(g.ahead, id)
		return data, nil
	}
	data, kind, err := g.objects.contents(id)
	if err != nil {
		return nil, err
	}
	if kind != "tree" || len(data) > maxTree {
		return nil, errors.New("its folder listing cannot be read")
	}
	return data, nil
}

// readAhead asks for the listings of the folders inside a folder together: a reader
// that walks the tree wants them next, and one exchange is faster than many.
func (g *gitFS) readAhead(entries map[string]*gitEntry) error {
	var ids []string
	for _, e := range entries {
		if e.mode.IsDir() && len(ids) < batch && len(g.ahead) < maxAhead {
			ids = append(ids, e.id)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	found, err := g.objects.several(ids)
	maps.Copy(g.ahead, found)
	return err
}

// parse reads a tree object: mode, space, name, zero byte, object name.
func (g *gitFS) parse(folder string, data []byte) (map[string]*gitEntry, error) {
	idSize := len(g.root) / 2
	entries := map[string]*gitEntry{}
	for len(data) > 0 {
		space, zero := bytes.IndexByte(data, ' '), bytes.IndexByte(data, 0)
		if space < 0 || zero < space || len(data) < zero+1+idSize {
			return nil, errors.New("its folder listing is damaged")
		}
		m, ok := modes[string(data[:space])]
		name := string(data[space+1 : zero])
		id := hex.EncodeToString(data[zero+1 : zero+1+idSize])
		data = data[zero+1+idSize:]
		if !ok || name == "" || name == "." || name == ".." || strings.Contains(name, "/") {
			continue // submodules are repositories of their own; other names lead nowhere good
		}
		entries[name] = &gitEntry{fs: g, name: name, in: folder, mode: m, id: id}
	}
	return entries, nil
}

var modes = map[string]fs.FileMode{
	"40000": fs.ModeDir | 0o755, "100644": 0o644, "100664": 0o644, "100755": 0o755, "120000": fs.ModeSymlink | 0o777,
}

// lookup finds an entry without following a link at its end. The caller holds the lock.
func (g *gitFS) lookup(name string) (*gitEntry, error) {
	if name == "." {
		return &gitEntry{fs: g, name: ".", in: ".", mode: fs.ModeDir | 0o755, id: g.root}, nil
	}
	entries, err := g.folder(path.Dir(name))
	if err != nil {
		return nil, err
	}
	e, ok := entries[path.Base(name)]
	if !ok {
		return nil, fs.ErrNotExist
	}
	return e, nil
}

var errEscapes = errors.New("path escapes from the repository")

// follow finds an entry and follows links, as long as they stay in the tree.
func (g *gitFS) follow(name string) (*gitEntry, error) {
	for range 16 {
		e, err := g.lookup(name)
		if err != nil || e.mode&fs.ModeSymlink == 0 {
			return e, err
		}
		if err := e.measure(); err != nil {
			return nil, err
		}
		if e.size > 4096 {
			return nil, errors.New("the link is too long")
		}
		target, _, err := g.objects.contents(e.id)
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
	_, _, size, err := e.fs.objects.info(e.id)
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
	data, _, err := g.objects.contents(e.id)
	if err != nil {
		return nil, &fs.PathError{Op: "open", Path: name, Err: err}
	}
	e.size, e.sized = int64(len(data)), true
	f.Reader = bytes.NewReader(data)
	return f, nil
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
	entries, err := g.folder(name)
	if err != nil {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: err}
	}
	out := make([]fs.DirEntry, 0, len(entries))
	for _, e := range entries {
		out = append(out, e)
	}
	sortEntries(out)
	return out, nil
}

// gitEntry is its own fs.DirEntry and fs.FileInfo.
func (e *gitEntry) Name() string       { return e.name }
func (e *gitEntry) IsDir() bool        { return e.mode.IsDir() }
func (e *gitEntry) Type() fs.FileMode  { return e.mode.Type() }
func (e *gitEntry) Mode() fs.FileMode  { return e.mode }
func (e *gitEntry) Size() int64        { return e.size }
func (e *gitEntry) ModTime() time.Time { return time.Time{} }
func (e *gitEntry) Sys() any           { return nil }

// Object is the name of a file's object, which stands for its bytes; "" for links, whose
// target may change while they do not.
func (e *gitEntry) Object() string {
	if !e.mode.IsRegular() {
		return ""
	}
	return e.id
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
