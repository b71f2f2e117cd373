package report

import (
	"bytes"
	"runtime"

	"golang.org/x/sync/errgroup"
)

const (
	// part is how many elements of a list are put into words together, at most and at first.
	part, firstPart = 128, 16
	// partBytes is how large a part is meant to be: who reads slowly has several of them kept.
	partBytes = 128 << 10
)

// inParts puts the elements of a list into words, some side by side, and writes them in
// their order. Few of them are held at a time, in memory that is used again.
func inParts(n int, form func(b *bytes.Buffer, from, to int) error, write func([]byte) error) error {
	parts := make([]bytes.Buffer, 2*runtime.GOMAXPROCS(0))
	size, written := firstPart, 0
	for start := 0; start < n; {
		if start > 0 && written > 0 {
			size = min(max(partBytes*start/written, 1), part)
		}
		var g errgroup.Group
		used := 0
		for ; used < len(parts) && start < n; used++ {
			b, from, to := &parts[used], start, min(start+size, n)
			if b.Reset(); b.Cap() > 4*partBytes {
				*b = bytes.Buffer{}
			}
			start = to
			g.Go(func() error { return form(b, from, to) })
		}
		if err := g.Wait(); err != nil {
			return err
		}
		for i := range used {
			written += parts[i].Len()
			if err := write(parts[i].Bytes()); err != nil {
				return err
			}
		}
	}
	return nil
}
