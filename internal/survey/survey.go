// Package survey reads many repositories at once and assesses them: the pass that the
// command line runs in process and the service runs as a job.
package survey

import (
	"cmp"
	"context"
	"fmt"
	"io/fs"
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

// Reader reads repositories.
type Reader struct {
	Claims *claim.Reader
	Rules  claim.Rules // the user's, for every repository
	Memory *Memory     // nil remembers nothing
}

// Read reads the repositories, several at a time, in the order given. done is called
// after each one, from one goroutine at a time; it may be nil.
func (r Reader) Read(ctx context.Context, locations []repo.Location, how repo.Reading, done func(n int, r ReadRepository)) ([]ReadRepository, error) {
	out := make([]ReadRepository, len(locations))
	var mu sync.Mutex
	finished := 0
	each(ctx, len(locations), func(i int) {
		out[i] = r.one(ctx, locations[i], how)
		if done == nil {
			return
		}
		mu.Lock()
		defer mu.Unlock()
		finished++
		done(finished, out[i])
	})
	r.Memory.flush()
	return out, ctx.Err()
}

// ReadRepository is a repository that was read.
type ReadRepository struct {
	assess.Repository
	Notice   string
	Recalled bool // it had not changed since it was read before
	Reread   int  // files that were read because they were new or had changed
}

func (r Reader) one(ctx context.Context, l repo.Location, how repo.Reading) ReadRepository {
	recalled, files, same := r.Memory.recall(l, how)
	if same {
		return recalled
	}
	out := ReadRepository{Repository: assess.Repository{Name: l.Name, Path: l.Path}}
	ctx, cancel := context.WithTimeout(ctx, timeLimit)
	defer cancel()
	tree, err := repo.Open(ctx, l, how)
	if err != nil {
		if !how.Worktree && l.Kind != repo.Plain {
			out.Ref = cmp.Or(how.Ref, "HEAD") // what was to be read
		}
		out.Problems = []claim.Problem{{Kind: claim.Unreadable, Reason: err.Error()}}
		return out
	}
	defer tree.Close()
	out.Ref, out.Commit, out.Notice = tree.Ref, tree.Commit, tree.Notice
	o := claim.Options{WorkingTree: tree.Commit == "", Rules: r.Rules, Name: l.Name, Remember: files}
	source, watched := fs.FS(tree.FS), (*repo.Watched)(nil)
	if files != nil {
		if watched = tree.Watch(r.Memory.Now()); watched != nil {
			source = watched
		}
		files.Stamp = stamps(watched)
	}
	out.Reading = r.Claims.ReadTree(ctx, source, o)
	if ctx.Err() != nil {
		out.Problems = append(out.Problems, claim.Problem{Kind: claim.Unreadable, Reason: fmt.Sprintf("reading it took longer than %s", timeLimit)})
		return out
	}
	if files != nil {
		state := ""
		if watched != nil {
			state = watched.State()
		}
		out.Reread = files.Read()
		r.Memory.keep(l, how, out, state, files)
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
	for range min(n, 4*runtime.GOMAXPROCS(0)) {
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
