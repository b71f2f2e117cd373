// Package survey reads many repositories at once and assesses them: the pass that the
// command line runs in process and the service runs as a job.
package survey

import (
	"cmp"
	"context"
	"encoding/json"
	"runtime"
	"sync"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/host/repo"
	"wexo/internal/report"
)

// Reader reads repositories.
type Reader struct {
	Claims  *claim.Reader
	Rules   claim.Rules // the user's, for every repository
	Memory  *Memory     // nil remembers nothing
	Workers *Workers    // processes that read; nil reads in this one
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
	each(ctx, len(locations), r.Workers.ahead(), func(i int) {
		out[i] = r.one(ctx, locations[i], how)
		if r.After != nil {
			r.After(i, out[i])
		}
		if done == nil {
			return
		}
		mu.Lock()
		defer mu.Unlock()
		finished++
		done(finished, out[i])
	})
	r.Memory.flush()
	r.Workers.dismiss() // a service that surveys once a day need not keep them
	return out, ctx.Err()
}

// ReadRepository is a repository that was read.
type ReadRepository struct {
	assess.Repository
	Notice   string
	Unread   string // why it could not be read at all; empty where it could
	Recalled bool   // it had not changed since it was read before
	Reread   int    // files that were read because they were new or had changed
}

func (r Reader) one(ctx context.Context, l repo.Location, how repo.Reading) ReadRepository {
	recalled, files, same := r.Memory.recall(l, how)
	if same {
		return recalled
	}
	out := ReadRepository{Repository: assess.Repository{Name: l.Name, Path: l.Path}}
	job := Job{Location: l, How: how, Now: time.Now()}
	if r.Memory != nil {
		job.Remember, job.Files, job.Now = true, files, r.Memory.Now()
	}
	said, err := r.do(ctx, job)
	if err == nil && said.Unread == "" {
		err = json.Unmarshal(said.Reading, &out.Reading)
	}
	if err != nil {
		said = Said{Unread: err.Error()}
	}
	out.Ref, out.Commit, out.Notice, out.Unread, out.Reread = said.Ref, said.Commit, said.Notice, said.Unread, said.Reread
	if out.Unread != "" {
		if !how.Worktree && l.Kind != repo.Plain {
			out.Ref = cmp.Or(how.Ref, "HEAD") // what was to be read
		}
		out.Problems = append(out.Problems, claim.Problem{Kind: claim.Unreadable, Reason: out.Unread})
		return out
	}
	if out.Ended == "" && len(said.Left) == 0 {
		r.Memory.keep(l, how, said)
	}
	return out
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

// Assess judges repositories that were read, several at a time.
func Assess(ctx context.Context, repositories []ReadRepository, in assess.Inputs) []report.Read {
	out := make([]report.Read, len(repositories))
	each(ctx, len(repositories), together(), func(i int) { out[i] = Judge(repositories[i], in) })
	return out
}

// Judge judges one repository that was read.
func Judge(r ReadRepository, in assess.Inputs) report.Read {
	return report.Read{Assessment: assess.Assess(r.Repository, in), Notice: r.Notice, Unread: r.Unread}
}

// together is how many repositories are worked on at a time: reading waits for disks.
func together() int { return 4 * runtime.GOMAXPROCS(0) }

// each runs do for 0 to n-1 on some goroutines.
func each(ctx context.Context, n, goroutines int, do func(i int)) {
	var wait sync.WaitGroup
	next := make(chan int)
	for range min(n, goroutines) {
		wait.Go(func() {
			for i := range next {
				do(i)
			}
		})
	}
	for i := range n {
		select {
		case next <- i:
		case <-ctx.Done():
		}
	}
	close(next)
	wait.Wait()
}
