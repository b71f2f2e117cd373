package repo

import (
	"syscall"
	"time"
)

// lstat asks the system itself: an unchanged estate is told by nothing but these calls,
// a hundred thousand of them.
func lstat(file string) (disk, error) {
	var s syscall.Stat_t
	if err := syscall.Lstat(file, &s); err != nil {
		return disk{}, err
	}
	kind := s.Mode & syscall.S_IFMT
	return disk{
		link: kind == syscall.S_IFLNK, folder: kind == syscall.S_IFDIR,
		inode: s.Ino, size: s.Size, written: s.Mtim.Nano(), changed: time.Unix(s.Ctim.Unix()),
	}, nil
}
