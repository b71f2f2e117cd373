package repo

import (
	"errors"
	"io/fs"
	"strconv"
	"strings"
	"time"
)

// Watched is a folder that notes the state of everything that is looked at in it, so that
// it can be told later whether a reader would see the same again.
type Watched struct {
	fs.FS
	place place
	began time.Time
	seen  map[string]string // path to stamp
}

// Watch begins to watch a working tree or plain folder; it gives nil for git's trees,
// whose commit says the same.
func (t *Tree) Watch(now time.Time) *Watched {
	if !t.onDisk {
		return nil
	}
	return &Watched{FS: t.FS, place: t.place, began: now, seen: map[string]string{}}
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
	stamp, changed := stampOf(nil, w.place, name)
	if changed.After(w.began.Add(-changing)) {
		return ""
	}
	return string(stamp)
}

// disk is what a disk says of a path that can change without its bytes being read.
type disk struct {
	link, folder  bool
	inode         uint64
	size, written int64 // bytes; nanoseconds since 1970
	changed       time.Time
}

// stampOf is appended to a buffer, since it is asked for very often.
func stampOf(to []byte, at place, name string) (stamp []byte, changed time.Time) {
	d, err := at.lstat(name)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return append(to, '-'), time.Time{}
	case err != nil || d.link:
		return to, time.Time{}
	}
	if d.folder {
		to, d.size = append(to, 'd'), 0 // a folder's size tells nothing more
	}
	to = strconv.AppendUint(to, d.inode, 36)
	for _, n := range []int64{d.size, d.written, d.changed.UnixNano()} {
		to = strconv.AppendInt(append(to, '.'), n, 36)
	}
	return to, d.changed
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

// Same tells whether everything that a state notes is still as it was in a repository's
// folder, and may still be read.
func Same(l Location, how Reading, state string) bool {
	if state == "" || how.Within.check(l) != nil {
		return false
	}
	at, err := openPlace(l.Path)
	if err != nil {
		return false
	}
	defer at.close()
	var is []byte
	for line := range strings.Lines(state) {
		was, name, ok := strings.Cut(strings.TrimSuffix(line, "\n"), " ")
		if !ok {
			return false
		}
		if is, _ = stampOf(is[:0], at, name); string(is) != was {
			return false
		}
	}
	return true
}
