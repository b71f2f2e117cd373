package survey

import (
	"bufio"
	"context"
	"encoding/gob"
	"errors"
	"io"
	"os"
	"runtime/debug"
	"runtime/metrics"
	"sync"
	"time"
)

// Doing reads one repository, and tells begin of each file before it is read.
type Doing func(ctx context.Context, job Job, begin func(file string)) (Said, error)

// Work is a worker's life: it takes jobs from in and tells what came of them on out, until
// in ends. prepare is given the estate's rules, once.
func Work(in io.Reader, out io.Writer, prepare func(rules []byte) (Doing, error)) error {
	limitProcess()
	debug.SetMemoryLimit(memoryLimit)
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
	buffer := bufio.NewWriterSize(out, 64<<10)
	w := &working{do: do, buffer: buffer, out: gob.NewEncoder(buffer), jobs: map[int]*reading{}, places: make(chan struct{}, together())}
	stopped := make(chan struct{})
	defer close(stopped)
	go w.watch(stopped)
	var jobs sync.WaitGroup
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
		w.mu.Lock()
		w.waiting++
		w.mu.Unlock()
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

	mu     sync.Mutex
	buffer *bufio.Writer
	out    *gob.Encoder
	jobs   map[int]*reading

	places  chan struct{} // as many as jobs are done at a time
	waiting int           // jobs that are not done yet
	held    int           // results that are not sent yet
}

// reading is a job that is being done.
type reading struct {
	end   context.CancelCauseFunc
	file  string // that is read
	since time.Time
	told  bool
}

// tell says something of a job. Who listens no more will end this process. The caller
// holds the lock.
func (w *working) tell(n news) {
	_ = w.out.Encode(n)
	if n.File == "" {
		w.waiting--
		w.held++
	}
	if n.File != "" || w.held >= cap(w.places)/2 || w.waiting < cap(w.places) {
		w.held = 0
		_ = w.buffer.Flush()
	}
}

func (w *working) job(id int, job Job) {
	ctx, end := context.WithCancelCause(context.Background())
	defer end(nil)
	r := &reading{end: end}
	w.mu.Lock()
	w.jobs[id] = r
	w.mu.Unlock()
	said, err := w.do(ctx, job, func(file string) {
		w.mu.Lock()
		defer w.mu.Unlock()
		r.file, r.since, r.told = file, time.Now(), job.Announce
		if job.Announce {
			w.tell(news{ID: id, File: file})
		}
	})
	w.mu.Lock()
	defer w.mu.Unlock()
	delete(w.jobs, id)
	if err != nil {
		w.tell(news{ID: id, Err: err.Error()})
		return
	}
	w.tell(news{ID: id, Said: &said})
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
			w.look(now, inUse() > memoryLimit)
		}
	}
}

func (w *working) look(now time.Time, tooMuch bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for id, r := range w.jobs {
		if r.file != "" && !r.told && now.Sub(r.since) > slow {
			r.told = true
			w.tell(news{ID: id, File: r.file})
		}
		if tooMuch {
			r.end(errMemory)
		}
	}
}

// inUse is the memory in use, in bytes: what is reached, and what came since.
func inUse() uint64 {
	sample := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
	metrics.Read(sample)
	return sample[0].Value.Uint64()
}
