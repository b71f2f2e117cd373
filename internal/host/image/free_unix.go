//go:build unix

package image

import "golang.org/x/sys/unix"

// freeOn is how much room a disk has for this account, in bytes.
func freeOn(dir string) (uint64, bool) {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0, false
	}
	return uint64(s.Bavail) * uint64(s.Bsize), true
}
