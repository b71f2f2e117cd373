package repo

import (
	"os/exec"
	"runtime"
	"syscall"
)

// Tied starts a program that is killed when this process dies, however it dies, calls
// meanwhile and waits for its end. The kernel ties a child to the thread that started it,
// so that thread is kept until then.
func Tied(cmd *exec.Cmd, meanwhile func()) error {
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	if cmd.SysProcAttr == nil {
		cmd.SysProcAttr = &syscall.SysProcAttr{}
	}
	cmd.SysProcAttr.Pdeathsig = syscall.SIGKILL
	if err := cmd.Start(); err != nil {
		return err
	}
	meanwhile()
	return cmd.Wait()
}
