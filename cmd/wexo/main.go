// Command wexo tells which version of each tool repositories ask for, which one would
// run on each machine, and whether that is sound and still supported.
package main

import (
	"os"
	"runtime/debug"

	"wexo/internal/cli"
)

func main() {
	if os.Getenv("GOGC") == "" {
		// A survey makes much in a second and keeps some megabytes of it: collecting half as
		// often is worth more than the memory it takes.
		debug.SetGCPercent(200)
	}
	os.Exit(cli.Run(os.Args[1:], cli.Streams{In: os.Stdin, Out: os.Stdout, Err: os.Stderr}))
}
