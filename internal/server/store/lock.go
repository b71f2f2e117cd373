package store

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// Taken is a data file that another service serves.
type Taken struct{ File string }

func (t *Taken) Error() string {
	return fmt.Sprintf("another service serves the data file %s; stop it first, or give this one a file of its own with --data", t.File)
}

// Held is a data file that is one service's alone, whatever names it has: a link to it, and
// another name of it, are the same file. Nobody else can begin to serve it before Close.
type Held struct {
	Path  string   // links followed
	file  *os.File // it stays open: closing it would let go of what SQLite holds of it
	close func() error
}

// Close lets the file go. The data has to be closed before.
func (h *Held) Close() error { return errors.Join(h.close(), h.file.Close()) }

// Gone is a data file that was removed or replaced while it was served.
type Gone struct{ File, Why string }

func (g *Gone) Error() string { return "the data file " + g.File + " " + g.Plainly() }

// Plainly is what happened to the file, for those whom it does not concern where it lies.
func (g *Gone) Plainly() string {
	return g.Why + " since the service was started; nothing more is written until it is put back, or the service restarted"
}

// Whole gives an error where the file is no longer what lies at its path: what was written to
// it would be lost.
func (h *Held) Whole() error {
	held, err := h.file.Stat()
	if err != nil {
		return fmt.Errorf("the data file %s cannot be looked at: %w", h.Path, err)
	}
	now, err := os.Stat(h.Path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return &Gone{h.Path, "was removed"}
	case err != nil:
		return fmt.Errorf("the data file %s cannot be looked at: %w", h.Path, err)
	case !os.SameFile(held, now):
		return &Gone{h.Path, "was replaced by another"}
	}
	return nil
}

// Lock takes a data file for one service, and makes it where it is missing. The system lets it
// go when the process ends, however it ends, so that no lock is left behind.
func Lock(file string) (*Held, error) {
	real, err := filepath.EvalSymlinks(file)
	if errors.Is(err, fs.ErrNotExist) {
		if real, err = filepath.EvalSymlinks(filepath.Dir(file)); err == nil {
			real = filepath.Join(real, filepath.Base(file))
		}
	}
	if err != nil {
		return nil, fmt.Errorf("opening the data file %s: %w", file, err)
	}
	if info, err := os.Stat(real); err == nil && !info.Mode().IsRegular() {
		return nil, &Foreign{file, "is no ordinary file"}
	}
	f, err := os.OpenFile(real, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("opening the data file %s: %w", file, err)
	}
	held := &Held{Path: real, file: f, close: func() error { return nil }}
	if err := lockFile(f); err != nil {
		return nil, errors.Join(locking(file, err), f.Close())
	}
	return held, nil
}

// Aliased reports whether a file has further names, and a service serves it: it may do so by
// another name, and what is written by this one would be lost.
func Aliased(file string) bool {
	info, err := os.Stat(file)
	if err != nil || names(info) < 2 {
		return false
	}
	held, err := Lock(file)
	if err != nil {
		return true
	}
	_ = held.Close() // nothing was done with it
	return false
}

// Beside takes the file beside the data by which older versions tell that it is served.
func (h *Held) Beside() error {
	release, err := lockBeside(h.Path)
	if err != nil {
		return locking(h.Path, err)
	}
	h.close = release
	return nil
}

// errTaken is what somebody else holds.
var errTaken = errors.New("it is taken")

func locking(file string, err error) error {
	if errors.Is(err, errTaken) {
		return &Taken{file}
	}
	return fmt.Errorf("taking the data file %s: %w", file, err)
}
