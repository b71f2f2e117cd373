//go:build !linux

package repo

import (
	"io/fs"
	"os"
)

func lstat(file string) (disk, error) {
	info, err := os.Lstat(file)
	if err != nil {
		return disk{}, err
	}
	return disk{
		link: info.Mode()&fs.ModeSymlink != 0, folder: info.IsDir(),
		size: info.Size(), written: info.ModTime().UnixNano(), changed: info.ModTime(),
	}, nil
}
