//go:build !unix

package repo

import (
	"io/fs"
	"os"
)

func folderOf(root *os.Root) fs.FS { return root.FS() }
