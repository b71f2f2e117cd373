// Command wexo tells which version of each tool repositories ask for, which one would
// run on each machine, and whether that is sound and still supported.
package main

import (
	"os"

	"wexo/internal/cli"
)

func main() {
	os.Exit(cli.Run(os.Args[1:], cli.Streams{In: os.Stdin, Out: os.Stdout, Err: os.Stderr}))
}
