//go:build unix

package origin

import (
	"fmt"
	"os"
	"path/filepath"
	"syscall"
)

// OthersMayWrite tells why somebody else than the user and the system's administrator
// could have put there what lies at a path: the file, or a folder above it, is theirs or may
// be written by them. It is "" where nobody else can.
func OthersMayWrite(at string) string {
	for {
		info, err := os.Lstat(at)
		if err != nil {
			return "it cannot be told who may write it"
		}
		stat, ok := info.Sys().(*syscall.Stat_t)
		if !ok {
			return "it cannot be told whose it is"
		}
		mode, sticky := info.Mode().Perm(), info.IsDir() && info.Mode()&os.ModeSticky != 0
		switch {
		case stat.Uid != 0 && int(stat.Uid) != os.Geteuid():
			return fmt.Sprintf("%s belongs to another user", at)
		case mode&0o002 != 0 && !sticky, mode&0o020 != 0 && !sticky && !ownGroup(stat.Gid):
			return fmt.Sprintf("others may write %s", at)
		}
		above := filepath.Dir(at)
		if above == at {
			return ""
		}
		at = above
	}
}

// ownGroup reports whether a group is the administrator's, or one that the user is alone in:
// the one with the user's own number.
func ownGroup(gid uint32) bool {
	return gid == 0 || int(gid) == os.Getegid() && os.Getegid() == os.Geteuid()
}
