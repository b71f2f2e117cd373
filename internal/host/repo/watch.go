package repo

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// Watched is a folder that notes the state of everything that is looked at in it, so that
// it can be told later whether a reader would see the same again.
type Watched struct {
	fs.FS
	dir   string
	began time.Time
	seen  map[string]string // path to stamp
}

// Watch begins to watch a working tree or plain folder; it gives nil for git's trees,
// whose commit says the same.
func (t *Tree) Watch(now time.Time) *Watched {
	if t.dir == "" {
		return nil
	}
	return &Watched{FS: t.FS, dir: t.dir, began: now, seen: map[string]string{}}
}

func (w *Watched) note(name string) {
	if _, noted := w.seen[name]; !noted {
		w.seen[name] = w.Stamp(name)
	}
}

// Open opens a file or folder and notes its state.
func (w *Watched) Open(name string) (fs.File, error) {
	w.note(name)
	return w.FS.Open(name)
}

// ReadDir lists a folder and notes its state.
func (w *Watched) ReadDir(name string) ([]fs.DirEntry, error) {
	w.note(name)
	return fs.ReadDir(w.FS, name)
}

// Stat follows links and notes the link's own state.
func (w *Watched) Stat(name string) (fs.FileInfo, error) {
	w.note(name)
	return fs.Stat(w.FS, name)
}

// Lstat notes a path's state, also that nothing is there.
func (w *Watched) Lstat(name string) (fs.FileInfo, error) {
	w.note(name)
	return fs.Lstat(w.FS, name)
}

// ReadLink reads a link.
func (w *Watched) ReadLink(name string) (string, error) {
	w.note(name)
	return fs.ReadLink(w.FS, name)
}

// changing is how long before a reading something must have changed last for its state
// to be relied on: clocks of file systems are coarse.
const changing = 2 * time.Second

// Stamp is the state of one path: the same stamp, the same content. It is "" where that
// cannot be relied on: links, and what changed a moment ago.
func (w *Watched) Stamp(name string) string {
	stamp, changed := stampOf(filepath.Join(w.dir, filepath.FromSlash(name)))
	if changed.After(w.began.Add(-changing)) {
		return ""
	}
	return stamp
}

func stampOf(file string) (stamp string, changed time.Time) {
	info, err := os.Lstat(file)
	switch {
	case os.IsNotExist(err):
		return "-", time.Time{}
	case err != nil || info.Mode()&fs.ModeSymlink != 0:
		return "", time.Time{}
	}
	inode, when := uint64(0), info.ModTime()
	if sys, ok := info.Sys().(*syscall.Stat_t); ok {
		inode, when = sys.Ino, time.Unix(sys.Ctim.Unix())
	}
	if info.IsDir() {
		return fmt.Sprintf("d%x.%x.%x", inode, info.ModTime().UnixNano(), when.UnixNano()), when
	}
	return fmt.Sprintf("%x.%x.%x.%x", inode, info.Size(), info.ModTime().UnixNano(), when.UnixNano()), when
}

// State is everything that was noted, as text; "" where something in it cannot be relied on.
func (w *Watched) State() string {
	var b strings.Builder
	for name, stamp := range w.seen {
		if stamp == "" || strings.ContainsAny(name, "\n") {
			return ""
		}
		b.WriteString(stamp)
		b.WriteByte(' ')
		b.WriteString(name)
		b.WriteByte('\n')
	}
	return b.String()
}

// Same tells whether everything that a state notes is still as it was in a folder.
func Same(dir, state string) bool {
	if state == "" {
		return false
	}
	for line := range strings.Lines(state) {
		was, name, ok := strings.Cut(strings.TrimSuffix(line, "\n"), " ")
		if !ok {
			return false
		}
		if is, _ := stampOf(dir + string(filepath.Separator) + filepath.FromSlash(name)); is != was {
			return false
		}
	}
	return true
}
