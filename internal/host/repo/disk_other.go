//go:build !linux

package repo

import (
	"io/fs"
	"os"
	"path/filepath"
)

// place is a folder on disk below which states of paths are asked for.
type place struct{ dir string }

func openPlace(dir string) (place, error) { return place{dir}, nil }

func (p place) close() error { return nil }

// lstat says what the disk says of a path in slashes, without following a link at its end.
func (p place) lstat(name string) (disk, error) {
	info, err := os.Lstat(filepath.Join(p.dir, filepath.FromSlash(name)))
	if err != nil {
		return disk{}, err
	}
	return disk{
		link: info.Mode()&fs.ModeSymlink != 0, folder: info.IsDir(),
		size: info.Size(), written: info.ModTime().UnixNano(), changed: info.ModTime(),
	}, nil
}
