package survey

import (
	"runtime"
	"time"

	"golang.org/x/sys/unix"
)

// hardMemory is how much a worker may ever write to, in bytes: far beyond what ends a
// reading by itself, far below what hurts a machine.
const hardMemory = 3 << 30

// limitProcess bounds what this process may take. What cannot be limited here is still
// bounded by its parent.
func limitProcess() {
	for which, most := range map[int]uint64{unix.RLIMIT_DATA: hardMemory, unix.RLIMIT_CORE: 0, unix.RLIMIT_FSIZE: 0} {
		var was unix.Rlimit
		if unix.Getrlimit(which, &was) == nil {
			most = min(most, was.Max)
			_ = unix.Setrlimit(which, &unix.Rlimit{Cur: most, Max: most})
		}
	}
}

// limitProcessor bounds the processor time from now on, on all of its threads together, to
// what all processors give until those that are read now and those that wait have had
// more each.
func limitProcessor(more time.Duration) {
	var used unix.Rusage
	var was unix.Rlimit
	if unix.Getrusage(unix.RUSAGE_SELF, &used) != nil || unix.Getrlimit(unix.RLIMIT_CPU, &was) != nil {
		return
	}
	seconds := uint64(used.Utime.Sec+used.Stime.Sec) + 2*uint64(runtime.GOMAXPROCS(0))*uint64(more/time.Second)
	_ = unix.Setrlimit(unix.RLIMIT_CPU, &unix.Rlimit{Cur: min(seconds, was.Max), Max: was.Max})
}
