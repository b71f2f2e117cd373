package cli

import (
	"os"

	"golang.org/x/term"
)

// terminalWidth is the width of a terminal in columns; terminal is false for anything else.
func terminalWidth(f *os.File) (width int, terminal bool) {
	if !term.IsTerminal(int(f.Fd())) {
		return 0, false
	}
	width, _, err := term.GetSize(int(f.Fd()))
	if err != nil {
		return 0, true
	}
	return width, true
}
