package probe

import "os/exec"

func grouped(*exec.Cmd) {}

// othersMayWrite asks nothing: whose a file is shows in lists of rights, which are not read.
func othersMayWrite(string) string { return "it cannot be told who may write it" }
