//go:build unix

package probe

import (
	"os"
	"os/exec"
	"syscall"
)

// grouped puts a command into a process group of its own, all of which ends with it.
func grouped(cmd *exec.Cmd) {
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
}

// linksTo is how many names a file has.
func linksTo(info os.FileInfo) uint64 {
	if stat, ok := info.Sys().(*syscall.Stat_t); ok {
		return uint64(stat.Nlink)
	}
	return 1
}
