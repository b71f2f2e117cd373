//go:build !linux

package survey

import "os"

// Elsewhere a pipe is taken as it is given.
func waitable(pipe *os.File) *os.File { return pipe }
