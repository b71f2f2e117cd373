// Package survey runs the service's surveys as jobs, one at a time, and tells their
// progress to those who watch.
package survey

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"wexo/internal/host/repo"
	"wexo/internal/server/store"
	pass "wexo/internal/survey"
)

// ErrRunning is a survey asked for while another one runs.
var ErrRunning = errors.New("a survey is running already")

// Jobs runs surveys.
type Jobs struct {
	Store  *store.Store
	Reader pass.Reader
	Within repo.Within // folders that reading may not leave
	Now    func() time.Time
	// Renew takes up the readings that were stored, and has sight note the findings that
	// are there now.
	Renew func(ctx context.Context, day time.Time, sight func(store.Sightings) error) (findings int, err error)
	Log   *slog.Logger

	mu       sync.Mutex
	current  store.Survey
	watchers map[chan store.Survey]bool
	running  sync.WaitGroup
}

// Start begins a survey as of a day. It runs until it ends or ctx does.
func (j *Jobs) Start(ctx context.Context, day time.Time) (store.Survey, error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.current.State == "running" {
		return j.current, ErrRunning
	}
	list, err := j.Store.Repositories(ctx)
	if err != nil {
		return store.Survey{}, err
	}
	started, err := j.Store.StartSurvey(ctx, day, j.Now(), len(list))
	if err != nil {
		return started, err
	}
	j.current = started
	j.running.Go(func() { j.run(ctx, list, day, started) })
	return started, nil
}

// Wait returns when no survey runs any more.
func (j *Jobs) Wait() { j.running.Wait() }

// Current is the survey with this id as it stands, if it was the last to be started; ok is
// false for others. Where its end could not be stored yet, this is where it is known.
func (j *Jobs) Current(id int64) (store.Survey, bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.current, j.current.ID == id
}

// Watch gives the survey's states as they change, the present one first, and closes the
// channel when it has ended. Call stop when no longer interested.
func (j *Jobs) Watch(id int64) (events <-chan store.Survey, stop func(), ok bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.current.ID != id || j.current.State != "running" {
		return nil, nil, false
	}
	ch := make(chan store.Survey, 16)
	ch <- j.current
	if j.watchers == nil {
		j.watchers = map[chan store.Survey]bool{}
	}
	j.watchers[ch] = true
	return ch, func() {
		j.mu.Lock()
		defer j.mu.Unlock()
		delete(j.watchers, ch)
	}, true
}

// tell passes the survey's state to the watchers. A slow one misses counts, never the end.
func (j *Jobs) tell(s store.Survey) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.current = s
	for ch := range j.watchers {
		if s.State == "running" {
			select {
			case ch <- s:
			default:
			}
			continue
		}
		for len(ch) == cap(ch) { // room for the end, unless the watcher makes it just now
			select {
			case <-ch:
			default:
			}
		}
		ch <- s
		close(ch)
		delete(j.watchers, ch)
	}
}

func (j *Jobs) run(ctx context.Context, list []store.Repository, day time.Time, s store.Survey) {
	err := j.read(ctx, list, &s)
	findings := 0
	if err == nil {
		findings, err = j.Renew(ctx, day, func(seen store.Sightings) error {
			change, err := j.Store.Sight(ctx, day, seen)
			s.Opened, s.Closed = change.Opened, change.Closed
			return err
		})
	}
	if err != nil {
		j.Store.Changed() // what was stored is to be seen all the same
	}
	switch {
	case ctx.Err() != nil:
		s.State, s.Message = "stopped", "the service was stopped"
	case err != nil:
		s.State, s.Message = "failed", err.Error()
	default:
		s.State = "finished"
	}
	ended, endErr := j.Store.EndSurvey(context.WithoutCancel(ctx), s, j.Now())
	j.Log.Info("survey ended", "survey", s.ID, "state", s.State, "repositories", s.Done, "findings", findings, "error", errors.Join(err, endErr))
	j.tell(ended)
	if endErr != nil {
		j.mend(ctx, ended)
	}
}

// mendEvery is how often it is tried to store how a survey ended.
const mendEvery = 5 * time.Second

// mend stores how a survey ended as soon as that is possible again. Where the service stops
// first, its next start says that the survey was stopped.
func (j *Jobs) mend(ctx context.Context, ended store.Survey) {
	tick := time.NewTicker(mendEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if _, err := j.Store.EndSurvey(ctx, ended, j.Now()); err == nil {
				j.Log.Info("the end of a survey was stored at last", "survey", ended.ID)
				return
			}
		}
	}
}

func (j *Jobs) read(ctx context.Context, list []store.Repository, s *store.Survey) error {
	locations := make([]repo.Location, 0, len(list))
	for _, r := range list {
		locations = append(locations, repo.Location{Name: r.Name, Path: r.Path, Kind: repo.Kind(r.Kind)})
	}
	reader := j.Reader
	reader.Undecoded = true
	read, err := reader.Read(ctx, locations, repo.Reading{Within: j.Within}, func(n int, _ pass.ReadRepository) {
		s.Done = n
		j.tell(*s)
	})
	if err != nil {
		return err
	}
	now := j.Now()
	readings := make([]store.Reading, 0, len(read))
	for _, r := range read {
		stored := store.Reading{Repository: r.Name, Identity: r.Identity, Path: r.Path, Ref: r.Ref, Commit: r.Commit, Notice: r.Notice}
		if r.Unread != "" {
			stored.Forget = len(j.Within) > 0 && !j.Within.Holds(r.Path)
			readings = append(readings, stored.Failing(r.Unread, now))
			continue
		}
		readings = append(readings, stored.Saying(r.Said, now))
	}
	return j.Store.SaveReadings(ctx, readings)
}
