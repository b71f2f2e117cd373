package repo

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
)

// Tree is an opened repository. Close it when it is read.
type Tree struct {
	fs.FS
	Ref    string // what was read; empty for a working tree
	Commit string // empty for a working tree or plain folder
	Notice string // something the reader should know; empty where there is nothing
	onDisk bool   // a working tree or plain folder
	place  place  // where it lies on disk
	close  func() error
}

// Close frees what the tree holds.
func (t *Tree) Close() error {
	if t.close == nil {
		return nil
	}
	return t.close()
}

// Reading says what of a repository to read.
type Reading struct {
	Ref      string // a git ref; empty means HEAD
	Worktree bool   // the working tree, uncommitted and ignored files too
	Within   Within // folders that reading may not leave
}

// Open opens a repository for reading. A plain folder is always read as it lies there;
// so is a git repository without commits, with a notice.
func Open(ctx context.Context, l Location, how Reading) (*Tree, error) {
	if err := how.Within.check(l); err != nil {
		return nil, err
	}
	if l.Kind == Plain || how.Worktree && l.Kind == Git {
		return openFolder(l.Path)
	}
	t, err := openGit(ctx, l, how)
	if errors.Is(err, ErrNoCommits) && l.Kind == Git {
		if t, err = openFolder(l.Path); err == nil {
			t.Notice = "HEAD leads to no commit, since the repository is new; its working tree was read instead."
		}
	}
	if errors.Is(err, ErrNoCommits) && l.Kind == Bare {
		return &Tree{FS: emptyFS{}, Notice: "It has no commits yet."}, nil
	}
	return t, err
}

// emptyFS is a tree without files.
type emptyFS struct{}

func (emptyFS) Open(name string) (fs.File, error) {
	return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrNotExist}
}

// ReadDir lists the root, which is empty.
func (e emptyFS) ReadDir(name string) ([]fs.DirEntry, error) {
	if name == "." {
		return nil, nil
	}
	_, err := e.Open(name)
	return nil, err
}

func openFolder(path string) (*Tree, error) {
	root, err := os.OpenRoot(path)
	if err != nil {
		return nil, fmt.Errorf("the folder cannot be opened: %w", err)
	}
	folder, closer, err := folderOf(root)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("the folder cannot be opened: %w", err), root.Close())
	}
	at, err := openPlace(path)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("the folder cannot be opened: %w", err), closer.Close())
	}
	return &Tree{FS: folder, onDisk: true, place: at, close: func() error { return errors.Join(at.close(), closer.Close()) }}, nil
}
