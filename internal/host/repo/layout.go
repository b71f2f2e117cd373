package repo

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
)

// Within are the folders that reading may not leave, links followed; none means that it
// may go where this account may. They hold for everything that a repository leads to.
type Within []string

// Nowhere lets nothing be read.
var Nowhere = Within{""}

// Outside is a path that may not be read.
type Outside struct {
	What, Path string // "its folder", and where that leads
	Roots      Within
}

func (o *Outside) Error() string {
	return fmt.Sprintf("%s leads to %s, which does not lie below a folder that the configuration allows (%s)", o.What, o.Path, strings.Join(o.Roots, ", "))
}

// Holds tells whether a path, links followed already, lies in one of the folders.
func (w Within) Holds(real string) bool {
	return slices.ContainsFunc(w, func(root string) bool {
		rel, err := filepath.Rel(root, real)
		return err == nil && rel != ".." && !strings.HasPrefix(rel, ".."+string(filepath.Separator))
	})
}

// real follows the links of a path, and refuses one that leads outside.
func (w Within) real(what, path string) (string, error) {
	real, err := filepath.EvalSymlinks(path)
	var at *fs.PathError
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return "", fmt.Errorf("%s, %s, is not there", what, path)
	case errors.As(err, &at):
		return "", fmt.Errorf("%s, %s, cannot be read: %w", what, path, at.Err)
	case err != nil:
		return "", fmt.Errorf("%s, %s, cannot be read: %w", what, path, err)
	}
	if len(w) > 0 && !w.Holds(real) {
		return "", &Outside{what, real, w}
	}
	return real, nil
}

// check refuses a repository whose own folder is no longer what was allowed.
func (w Within) check(l Location) error {
	if len(w) == 0 {
		return nil
	}
	real, err := w.real("the repository's folder", l.Path)
	if err != nil {
		return err
	}
	if real != l.Path {
		return fmt.Errorf("a link stands in its place, and leads to %s; add that folder if it is meant", real)
	}
	return nil
}

// layout is where the parts of a git repository lie, links followed.
type layout struct {
	git     string   // what belongs to this work tree: HEAD
	common  string   // what work trees share: refs
	objects []string // its own objects, then those it shares
}

// maxAlternates is how many further folders of objects a repository may name.
const maxAlternates = 16

// layoutOf finds the parts, and refuses those that lead outside.
func (w Within) layoutOf(l Location) (layout, error) {
	at, err := w.refsOf(l)
	if err != nil {
		return at, err
	}
	own, err := w.real("its folder of objects", filepath.Join(at.common, "objects"))
	if err != nil {
		return at, err
	}
	at.objects = []string{own}
	for i := 0; i < len(at.objects); i++ {
		list, err := small(at.objects[i], "info/alternates")
		if err != nil {
			return at, err
		}
		for line := range strings.Lines(string(list)) {
			line = strings.TrimRight(line, "\r\n")
			if line == "" || line[0] == '#' {
				continue
			}
			if !filepath.IsAbs(line) {
				line = filepath.Join(at.objects[i], line)
			}
			further, err := w.real("the objects that it shares", line)
			var outside *Outside
			switch {
			case errors.As(err, &outside):
				return at, err
			case err != nil || slices.Contains(at.objects, further): // git passes over it too
				continue
			case len(at.objects) > maxAlternates:
				return at, fmt.Errorf("it shares the objects of more than %d repositories", maxAlternates)
			}
			at.objects = append(at.objects, further)
		}
	}
	return at, nil
}

// refsOf finds where HEAD and refs lie.
func (w Within) refsOf(l Location) (layout, error) {
	at := layout{git: l.Path}
	if l.Kind == Git {
		at.git = filepath.Join(l.Path, ".git")
		info, err := os.Lstat(at.git)
		if err != nil {
			return at, fmt.Errorf("its .git cannot be read: %w", err)
		}
		if info.Mode()&fs.ModeSymlink == 0 && !info.IsDir() { // a linked work tree, or a submodule
			text, err := small(l.Path, ".git")
			if err != nil {
				return at, err
			}
			target, ok := strings.CutPrefix(strings.TrimRight(string(text), "\r\n"), "gitdir: ")
			if !ok || target == "" {
				return at, errors.New("its .git is a file that names no repository")
			}
			if at.git = target; !filepath.IsAbs(target) {
				at.git = filepath.Join(l.Path, target)
			}
		}
	}
	var err error
	if at.git, err = w.real("its .git", at.git); err != nil {
		return at, err
	}
	at.common = at.git
	text, err := small(at.git, "commondir")
	if err != nil {
		return at, err
	}
	if named := strings.TrimRight(string(text), "\r\n"); named != "" {
		if at.common = named; !filepath.IsAbs(named) {
			at.common = filepath.Join(at.git, named)
		}
		if at.common, err = w.real("the repository of its work tree", at.common); err != nil {
			return at, err
		}
	}
	return at, nil
}

// maxSmall is the largest of git's own files that is read, in bytes: packed refs are long.
const maxSmall = 16 << 20

// small reads one of git's own files, named as it lies in one of its folders; nil where it is
// not there. Anything but a regular file is refused: a pipe would keep the reader waiting. No
// link leads out of the folder, whichever part of the name is one.
func small(folder, name string) ([]byte, error) {
	root, err := os.OpenRoot(folder)
	if errors.Is(err, fs.ErrNotExist) || isNoFolder(err) {
		return nil, nil
	}
	if err != nil {
		return nil, gitFileError(name, err)
	}
	defer root.Close()
	at := filepath.FromSlash(name)
	info, err := root.Lstat(at)
	if errors.Is(err, fs.ErrNotExist) || isNoFolder(err) {
		return nil, nil
	}
	if err != nil {
		return nil, gitFileError(name, err)
	}
	if !info.Mode().IsRegular() || info.Size() > maxSmall {
		return nil, fmt.Errorf("%s of its .git is no regular file of at most %d MB", path.Base(name), maxSmall>>20)
	}
	f, err := root.OpenFile(at, os.O_RDONLY|noWait, 0)
	if err != nil {
		return nil, gitFileError(name, err)
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, maxSmall+1))
	if err != nil {
		return nil, gitFileError(name, err)
	}
	return data, nil
}

func gitFileError(file string, err error) error {
	var pathErr *fs.PathError
	if errors.As(err, &pathErr) {
		err = pathErr.Err
	}
	if leavesRoot(err) {
		return fmt.Errorf("%s of its .git is reached by a link that leads out of it", file)
	}
	return fmt.Errorf("%s of its .git cannot be read: %w", file, err)
}

// leavesRoot reports whether an error is that of a link that leads out of a root; the library
// has no name for it.
func leavesRoot(err error) bool {
	return err != nil && strings.Contains(err.Error(), "path escapes from parent")
}
