// Package origin tells where a file on a machine comes from: somebody's source, which came as a
// clone or an archive that anybody may have written, or what the machine's user or
// administrator installed. It draws the line of trust on the machine's side: nothing of
// somebody's source is taken for an installation, for a configuration or for a data file.
package origin

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/reading"
)

// Machine tells of one machine's files. Its paths are the machine's own, absolute, with slashes
// and with links followed. It is not for several goroutines.
type Machine struct {
	files  fs.FS // rooted at the machine's "/"
	reader *reading.Reader
	common func(dir string) bool
	trees  map[string]*tree
	marked map[string]folder
}

// On tells of the machine whose files are given. common reports folders that many people's
// things lie in side by side: the user's home, /opt. What lies beside something there says
// nothing of it.
func On(files fs.FS, reader *reading.Reader, common func(dir string) bool) *Machine {
	return &Machine{files: files, reader: reader, common: common, trees: map[string]*tree{}, marked: map[string]folder{}}
}

// File is what is asked about.
type File struct {
	Path string // absolute
	Home string // the folder that it is a whole with, at or above its own
	Tool string // the tool that it would be; "" where it is none
	// Own are the names in Home that belong to what the file would be: an official archive of a
	// package manager is a package, and has its manifest.
	Own []string
	// Kept are files below Home that show that a clone was made an installation: what a clone
	// brings does not hold them, and git does not track them.
	Kept []string
}

// Source tells why a file is part of somebody's source; "" where it is not. What git tracks
// is; so is what lies at or below a folder with manifests or claims. What git does not track
// came otherwise than by cloning, so the manifests of its clone say nothing of it; but where
// the clone pins the very tool, it is a project, and not a place to keep toolchains in.
func (m *Machine) Source(f File) string {
	untracked := ""
	for dir := path.Dir(f.Path); ; dir = path.Dir(dir) {
		if t := m.tree(dir); t != nil {
			rel := strings.TrimPrefix(strings.TrimPrefix(f.Path, dir), "/")
			switch {
			case t.bare:
				return fmt.Sprintf("it lies in the git repository %s", dir)
			case t.err != nil:
				return fmt.Sprintf("it lies in the git repository %s, and what that tracks cannot be told: %v", dir, t.err)
			case t.tracked.tracks(rel) && !m.kept(f, dir, t):
				return fmt.Sprintf("the git repository %s tracks it", dir)
			case untracked == "":
				untracked = dir
			}
		}
		if dir == "/" {
			break
		}
	}
	for dir := f.Home; !m.common(dir) && dir != "/"; dir = path.Dir(dir) {
		here := m.folder(dir)
		var own []string
		if dir == f.Home {
			own = f.Own
		}
		if dir == untracked {
			if here.pins[f.Tool] != "" && !slices.Contains(own, here.pins[f.Tool]) {
				return fmt.Sprintf("it lies in a repository that asks for it (%s)", path.Join(dir, here.pins[f.Tool]))
			}
			return ""
		}
		for _, name := range here.marks {
			if !slices.Contains(own, name) {
				return fmt.Sprintf("it lies in somebody's source (%s)", path.Join(dir, name))
			}
		}
	}
	return ""
}

// Clone is the innermost git repository in whose folder a file lies; "" where it lies in none.
func (m *Machine) Clone(at string) string {
	for dir := path.Dir(at); ; dir = path.Dir(dir) {
		if m.tree(dir) != nil {
			return dir
		}
		if dir == "/" {
			return ""
		}
	}
}

// kept reports whether a clone was made an installation.
func (m *Machine) kept(f File, dir string, t *tree) bool {
	return dir == f.Home && slices.ContainsFunc(f.Kept, func(file string) bool {
		_, err := fs.Stat(m.files, rooted(path.Join(f.Home, file)))
		return err == nil && !t.tracked.tracks(file)
	})
}

// Folder tells why a folder is part of somebody's source; "" where it is not.
func (m *Machine) Folder(dir string) string {
	for at := dir; ; at = path.Dir(at) {
		if m.tree(at) != nil {
			return fmt.Sprintf("it lies in the git repository %s", at)
		}
		if at == "/" {
			break
		}
	}
	for at := dir; !m.common(at) && at != "/"; at = path.Dir(at) {
		if marks := m.folder(at).marks; len(marks) > 0 {
			return fmt.Sprintf("it lies in somebody's source (%s)", path.Join(at, marks[0]))
		}
	}
	return ""
}

// tree is a git repository in whose folder something lies.
type tree struct {
	bare    bool
	tracked *index
	err     error
}

// tree is the git repository whose folder this is; nil where it is none.
func (m *Machine) tree(dir string) *tree {
	if t, known := m.trees[dir]; known {
		return t
	}
	t := m.look(dir)
	m.trees[dir] = t
	return t
}

func (m *Machine) look(dir string) *tree {
	there := func(name string) bool {
		_, err := fs.Lstat(m.files, rooted(path.Join(dir, name)))
		return err == nil
	}
	if there("HEAD") && there("objects") && there("refs") {
		return &tree{bare: true}
	}
	if !there(".git") {
		return nil
	}
	gitDir, err := m.gitDir(path.Join(dir, ".git"))
	t := &tree{err: err}
	if err == nil {
		t.tracked, t.err = readIndex(m.files, rooted(gitDir))
	}
	return t
}

// maxPointer is the largest file that says where a git folder lies, in bytes.
const maxPointer = 4 << 10

// gitDir is the folder that .git is, or that it names.
func (m *Machine) gitDir(at string) (string, error) {
	info, err := fs.Stat(m.files, rooted(at))
	switch {
	case err != nil:
		return "", errors.New("its .git leads nowhere")
	case info.IsDir():
		return at, nil
	}
	data, err := readFile(m.files, rooted(at), maxPointer)
	if err != nil {
		return "", err
	}
	named, ok := strings.CutPrefix(strings.TrimSpace(string(data)), "gitdir:")
	if named = strings.TrimSpace(named); !ok || named == "" {
		return "", errors.New("its .git is not one")
	}
	if !path.IsAbs(named) {
		named = path.Join(path.Dir(at), named)
	}
	if info, err := fs.Stat(m.files, rooted(named)); err != nil || !info.IsDir() {
		return "", errors.New("its .git leads nowhere")
	}
	return named, nil
}

// folder is what the files of one folder show of it.
type folder struct {
	marks []string          // files that show that it is source
	pins  map[string]string // by tool, the file that asks for it
}

// ownRules is the file in which a repository decides for itself.
const ownRules = ".wexo.yaml"

func (m *Machine) folder(dir string) folder {
	if f, known := m.marked[dir]; known {
		return f
	}
	f := folder{pins: map[string]string{}}
	if top, err := fs.Sub(m.files, rooted(dir)); err == nil {
		f.take(m.reader.ReadFolder(top))
		if _, err := fs.Lstat(top, ownRules); err == nil {
			f.mark(ownRules)
		}
	}
	m.marked[dir] = f
	return f
}

// take keeps the files that make claims or use a tool. What builds left behind, and what
// editors are pointed at, lies in other folders too.
func (f *folder) take(r fact.Reading) {
	for _, c := range r.Claims {
		if c.Role == claim.Residue || c.Role == claim.Wiring {
			continue
		}
		f.mark(c.File)
		if c.Role == claim.Pin && f.pins[c.Tool] == "" {
			f.pins[c.Tool] = c.File
		}
	}
	for _, u := range r.Uses {
		f.mark(u.File)
	}
}

func (f *folder) mark(file string) {
	if !slices.Contains(f.marks, file) {
		f.marks = append(f.marks, file)
	}
}

// rooted is an absolute path as a file system has it.
func rooted(at string) string {
	if at = strings.TrimPrefix(path.Clean(at), "/"); at == "" {
		return "."
	}
	return at
}

// readFile reads a regular file of at most so many bytes.
func readFile(files fs.FS, name string, most int64) ([]byte, error) {
	info, err := fs.Stat(files, name)
	switch {
	case err != nil:
		return nil, err
	case !info.Mode().IsRegular():
		return nil, fmt.Errorf("%s is no regular file", path.Base(name))
	case info.Size() > most:
		return nil, fmt.Errorf("%s is larger than %d MB", path.Base(name), most>>20)
	}
	f, err := files.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, most))
}
