package probe

import (
	"os"
	"os/exec"
)

func grouped(*exec.Cmd) {}

// linksTo is one: what a folder lists does not tell how many names a file has.
func linksTo(os.FileInfo) uint64 { return 1 }
