package survey

import (
	"bufio"
	"context"
	"encoding/gob"
	"errors"
	"io"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"wexo/internal/host/repo"
)

// order is what a worker is told: first the rules, then jobs.
type order struct {
	Rules []byte
	ID    int
	Job   *Job
}

// news is what a worker tells of a job: that it has begun, the file that it reads, or what
// came of it.
type news struct {
	ID    int
	Begun bool
	File  string
	Said  *Said
	Err   string
}

// worker is one process.
type worker struct {
	in    io.WriteCloser
	kill  context.CancelFunc
	ended chan struct{}             // closed when the process is gone
	why   error                     // how it ended, once ended is closed
	last  *tail                     // what it said last
	heard atomic.Pointer[time.Time] // when it told something last, or began

	mu     sync.Mutex
	orders *gob.Encoder
	next   int
	jobs   map[int]*underway
	gone   bool
}

// underway is a job that a worker was given.
type underway struct {
	id   int
	news chan news // closed when the worker ends
}

// tell passes something on. Whoever is slow to look misses names of files that others
// followed, never the end.
func (u *underway) tell(n news) {
	for {
		select {
		case u.news <- n:
			return
		default: // full: the oldest is let go, unless it was taken just now
			select {
			case <-u.news:
			default:
			}
		}
	}
}

// start begins a process. It knows nothing of this one's environment but where programs
// are, and dies with it; limit is how long it may take to be told the rules.
func start(command []string, rules []byte, limit time.Duration) (*worker, error) {
	ctx, kill := context.WithCancel(context.Background())
	cmd := exec.CommandContext(ctx, command[0], command[1:]...)
	cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "GOTRACEBACK=single"}
	if value := os.Getenv("GOGC"); value != "" {
		cmd.Env = append(cmd.Env, "GOGC="+value)
	}
	at := &worker{kill: kill, ended: make(chan struct{}), last: &tail{}, jobs: map[int]*underway{}}
	cmd.Stderr = at.last
	in, inErr := cmd.StdinPipe()
	out, outErr := cmd.StdoutPipe()
	if err := errors.Join(inErr, outErr); err != nil {
		kill()
		return nil, err
	}
	at.in, at.orders = in, gob.NewEncoder(in)
	at.hear()
	started := make(chan error, 1)
	go func() {
		defer kill()
		defer close(at.ended)
		at.why = repo.Tied(cmd, func() {
			started <- nil
			at.listen(gob.NewDecoder(bufio.NewReaderSize(out, 64<<10)))
		})
		at.bury()
		select {
		case started <- at.why:
		default:
		}
	}()
	if err := <-started; err != nil {
		return nil, err
	}
	at.mu.Lock()
	defer at.mu.Unlock()
	defer time.AfterFunc(limit, kill).Stop() // where it takes nothing
	if at.orders.Encode(order{Rules: rules}) != nil {
		kill() // whoever gives it a job is told how it ended
	}
	return at, nil
}

// listen passes on what the process tells, until it ends.
func (at *worker) listen(decoder *gob.Decoder) {
	for {
		var n news
		if decoder.Decode(&n) != nil {
			return
		}
		at.hear()
		at.mu.Lock()
		if job := at.jobs[n.ID]; job != nil {
			job.tell(n)
		}
		at.mu.Unlock()
	}
}

func (at *worker) hear() {
	now := time.Now()
	at.heard.Store(&now)
}

// silence is for how long it has told nothing.
func (at *worker) silence() time.Duration { return time.Since(*at.heard.Load()) }

// bury tells all who wait that the process is gone.
func (at *worker) bury() {
	at.mu.Lock()
	defer at.mu.Unlock()
	at.gone = true
	for _, job := range at.jobs {
		close(job.news)
	}
	clear(at.jobs)
}

func (at *worker) hasEnded() bool {
	at.mu.Lock()
	defer at.mu.Unlock()
	return at.gone
}

// backlog is how many news are held for one who is slow to take them.
const backlog = 64

// give gives the process a job.
func (at *worker) give(job Job) *underway {
	at.mu.Lock()
	defer at.mu.Unlock()
	at.next++
	u := &underway{at.next, make(chan news, backlog)}
	if at.gone {
		close(u.news)
		return u
	}
	at.jobs[u.id] = u
	if at.orders.Encode(order{ID: u.id, Job: &job}) != nil {
		at.kill()
	}
	return u
}

func (at *worker) forget(u *underway) {
	at.mu.Lock()
	defer at.mu.Unlock()
	delete(at.jobs, u.id)
}

// how tells, in words, how the process ended.
func (at *worker) how() string {
	<-at.ended
	said := at.last.first()
	switch {
	case strings.Contains(said, "stack"):
		return "it nests too deeply"
	case strings.Contains(said, "out of memory") || strings.Contains(said, "cannot allocate"):
		return "it takes too much memory"
	case said != "":
		return said
	case at.why != nil:
		return at.why.Error()
	}
	return "it ended without a word"
}

// tail keeps what a process says before its end.
type tail struct {
	mu   sync.Mutex
	text strings.Builder
}

func (t *tail) Write(p []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.text.Len() < 4096 {
		t.text.Write(p[:min(len(p), 4096)])
	}
	return len(p), nil
}

// first is the line that says most.
func (t *tail) first() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	for line := range strings.Lines(t.text.String()) {
		for _, mark := range []string{"fatal error: ", "runtime: goroutine stack exceeds", "panic: "} {
			if strings.HasPrefix(line, mark) {
				return strings.TrimSpace(line)
			}
		}
	}
	line, _, _ := strings.Cut(strings.TrimSpace(t.text.String()), "\n")
	return line
}
