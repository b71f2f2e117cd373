package repo

import (
	"os/exec"
	"runtime"
	"syscall"
)

// runTied runs a program that is killed when this process dies, however it dies. The
// kernel ties it to the thread that started it, so that thread is kept until it ends.
func runTied(cmd *exec.Cmd) error {
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	return cmd.Run()
}
