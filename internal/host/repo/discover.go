// Package repo finds repositories on disk and opens them as file systems: a git ref by
// reading git's objects where they lie, a working tree or plain folder through a root that
// no link leads out of. It starts no program for it.
package repo

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/unseen"
)

// Kind is what a repository is on disk.
type Kind string

// The kinds.
const (
	Git   Kind = "git"
	Bare  Kind = "bare"
	Plain Kind = "plain" // a folder of source without git
)

// Location is a repository on disk.
type Location struct {
	Name string // unique among those found together
	Path string // absolute
	Kind Kind
	// Named is a repository whose folder was given itself, and not one above it.
	Named bool
}

// maxDepth is how deep below a given folder repositories are looked for.
const maxDepth = 32

// mostNested is the same where no more than checkouts is asked for, as in a whole home folder.
const mostNested = 8

// Discover finds the repositories of the given folders: a folder that is a
// repository is taken itself, otherwise every repository below it. A folder without
// git is a plain repository where marks tells that one of its files makes claims. The
// error names each folder that cannot be read; what was found beside it still counts.
func Discover(dirs []string, marks func(base string) bool) ([]Location, []error) {
	var out []Location
	var problems []error
	seen := map[string]bool{}
	for _, dir := range dirs {
		found, err := discover(dir, marks)
		if err != nil {
			problems = append(problems, each(err)...)
		}
		for _, l := range found {
			if !seen[l.Path] {
				seen[l.Path] = true
				out = append(out, l)
			}
		}
	}
	name(out)
	return out, problems
}

// outside is the repository's folder where its .git was named, and the folder itself otherwise.
func outside(abs string) string {
	if filepath.Base(abs) == ".git" {
		return filepath.Dir(abs)
	}
	return abs
}

// each gives the errors that were joined.
func each(err error) []error {
	if joined, ok := err.(interface{ Unwrap() []error }); ok {
		return joined.Unwrap()
	}
	return []error{err}
}

func discover(dir string, marks func(string) bool) ([]Location, error) {
	abs, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if abs, err = filepath.EvalSymlinks(abs); err != nil {
		return nil, fmt.Errorf("%s: no such folder", dir)
	}
	abs = outside(abs)
	info, err := os.Stat(abs)
	switch {
	case err != nil:
		return nil, fmt.Errorf("%s: %w", dir, err)
	case !info.IsDir():
		return nil, fmt.Errorf("%s: it is a file; name a folder", dir)
	}
	entries, err := os.ReadDir(abs)
	if err != nil {
		return nil, fmt.Errorf("%s: it cannot be read: %w", dir, err)
	}
	w := &walker{marks: marks, depth: maxDepth}
	if marks == nil {
		w.depth = mostNested
	}
	found := w.walk(abs, entries, 0)
	w.led(found)
	if len(found) == 0 && slices.ContainsFunc(entries, isDotFile) {
		found = []Location{{Path: abs, Kind: Plain}}
	}
	if len(found) == 0 && len(w.closed) == 0 {
		return nil, fmt.Errorf("%s: no repository is found there; name a folder that is a repository or holds some", dir)
	}
	for i := range found {
		found[i].Named = found[i].Path == abs
	}
	return found, errors.Join(w.closed...)
}

// Passed is something below a given folder that is not looked into, though a repository may lie
// there or does.
type Passed struct {
	Path, Why string
	Kind      unseen.Kind
	Weight    unseen.Weight
}

func (p *Passed) Error() string { return p.Path + ": " + p.Why }

func isDotFile(e fs.DirEntry) bool { return e.Type().IsRegular() && strings.HasPrefix(e.Name(), ".") }

type walker struct {
	marks  func(string) bool
	depth  int // beyond which nothing is looked for
	closed []error
	links  []link
}

func (w *walker) walk(dir string, entries []fs.DirEntry, depth int) []Location {
	if kind := kindOf(entries); kind != "" {
		return append([]Location{{Path: dir, Kind: kind}}, w.submodules(dir, entries, depth)...)
	}
	var below []Location
	marked := false
	for _, e := range entries {
		name := e.Name()
		switch {
		case e.Type().IsRegular():
			marked = marked || w.marks != nil && w.marks(name)
		case e.Type()&fs.ModeSymlink != 0 && w.marks != nil:
			w.linked(filepath.Join(dir, name))
		case !e.IsDir() || name == "node_modules":
		case strings.HasPrefix(name, "."):
			if w.marks != nil {
				w.dotted(filepath.Join(dir, name), true)
			}
		case depth == w.depth:
			w.closed = append(w.closed, &Passed{filepath.Join(dir, name), fmt.Sprintf("it lies more than %d folders deep, and is not looked into for repositories; name it", maxDepth), unseen.Unread, unseen.Open})
		default:
			inside, err := os.ReadDir(filepath.Join(dir, name))
			if err != nil {
				w.shut(filepath.Join(dir, name), err)
				continue
			}
			below = append(below, w.walk(filepath.Join(dir, name), inside, depth+1)...)
		}
	}
	if marked && len(below) > 0 && slices.ContainsFunc(below, func(l Location) bool { return l.Kind != Plain }) {
		w.closed = append(w.closed, &Passed{dir, "files of its own that speak of versions are not read, since repositories lie below it; they hold in none of them", unseen.Unread, unseen.Told})
	}
	if marked && !slices.ContainsFunc(below, func(l Location) bool { return l.Kind != Plain }) {
		return []Location{{Path: dir, Kind: Plain}}
	}
	return below
}

// Gaps are problems of Discover as what was not seen: what was named and is not there, and what
// was passed over.
func Gaps(problems []error) []unseen.Gap {
	var out []unseen.Gap
	for _, p := range problems {
		var passed *Passed
		if errors.As(p, &passed) {
			out = append(out, unseen.Gap{Kind: passed.Kind, File: passed.Path, What: passed.Why, Weight: passed.Weight})
			continue
		}
		out = append(out, unseen.Gap{Kind: unseen.Missing, What: p.Error(), Weight: unseen.Lost})
	}
	return out
}

// shut tells of a folder that could not be looked into.
func (w *walker) shut(at string, err error) {
	w.closed = append(w.closed, &Passed{at, fmt.Sprintf("it cannot be looked into for repositories: %v", plainly(err)), unseen.Unread, unseen.Lost})
}

// plainly is an error of the file system without the path, which is told anyway.
func plainly(err error) error {
	var path *fs.PathError
	if errors.As(err, &path) {
		return path.Err
	}
	return err
}

// linked tells of a link to a repository, which is surveyed where it lies, if that is named.
func (w *walker) linked(at string) {
	if info, err := os.Stat(at); err != nil || !info.IsDir() {
		return
	}
	if entries, err := os.ReadDir(at); err == nil && kindOf(entries) != "" {
		real, err := filepath.EvalSymlinks(at)
		if err == nil {
			w.links = append(w.links, link{at, real})
		}
	}
}

// mostDotted is how many folders of a dot-folder are looked at.
const mostDotted = 1_000

// dotted tells of repositories in dot-folders, which programs keep for themselves: they are
// surveyed where they are named.
func (w *walker) dotted(dir string, deeper bool) {
	entries, err := os.ReadDir(dir)
	if err != nil || filepath.Base(dir) == ".git" {
		return
	}
	if kindOf(entries) != "" {
		w.closed = append(w.closed, &Passed{dir, "it is a repository in a folder whose name begins with a dot, and is not surveyed; name it", unseen.Unread, unseen.Told})
		return
	}
	for _, e := range entries[:min(len(entries), mostDotted)] {
		if deeper && e.IsDir() {
			w.dotted(filepath.Join(dir, e.Name()), false)
		}
	}
}

// link is a link to a repository, and where that lies.
type link struct{ at, leads string }

// led are the links that lead to no repository that was found.
func (w *walker) led(found []Location) {
	for _, l := range w.links {
		if !slices.ContainsFunc(found, func(f Location) bool { return f.Path == l.leads }) {
			w.closed = append(w.closed, &Passed{l.at, "it is a link to a repository, which is surveyed only where it is named", unseen.Unread, unseen.Told})
		}
	}
}

var submodulePath = regexp.MustCompile(`(?m)^[ \t]*path[ \t]*=[ \t]*(\S.*?)[ \t\r]*$`)

// submodules are the repositories that lie checked out inside a repository, as its
// .gitmodules names them. Each is a repository of its own.
func (w *walker) submodules(dir string, entries []fs.DirEntry, depth int) []Location {
	const name = ".gitmodules"
	if depth >= w.depth || !slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return e.Name() == name && e.Type().IsRegular() }) {
		return nil
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil
	}
	defer root.Close()
	info, err := root.Lstat(name)
	if err != nil || info.Size() > maxModules {
		w.closed = append(w.closed, &Passed{filepath.Join(dir, name), "it is too large to be read, so that submodules are not looked for", unseen.Unread, unseen.Open})
		return nil
	}
	data, err := fs.ReadFile(root.FS(), name)
	if err != nil {
		w.shut(filepath.Join(dir, name), err)
		return nil
	}
	var out []Location
	for _, m := range submodulePath.FindAllStringSubmatch(string(data), -1) {
		at := m[1]
		if !fs.ValidPath(at) {
			continue
		}
		info, err := root.Lstat(at)
		if err == nil && info.IsDir() {
			below, err := os.ReadDir(filepath.Join(dir, at))
			if err == nil && kindOf(below) == Git {
				out = append(out, w.walk(filepath.Join(dir, at), below, depth+1)...)
				continue
			}
		}
		w.closed = append(w.closed, &Passed{filepath.Join(dir, at), "it is a submodule that is not checked out, and is not read", unseen.Missing, unseen.Told})
	}
	return out
}

// maxModules is the largest .gitmodules that is read, in bytes.
const maxModules = 64 << 10

// kindOf tells a git repository by what lies in its folder.
func kindOf(entries []fs.DirEntry) Kind {
	head, objects, refs := false, false, false
	for _, e := range entries {
		switch e.Name() {
		case ".git":
			return Git
		case "HEAD":
			head = e.Type().IsRegular()
		case "objects":
			objects = e.IsDir()
		case "refs":
			refs = e.IsDir()
		}
	}
	if head && objects && refs {
		return Bare
	}
	return ""
}

// At is the repository at a folder, whatever it is.
func At(dir string) (Location, error) {
	abs, err := filepath.Abs(dir)
	if err != nil {
		return Location{}, err
	}
	if abs, err = filepath.EvalSymlinks(abs); err != nil {
		return Location{}, fmt.Errorf("%s: no such folder", dir)
	}
	abs = outside(abs)
	entries, err := os.ReadDir(abs)
	if err != nil {
		return Location{}, fmt.Errorf("%s: %w", dir, err)
	}
	kind := kindOf(entries)
	if kind == "" {
		kind = Plain
	}
	l := []Location{{Path: abs, Kind: kind, Named: true}}
	name(l)
	return l[0], nil
}

// name gives each repository its folder's name, with as many folders above as it takes to be unique.
func name(list []Location) {
	slices.SortFunc(list, func(a, b Location) int { return strings.Compare(a.Path, b.Path) })
	for parts := 1; parts < 64; parts++ {
		count := map[string]int{}
		for i := range list {
			if parts == 1 || list[i].Name == "" {
				count[tail(list[i].Path, parts)]++
			}
		}
		done := true
		for i := range list {
			if list[i].Name != "" {
				continue
			}
			if t := tail(list[i].Path, parts); count[t] == 1 {
				list[i].Name = t
			} else {
				done = false
			}
		}
		if done {
			return
		}
	}
}

func tail(path string, parts int) string {
	all := strings.Split(filepath.ToSlash(path), "/")
	t := strings.Join(all[max(len(all)-parts, 0):], "/")
	return strings.TrimSuffix(strings.TrimPrefix(t, "/"), ".git")
}
