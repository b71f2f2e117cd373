//go:build !unix

package store

import (
	"errors"
	"io/fs"
	"os"
)

// lockFile leaves it to the file beside: here a file that is open cannot be removed, nor put
// another in its place.
func lockFile(*os.File) error { return nil }

// names is one: what a folder lists does not tell how many names a file has.
func names(os.FileInfo) uint64 { return 1 }

// lockBeside makes a file that cannot be removed while it is open; one that is left behind can.
func lockBeside(file string) (release func() error, err error) {
	if err := os.Remove(file + ".lock"); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, errTaken
	}
	f, err := os.OpenFile(file+".lock", os.O_RDWR|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return nil, err
	}
	return f.Close, nil
}
