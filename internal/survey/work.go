package survey

import (
	"bufio"
	"context"
	"encoding/gob"
	"errors"
	"io"
	"os"
	"runtime"
	"runtime/debug"
	"runtime/metrics"
	"sync"
	"sync/atomic"
	"time"
)

// Doing reads one repository, and tells begin of each file before it is read.
type Doing func(ctx context.Context, job Job, begin func(file string)) (Said, error)

// Work is a worker's life: it takes jobs from in and tells what came of them on out, until
// in ends. prepare is given the estate's rules, once.
func Work(in io.Reader, out io.Writer, prepare func(rules []byte) (Doing, error)) error {
	limitProcess()
	if f, ok := in.(*os.File); ok {
		in = waitable(f)
	}
	if f, ok := out.(*os.File); ok {
		out = waitable(f)
	}
	debug.SetMemoryLimit(memoryLimit * 2 / 3) // beyond which it is collected at once: what is let go late adds to it
	debug.SetMaxStack(stackLimit)
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(800) // nothing of a repository outlives its reading: what is collected rarely is small
	}
	orders := gob.NewDecoder(bufio.NewReaderSize(in, 64<<10))
	var first order
	if err := orders.Decode(&first); err != nil {
		return ended(err)
	}
	do, err := prepare(first.Rules)
	if err != nil {
		return err
	}
	w := &working{do: do, news: make(chan message, backlog), jobs: map[int]*beingRead{}, places: make(chan struct{}, together())}
	var telling sync.WaitGroup
	telling.Go(func() { w.tell(out) })
	defer telling.Wait()
	defer close(w.news)
	stopped := make(chan struct{})
	var watching, jobs sync.WaitGroup
	watching.Go(func() { w.watch(stopped) })
	defer watching.Wait()
	defer close(stopped)
	defer jobs.Wait()
	for {
		var next order
		if err := orders.Decode(&next); err != nil {
			return ended(err)
		}
		if next.Job == nil {
			return errors.New("an order without a job")
		}
		limitProcessor(timeLimit + grace)
		jobs.Go(func() {
			w.places <- struct{}{}
			defer func() { <-w.places }()
			w.job(next.ID, *next.Job)
		})
	}
}

func ended(err error) error {
	if errors.Is(err, io.EOF) {
		return nil
	}
	return err
}

// working is a worker at work.
type working struct {
	do Doing

	places chan struct{} // as many as jobs are done at a time
	news   chan message

	mu   sync.Mutex
	jobs map[int]*beingRead
}

// beingRead is a job that is being done.
type beingRead struct {
	end  context.CancelCauseFunc
	file atomic.Pointer[underRead]
}

// underRead is the file that a job reads.
type underRead struct {
	name  string
	since time.Time
	told  atomic.Bool
}

// message is something to be told.
type message struct {
	news
	passed chan<- struct{} // closed when it has been, where somebody waits for that
}

// tell passes on what there is to tell, as much at a time as has come together. Who
// listens no more will end this process.
func (w *working) tell(out io.Writer) {
	buffer := bufio.NewWriterSize(out, 256<<10)
	encoder := gob.NewEncoder(buffer)
	for n := range w.news {
		_ = encoder.Encode(n.news)
		if len(w.news) == 0 || n.passed != nil {
			_ = buffer.Flush()
		}
		if n.passed != nil {
			close(n.passed)
		}
	}
}

func (w *working) job(id int, job Job) {
	ctx, end := context.WithCancelCause(context.Background())
	defer end(nil)
	r := &beingRead{end: end}
	w.news <- message{news: news{ID: id, Begun: true}}
	w.mu.Lock()
	w.jobs[id] = r
	w.mu.Unlock()
	said, err := w.do(ctx, job, func(file string) {
		at := &underRead{name: file, since: time.Now()}
		r.file.Store(at)
		if job.Announce {
			at.told.Store(true)
			passed := make(chan struct{})
			w.news <- message{news{ID: id, File: file}, passed}
			<-passed // before the file can do its worst
		}
	})
	w.mu.Lock()
	delete(w.jobs, id)
	w.mu.Unlock()
	if err != nil {
		w.news <- message{news: news{ID: id, Err: err.Error()}}
		return
	}
	if at := r.file.Load(); at != nil && said.Alone {
		said.File = at.name
	}
	w.news <- message{news: news{ID: id, Said: &said}}
}

const (
	lookEvery = 50 * time.Millisecond
	slow      = time.Second
)

// watch tells of files that take long, and ends readings that take too much memory.
func (w *working) watch(stopped <-chan struct{}) {
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		select {
		case <-stopped:
			return
		case now := <-tick.C:
			w.look(now, holdsOver(memoryLimit))
		}
	}
}

func (w *working) look(now time.Time, tooMuch bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for id, r := range w.jobs {
		if at := r.file.Load(); at != nil && now.Sub(at.since) > slow && !at.told.Swap(true) {
			w.news <- message{news: news{ID: id, File: at.name}}
		}
		if tooMuch {
			r.end(errMemory)
		}
	}
}

// holdsOver reports whether this process holds more memory than limit, in bytes. What is in
// use is no proof of it: that counts what nobody holds any more too, which comes up to the
// limit in any worker that has read much, and goes beyond it where the collector is late.
// So it is collected first; once more, since what came meanwhile counts as held.
func holdsOver(limit uint64) bool {
	if memory("/memory/classes/heap/objects:bytes") <= limit {
		return false
	}
	for range 2 {
		runtime.GC()
		if memory("/gc/heap/live:bytes") <= limit {
			return false
		}
	}
	return true
}

// memory is one of the runtime's figures of its memory, in bytes.
func memory(figure string) uint64 {
	sample := []metrics.Sample{{Name: figure}}
	metrics.Read(sample)
	return sample[0].Value.Uint64()
}
