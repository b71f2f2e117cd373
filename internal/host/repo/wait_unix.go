//go:build unix

package repo

import (
	"errors"

	"golang.org/x/sys/unix"
)

// noWait keeps an open from waiting for a pipe, and from following a link.
const noWait = unix.O_NONBLOCK | unix.O_NOFOLLOW | unix.O_CLOEXEC

func isNoFolder(err error) bool { return errors.Is(err, unix.ENOTDIR) }
