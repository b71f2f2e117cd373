//go:build unix

package repo

import (
	"fmt"
	"io/fs"
	"os"
	"syscall"
)

// folderFS is a folder on disk that nothing leads out of.
type folderFS struct {
	rootFS
	root *os.Root
}

// rootFS is what the file system of an os.Root offers.
type rootFS interface {
	fs.StatFS
	fs.ReadFileFS
	fs.ReadLinkFS
}

func folderOf(root *os.Root) fs.FS {
	fsys, ok := root.FS().(rootFS)
	if !ok {
		return root.FS()
	}
	return folderFS{fsys, root}
}

// ReadDir lists a folder, sorted by name. A root's own listing asks for the state of every
// entry, which takes longer than the rest of reading; here only names and kinds are read.
func (f folderFS) ReadDir(name string) ([]fs.DirEntry, error) {
	if !fs.ValidPath(name) {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: fs.ErrInvalid}
	}
	opened, err := f.root.OpenFile(name, os.O_RDONLY|syscall.O_DIRECTORY, 0)
	if err != nil {
		return nil, err
	}
	defer opened.Close()
	descriptor, err := syscall.Dup(int(opened.Fd()))
	if err != nil {
		return nil, &fs.PathError{Op: "readdir", Path: name, Err: err}
	}
	syscall.CloseOnExec(descriptor)
	listed := os.NewFile(uintptr(descriptor), opened.Name())
	if listed == nil {
		return nil, fmt.Errorf("listing %s: the descriptor is not valid", name)
	}
	defer listed.Close()
	entries, err := listed.ReadDir(-1)
	sortEntries(entries)
	return entries, err
}
