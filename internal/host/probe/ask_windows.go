package probe

import (
	"os"
	"os/exec"
)

func grouped(*exec.Cmd) {}

// othersMayWrite asks nothing: whose a file is shows in lists of rights, which are not read.
func othersMayWrite(string) string { return "it cannot be told who may write it" }

// linksTo is one: what a folder lists does not tell how many names a file has.
func linksTo(os.FileInfo) uint64 { return 1 }
