//go:build unix

package odb

import "golang.org/x/sys/unix"

// noWait keeps an open from waiting, should a file become a pipe, and from following a
// link, should it become one.
const noWait = unix.O_NONBLOCK | unix.O_NOFOLLOW | unix.O_CLOEXEC
