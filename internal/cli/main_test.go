package cli_test

import (
	"os"
	"testing"

	"wexo/internal/cli"
)

// TestMain lets this program be the one that reads repositories, as the real one is.
func TestMain(m *testing.M) {
	if len(os.Args) > 1 && os.Args[1] == cli.WorkCommand {
		os.Exit(cli.Run(os.Args[1:], cli.Streams{In: os.Stdin, Out: os.Stdout, Err: os.Stderr}))
	}
	os.Exit(m.Run())
}
