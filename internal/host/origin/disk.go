package origin

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// Disk are the files of the drive of this machine on which a path lies.
func Disk(at string) fs.FS { return os.DirFS(filepath.VolumeName(at) + string(filepath.Separator)) }

// Slashed is a path of this machine as Machine takes it: with slashes, and without its drive.
func Slashed(at string) string {
	return filepath.ToSlash(strings.TrimPrefix(at, filepath.VolumeName(at)))
}
