package survey

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"time"

	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
)

// Limits of reading one repository.
const (
	timeLimit   = 2 * time.Minute
	memoryLimit = 768 << 20 // bytes that are in use
	stackLimit  = 64 << 20  // bytes of one stack, in a worker
)

var (
	errTime   = fmt.Errorf("reading it took longer than %s", timeLimit)
	errMemory = fmt.Errorf("reading it took more than %d MB of memory", memoryLimit>>20)
)

// Job is one repository to be read.
type Job struct {
	Location repo.Location
	How      repo.Reading
	Now      time.Time
	Remember bool
	Files    []byte            // what its files said before
	Leave    map[string]string // files that are not to be read, and why
	Announce bool              // each file is told of before it is read
}

// Said is what became of a job: what the repository said, or why it could not be read.
type Said struct {
	Unread      string
	Reading     []byte // a fact.Reading as JSON
	Ref, Commit string
	Notice      string
	Ended       bool // reading ended early
	Reread      int
	State       string
	Files       []byte
	Left        []string // files that were left out since they had ended a reader
	Alone       bool     // it ended for want of memory that others took too: it is to be read alone
	File        string   // that was read then
}

// Do reads one repository in this process. begin is told of each file before it is read; it may be nil.
func Do(ctx context.Context, reader *reading.Reader, rules userrule.Rules, job Job, begin func(file string)) (Said, error) {
	ctx, cancel := context.WithTimeoutCause(ctx, timeLimit, errTime)
	defer cancel()
	tree, err := repo.Open(ctx, job.Location, job.How)
	if err != nil {
		return Said{Unread: err.Error()}, nil
	}
	defer tree.Close()
	said := Said{Ref: tree.Ref, Commit: tree.Commit, Notice: tree.Notice}
	o := reading.Options{WorkingTree: tree.Commit == "", Rules: rules, Called: policy.Called{Name: job.Location.Name, Path: job.Location.Path, Identity: repo.Identity(job.Location)}, Leave: job.Leave, Begin: begin}
	source, watched := fs.FS(tree.FS), (*repo.Watched)(nil)
	if job.Remember {
		o.Remember = &reading.Memory{}
		if json.Unmarshal(job.Files, o.Remember) != nil {
			o.Remember = &reading.Memory{} // all of it is read anew
		}
		if watched = tree.Watch(job.Now); watched != nil {
			source = watched
		}
		o.Remember.Stamp = stamps(watched)
	}
	reading := reader.ReadTree(ctx, source, o)
	if slices.ContainsFunc(reading.Settings.Written, func(r policy.OwnRule) bool { return r.Kind == policy.OwnClaims || r.Kind == policy.OwnLeaveOut }) {
		plainly := o
		plainly.Plain, plainly.Remember = true, nil
		plain := reader.ReadTree(ctx, source, plainly)
		reading.Plain = &plain
	}
	said.Ended = reading.Ended != "" && !reading.Spent
	said.Alone = errors.Is(context.Cause(ctx), errMemory)
	var readingErr, filesErr error
	said.Reading, readingErr = json.Marshal(reading)
	if job.Remember {
		said.Reread = o.Remember.Read()
		o.Remember.Settle()
		said.Files, filesErr = json.Marshal(o.Remember)
		if watched != nil {
			said.State = watched.State()
		}
	}
	return said, errors.Join(readingErr, filesErr)
}
