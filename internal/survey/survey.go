// Package survey reads many repositories at once and assesses them: the pass that the
// command line runs in process and the service runs as a job.
package survey

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/host/repo/odb"
)

// Reader reads repositories.
type Reader struct {
	Claims  *reading.Reader
	Rules   userrule.Rules // the user's, for every repository
	Memory  *Memory        // nil remembers nothing
	Workers *Workers       // processes that read; nil reads in this one
	// Undecoded leaves what a repository says as it was said, for those who only keep it.
	Undecoded bool
	// After is called with each repository when it was read, with its place in the list, several
	// at a time: what is done with it then need not wait for the others. It may be nil.
	After func(i int, r ReadRepository)
}

// Read reads the repositories, several at a time, in the order given. done is called
// after each one, from one goroutine at a time; it may be nil. One Read runs at a time.
func (r Reader) Read(ctx context.Context, locations []repo.Location, how repo.Reading, done func(n int, r ReadRepository)) ([]ReadRepository, error) {
	out := make([]ReadRepository, len(locations))
	var mu sync.Mutex
	finished := 0
	var g errgroup.Group
	g.SetLimit(max(1, r.Workers.ahead()))
	for i := range locations {
		if ctx.Err() != nil {
			break
		}
		g.Go(func() error {
			out[i] = r.one(ctx, locations[i], how)
			if r.After != nil {
				r.After(i, out[i])
			}
			if done == nil {
				return nil
			}
			mu.Lock()
			defer mu.Unlock()
			finished++
			done(finished, out[i])
			return nil
		})
	}
	_ = g.Wait() // what could not be read says so itself
	r.Memory.flush()
	r.Workers.dismiss() // a service that surveys once a day need not keep them
	return out, ctx.Err()
}

// ReadRepository is a repository that was read.
type ReadRepository struct {
	assess.Repository
	Said     []byte // what it says, as JSON, where it was left undecoded
	Notice   string
	Unread   string // why it could not be read at all; empty where it could
	Recalled bool   // it had not changed since it was read before
	Reread   int    // files that were read because they were new or had changed
}

func (r Reader) one(ctx context.Context, l repo.Location, how repo.Reading) ReadRepository {
	recalled, files, same := r.Memory.recall(l, how, r.Undecoded)
	if same {
		return recalled
	}
	out := ReadRepository{Repository: assess.Repository{Name: l.Name, Identity: repo.Identity(l), Path: l.Path}}
	job := Job{Location: l, How: how, Now: time.Now()}
	if r.Memory != nil {
		job.Remember, job.Files, job.Now = true, files, r.Memory.Now()
	}
	said, err := r.do(ctx, job)
	if err == nil && said.Unread == "" {
		err = out.hear(said.Reading, r.Undecoded)
	}
	if err != nil {
		said = Said{Unread: err.Error()}
	}
	out.Ref, out.Commit, out.Notice, out.Unread, out.Reread = said.Ref, said.Commit, said.Notice, said.Unread, said.Reread
	if out.Unread != "" {
		if !how.Worktree && l.Kind != repo.Plain {
			out.Ref = cmp.Or(how.Ref, "HEAD") // what was to be read
		}
		out.Problems = append(out.Problems, claim.Problem{Kind: claim.Unreadable, Reason: out.Unread, Lost: true})
		return out
	}
	if !said.Ended && len(said.Left) == 0 && !lacking(said.Reading) {
		r.Memory.keep(l, how, said)
	}
	return out
}

// lacking reports whether objects were missing or damaged when a repository was read: they may come
// without its commit being another one, so that such a reading is not remembered.
func lacking(reading []byte) bool {
	for _, err := range []error{odb.ErrMissing, odb.ErrDamaged} {
		if bytes.Contains(reading, []byte(err.Error())) {
			return true
		}
	}
	return false
}

// hear takes what a repository said.
func (r *ReadRepository) hear(said []byte, undecoded bool) error {
	if undecoded {
		r.Said = said
		return nil
	}
	return json.Unmarshal(said, &r.Reading)
}

// Close ends the workers and writes what is not written yet.
func (r Reader) Close() error {
	r.Workers.Close()
	return r.Memory.Close()
}

func (r Reader) do(ctx context.Context, job Job) (Said, error) {
	if r.Workers != nil {
		return r.Workers.do(ctx, job)
	}
	return Do(ctx, r.Claims, r.Rules, job, nil)
}

// together is how many repositories are worked on at a time: reading waits for disks.
func together() int { return 4 * runtime.GOMAXPROCS(0) }
