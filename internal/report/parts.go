package report

import (
	"bytes"
	"runtime"

	"golang.org/x/sync/errgroup"
)

// part is how many elements of a list are put into words together.
const part = 128

// inParts puts the elements of a list into words, some side by side, and writes them in
// their order. Few of them are held at a time, in memory that is used again.
func inParts(n int, form func(b *bytes.Buffer, from, to int) error, write func([]byte) error) error {
	parts := make([]bytes.Buffer, 2*runtime.GOMAXPROCS(0))
	for start := 0; start < n; {
		var g errgroup.Group
		used := 0
		for ; used < len(parts) && start < n; used++ {
			b, from, to := &parts[used], start, min(start+part, n)
			b.Reset()
			start = to
			g.Go(func() error { return form(b, from, to) })
		}
		if err := g.Wait(); err != nil {
			return err
		}
		for i := range used {
			if err := write(parts[i].Bytes()); err != nil {
				return err
			}
		}
	}
	return nil
}
