//go:build !linux

package repo

import "os/exec"

// Tied starts a program, calls meanwhile and waits for its end. The program ends by itself
// when its input does.
func Tied(cmd *exec.Cmd, meanwhile func()) error {
	if err := cmd.Start(); err != nil {
		return err
	}
	meanwhile()
	return cmd.Wait()
}
