package probe

import (
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
)

// Every file of a machine is opened, looked at and listed here. What lies in a folder or an image
// is reached through a root that no link leads out of, whatever the image says: its links are
// links on that machine, and the machine Wexo runs on is none of its.

// opened is the disk with its root, where the files are another machine's. Close it afterwards.
func (d disk) opened() disk {
	if !d.own() {
		d.top, d.closed = nil, true
		if top, err := os.OpenRoot(d.root); err == nil {
			d.top, d.closed = top, false
		}
	}
	return d
}

func (d disk) close() {
	if d.top != nil {
		_ = d.top.Close() // it was only read
	}
}

var errClosed = errors.New("the machine's folder cannot be read")

// rooted is a path of another machine below its root.
func rooted(at string) string {
	if at = strings.TrimPrefix(path.Clean(at), "/"); at == "" {
		return "."
	}
	return filepath.FromSlash(at)
}

// open opens a file at a path without links.
func (d disk) open(at string) (*os.File, error) {
	switch {
	case d.closed:
		return nil, errClosed
	case d.top != nil:
		return d.top.Open(rooted(at))
	}
	return os.Open(d.on(at))
}

// lstat looks at a path, and at a link itself.
func (d disk) lstat(at string) (fs.FileInfo, error) {
	switch {
	case d.closed:
		return nil, errClosed
	case d.top != nil:
		return d.top.Lstat(rooted(at))
	}
	return os.Lstat(d.on(at))
}

func (d disk) readlink(at string) (string, error) {
	switch {
	case d.closed:
		return "", errClosed
	case d.top != nil:
		return d.top.Readlink(rooted(at))
	}
	return os.Readlink(d.on(at))
}

// entries are those of a folder, as they lie there.
func (d disk) entries(dir string) []entry {
	if d.top == nil && !d.closed {
		out, _ := os.ReadDir(d.on(dir)) // what could be read counts
		return out
	}
	f, err := d.open(dir)
	if err != nil {
		return nil
	}
	defer f.Close()
	out, err := f.ReadDir(-1)
	if err != nil {
		return nil
	}
	sortEntries(out)
	return out
}

// files are the files of a folder of the machine, links followed as the machine itself does.
type files struct {
	disk disk
	dir  string
}

func (d disk) files(dir string) fs.FS { return files{d, dir} }

func (f files) at(op, name string) (string, error) {
	if !fs.ValidPath(name) {
		return "", &fs.PathError{Op: op, Path: name, Err: fs.ErrInvalid}
	}
	real, err := f.disk.real(path.Join(f.dir, name))
	if err != nil {
		return "", &fs.PathError{Op: op, Path: name, Err: fs.ErrNotExist}
	}
	return real, nil
}

// Open opens a file, or the file that a link leads to on that machine.
func (f files) Open(name string) (fs.File, error) {
	at, err := f.at("open", name)
	if err != nil {
		return nil, err
	}
	if info, err := f.disk.lstat(at); err == nil && !info.Mode().IsRegular() && !info.IsDir() {
		return nil, &fs.PathError{Op: "open", Path: name, Err: errors.New("not a regular file")} // a pipe would be waited for
	}
	return f.disk.open(at)
}

// ReadDir lists a folder.
func (f files) ReadDir(name string) ([]fs.DirEntry, error) {
	at, err := f.at("open", name)
	if err != nil {
		return nil, err
	}
	return f.disk.entries(at), nil
}

// Stat looks at a file, or at what a link leads to.
func (f files) Stat(name string) (fs.FileInfo, error) {
	at, err := f.at("stat", name)
	if err != nil {
		return nil, err
	}
	return f.disk.lstat(at)
}

// Lstat looks at a file, and at a link itself.
func (f files) Lstat(name string) (fs.FileInfo, error) {
	above, err := f.at("lstat", path.Dir(name))
	if err != nil {
		return nil, err
	}
	return f.disk.lstat(path.Join(above, path.Base(name)))
}

// ReadLink is where a link leads.
func (f files) ReadLink(name string) (string, error) {
	above, err := f.at("readlink", path.Dir(name))
	if err != nil {
		return "", err
	}
	return f.disk.readlink(path.Join(above, path.Base(name)))
}
