// Package survey reads many repositories at once and assesses them: the pass that the
// command line runs in process and the service runs as a job.
package survey

import (
	"context"
	"fmt"
	"runtime"
	"sync"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/host/repo"
	"wexo/internal/report"
)

// timeLimit is how long one repository may take to be read.
const timeLimit = 2 * time.Minute

// Read reads the repositories, several at a time, in the order given. done is called
// after each one, from one goroutine at a time; it may be nil.
func Read(ctx context.Context, reader *claim.Reader, locations []repo.Location, how repo.Reading, done func(n int, r ReadRepository)) ([]ReadRepository, error) {
	out := make([]ReadRepository, len(locations))
	var mu sync.Mutex
	finished := 0
	each(ctx, len(locations), func(i int) {
		out[i] = one(ctx, reader, locations[i], how)
		if done == nil {
			return
		}
		mu.Lock()
		defer mu.Unlock()
		finished++
		done(finished, out[i])
	})
	return out, ctx.Err()
}

// ReadRepository is a repository that was read.
type ReadRepository struct {
	assess.Repository
	Notice string
}

func one(ctx context.Context, reader *claim.Reader, l repo.Location, how repo.Reading) ReadRepository {
	out := ReadRepository{Repository: assess.Repository{Name: l.Name, Path: l.Path}}
	ctx, cancel := context.WithTimeout(ctx, timeLimit)
	defer cancel()
	tree, err := repo.Open(ctx, l, how)
	if err != nil {
		out.Problems = []claim.Problem{{Kind: claim.Unreadable, Reason: err.Error()}}
		return out
	}
	defer tree.Close()
	out.Ref, out.Commit, out.Notice = tree.Ref, tree.Commit, tree.Notice
	out.Reading = reader.Read(tree.FS)
	if ctx.Err() != nil {
		out.Problems = append(out.Problems, claim.Problem{Kind: claim.Unreadable, Reason: fmt.Sprintf("reading it took longer than %s", timeLimit)})
	}
	return out
}

// Assess judges repositories that were read, several at a time.
func Assess(ctx context.Context, repositories []ReadRepository, in assess.Inputs) []report.Read {
	out := make([]report.Read, len(repositories))
	each(ctx, len(repositories), func(i int) {
		out[i] = report.Read{Assessment: assess.Assess(repositories[i].Repository, in), Notice: repositories[i].Notice}
	})
	return out
}

// each runs do for 0 to n-1 on as many goroutines as help.
func each(ctx context.Context, n int, do func(i int)) {
	var wait sync.WaitGroup
	next := make(chan int)
	for range min(n, 2*runtime.GOMAXPROCS(0)) {
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
