package survey

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"sync"
	"time"
)

// Workers are processes that read repositories. What a repository does to its reader, it
// does to a worker. One worker reads most, several at a time; when it dies, each of those
// that it was reading is read again by a worker of its own, so that it is known which of
// them did it, and by which file. That file is left out, and told of.
type Workers struct {
	Command []string // the program that calls Work, with its arguments
	Rules   []byte   // the estate's rules, as they are written
	// FileLimit is how long one file may be read; half a minute where it is zero.
	FileLimit time.Duration
	// Limit is how long one repository may be read, and how long a worker may say nothing;
	// somewhat more than a worker gives itself where it is zero.
	Limit time.Duration

	mu     sync.Mutex
	shared *worker
	lonely chan struct{} // a place for each that may be read alone at a time
	idle   []*worker     // those that read alone
	all    map[*worker]bool
}

// Times that a worker is given.
const (
	fileLimit = 30 * time.Second // for one file, unless something else is said
	grace     = 10 * time.Second // beyond the limit of a repository, to say that it is over
	maxTries  = 5                // of one repository alone
)

// ahead is how many repositories are asked for at a time. A worker is given some more than
// it reads, so that it need not wait for the next.
func (w *Workers) ahead() int {
	if w == nil {
		return together()
	}
	return 2 * together()
}

// Begin starts the first worker, which takes a moment, before it is needed. Where it
// cannot be started, reading says so.
func (w *Workers) Begin() {
	if w == nil {
		return
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.shared, _ = w.start()
}

// do has a worker read a repository.
func (w *Workers) do(ctx context.Context, job Job) (Said, error) {
	said, died, err := w.together(ctx, job)
	if err != nil || died == nil && !said.Alone {
		return said, err
	}
	return w.alone(ctx, job)
}

// alone has workers read a repository that do nothing else meanwhile. Where that ends a
// worker, the next goes on without the file that did it.
func (w *Workers) alone(ctx context.Context, job Job) (Said, error) {
	places := w.places()
	select {
	case places <- struct{}{}:
		defer func() { <-places }()
	case <-ctx.Done():
		return Said{}, context.Cause(ctx)
	}
	var said Said
	for range maxTries {
		var died *death
		var err error
		said, died, err = w.try(ctx, job)
		if died == nil && err == nil && said.Alone && said.File != "" {
			died = &death{said.File, fmt.Sprintf("it took more than %d MB of memory", memoryLimit>>20)}
		}
		if err != nil || died == nil {
			return said.without(job.Leave), err
		}
		_, again := job.Leave[died.file]
		switch {
		case again, died.file == "" && job.Announce:
			return Said{Unread: died.Error()}, nil
		case died.file != "":
			if job.Leave == nil {
				job.Leave = map[string]string{}
			}
			job.Leave[died.file] = died.Error()
		}
		job.Announce = true // the next worker says where it stands
	}
	if said.Reading != nil { // as far as there was memory for it
		return said.without(job.Leave), nil
	}
	return Said{Unread: fmt.Sprintf("reading it ended the reader %d times; it is given up", maxTries)}, nil
}

// without is what was said, with the files named that were left out.
func (s Said) without(files map[string]string) Said {
	s.Left = slices.Sorted(maps.Keys(files))
	return s
}

func (w *Workers) places() chan struct{} {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.lonely == nil {
		w.lonely = make(chan struct{}, together())
	}
	return w.lonely
}

// death is how a repository ended its worker.
type death struct {
	file string // that was read then; "" where that is not known
	why  string
}

func (d *death) Error() string { return "reading it ended the reader (" + d.why + ")" }

// together has the shared worker read a repository.
func (w *Workers) together(ctx context.Context, job Job) (Said, *death, error) {
	w.mu.Lock()
	var err error
	if w.shared == nil || w.shared.hasEnded() {
		delete(w.all, w.shared)
		w.shared, err = w.start()
	}
	at := w.shared
	w.mu.Unlock()
	if err != nil {
		return Said{}, nil, err
	}
	return w.read(ctx, at, job)
}

// try has one worker read a repository and nothing else.
func (w *Workers) try(ctx context.Context, job Job) (Said, *death, error) {
	at, err := w.take()
	if err != nil {
		return Said{}, nil, err
	}
	said, died, err := w.read(ctx, at, job)
	if died == nil && err == nil && !said.Alone { // what took much memory is not used again
		w.mu.Lock()
		defer w.mu.Unlock()
		w.idle = append(w.idle, at)
	} else {
		w.lose(at)
	}
	return said, died, err
}

// read gives a worker a job and waits for what comes of it.
func (w *Workers) read(ctx context.Context, at *worker, job Job) (Said, *death, error) {
	ended, late := context.AfterFunc(ctx, at.kill), time.AfterFunc(w.limit(), at.kill)
	said := at.give(job) // which waits where the worker takes nothing
	ended()
	late.Stop()
	defer at.forget(said)
	file := ""
	var over, overFile <-chan time.Time // begin when the job does: before, it waits for others
	silent := time.After(w.limit())
	for {
		select {
		case <-ctx.Done():
			w.lose(at)
			return Said{}, nil, context.Cause(ctx)
		case <-over:
			w.lose(at)
			return Said{}, &death{file, fmt.Sprintf("it took longer than %s", w.limit())}, nil
		case <-silent:
			if left := w.limit() - at.silence(); left > 0 {
				silent = time.After(left)
				continue
			}
			w.lose(at)
			return Said{}, &death{file, fmt.Sprintf("it said nothing for %s", w.limit())}, nil
		case <-overFile:
			w.lose(at)
			return Said{}, &death{file, fmt.Sprintf("it took longer than %s", w.fileLimit())}, nil
		case n, more := <-said.news:
			switch {
			case !more:
				return Said{}, &death{file, at.how()}, nil
			case n.Said != nil:
				return *n.Said, nil, nil
			case n.Err != "":
				return Said{}, nil, errors.New(n.Err)
			case n.Begun:
				over = time.After(w.limit())
			default:
				file, overFile = n.File, time.After(w.fileLimit())
			}
		}
	}
}

func (w *Workers) fileLimit() time.Duration { return cmp.Or(w.FileLimit, fileLimit) }
func (w *Workers) limit() time.Duration     { return cmp.Or(w.Limit, timeLimit+grace) }

// take gives a worker that has nothing to do, or a new one.
func (w *Workers) take() (*worker, error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for len(w.idle) > 0 {
		at := w.idle[len(w.idle)-1]
		w.idle = w.idle[:len(w.idle)-1]
		if !at.hasEnded() {
			return at, nil
		}
		delete(w.all, at)
	}
	return w.start()
}

// start begins a worker. The caller holds the lock.
func (w *Workers) start() (*worker, error) {
	at, err := start(w.Command, w.Rules, w.limit())
	if err != nil {
		return nil, fmt.Errorf("a process that reads cannot be started: %w", err)
	}
	if w.all == nil {
		w.all = map[*worker]bool{}
	}
	w.all[at] = true
	return at, nil
}

// lose ends a worker and waits until it is gone.
func (w *Workers) lose(at *worker) {
	at.kill()
	<-at.ended
	w.mu.Lock()
	defer w.mu.Unlock()
	delete(w.all, at)
}

// dismiss lets the workers end by themselves; the next reading starts others. Reading must
// have ended.
func (w *Workers) dismiss() map[*worker]bool {
	if w == nil {
		return nil
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	all := w.all
	w.all, w.idle, w.shared = nil, nil, nil
	for at := range all {
		at.in.Close()
	}
	return all
}

// Close ends the workers and waits until they are gone.
func (w *Workers) Close() {
	for at := range w.dismiss() {
		select {
		case <-at.ended:
		case <-time.After(grace):
			at.kill()
			<-at.ended
		}
	}
}
