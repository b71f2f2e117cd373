//go:build !unix

package store

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
)

// Lock takes a data file for one service: a file that is open cannot be removed here, and
// one that is left behind can.
func Lock(file string) (release func() error, err error) {
	if err := os.Remove(file + ".lock"); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, &Taken{file}
	}
	f, err := os.OpenFile(file+".lock", os.O_RDWR|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return nil, fmt.Errorf("taking the data file %s: %w", file, err)
	}
	return f.Close, nil
}
