//go:build !linux

package probe

import "os/exec"

// cutOff leaves a command the network: this system has no simple way to take it.
func cutOff(cmd *exec.Cmd) { grouped(cmd) }

func forbidden(error) bool { return false }
