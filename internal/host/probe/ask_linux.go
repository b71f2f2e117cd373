package probe

import (
	"errors"
	"os"
	"os/exec"
	"syscall"
)

// cutOff gives a command a network of its own, in which there is nothing.
func cutOff(cmd *exec.Cmd) {
	grouped(cmd)
	cmd.SysProcAttr.Cloneflags = syscall.CLONE_NEWNET
	if os.Geteuid() != 0 {
		cmd.SysProcAttr.Cloneflags |= syscall.CLONE_NEWUSER
		cmd.SysProcAttr.UidMappings = []syscall.SysProcIDMap{{ContainerID: os.Getuid(), HostID: os.Getuid(), Size: 1}}
		cmd.SysProcAttr.GidMappings = []syscall.SysProcIDMap{{ContainerID: os.Getgid(), HostID: os.Getgid(), Size: 1}}
	}
}

// forbidden reports whether a command was not started since it may have no network of its own.
func forbidden(err error) bool {
	for _, reason := range []error{syscall.EPERM, syscall.EINVAL, syscall.ENOSPC, syscall.ENOSYS} {
		if errors.Is(err, reason) {
			return true
		}
	}
	return false
}
