//go:build unix

package store

import (
	"errors"
	"fmt"
	"os"

	"golang.org/x/sys/unix"
)

// Lock takes a data file for one service. The system lets it go when the process ends,
// however it ends, so that no lock is left behind.
func Lock(file string) (release func() error, err error) {
	f, err := os.OpenFile(file+".lock", os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("taking the data file %s: %w", file, err)
	}
	err = unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return nil, errors.Join(&Taken{file}, f.Close())
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("taking the data file %s: %w", file, err), f.Close())
	}
	return f.Close, nil
}
