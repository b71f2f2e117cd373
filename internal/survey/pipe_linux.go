package survey

import (
	"os"

	"golang.org/x/sys/unix"
)

// pipeSize is how much passes between a worker and its parent before one waits for the
// other, in bytes.
const pipeSize = 1 << 20

// waitable makes a pipe take more, where the system allows it, and gives it as a file that
// may be waited for while the processor does something else: this process was given it as
// one whose reading holds a thread, and that keeps a processor idle for milliseconds.
func waitable(pipe *os.File) *os.File {
	if info, err := pipe.Stat(); err != nil || info.Mode()&os.ModeNamedPipe == 0 {
		return pipe
	}
	at := int(pipe.Fd())
	_, _ = unix.FcntlInt(uintptr(at), unix.F_SETPIPE_SZ, pipeSize)
	if unix.SetNonblock(at, true) != nil {
		return pipe
	}
	return os.NewFile(uintptr(at), pipe.Name())
}
