//go:build unix

package store

import (
	"errors"
	"os"
	"syscall"

	"golang.org/x/sys/unix"
)

// lockFile takes an open file for this process: the file itself, not one of its names.
func lockFile(f *os.File) error {
	err := unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return errTaken
	}
	return err
}

// names is how many names a file has.
func names(info os.FileInfo) uint64 {
	if stat, ok := info.Sys().(*syscall.Stat_t); ok {
		return uint64(stat.Nlink)
	}
	return 1
}

func lockBeside(file string) (release func() error, err error) {
	f, err := os.OpenFile(file+".lock", os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, err
	}
	if err := lockFile(f); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f.Close, nil
}
