//go:build !linux

package repo

import (
	"io"
	"io/fs"
	"os"
)

func folderOf(root *os.Root) (fs.FS, io.Closer, error) { return root.FS(), root, nil }
