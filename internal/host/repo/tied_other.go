//go:build !linux

package repo

import "os/exec"

// runTied runs a program. It waits for no input and is given a limit of time, so it ends
// by itself.
func runTied(cmd *exec.Cmd) error { return cmd.Run() }
