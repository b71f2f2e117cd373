// Package server puts the service together: store, surveys, API and console in one
// process that starts, serves and stops cleanly.
package server

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/server/api"
	"wexo/internal/server/store"
	"wexo/internal/server/survey"
	"wexo/internal/server/view"
	pass "wexo/internal/survey"
)

// Options are what a service is made from.
type Options struct {
	Data      string           // the SQLite file
	Roots     []string         // local paths may be added only below these, and nothing is read outside
	Names     []string         // host names by which it is spoken to; none means any
	TLS       *tls.Config      // nil serves without encryption
	AsOf      time.Time        // the day of verdicts; zero means today
	Clock     func() time.Time // what time it is; time.Now where it is nil
	Version   string
	Book      *rule.Book // what is known of tools and of what goes together
	Reader    *reading.Reader
	Rules     userrule.Rules      // by which every repository is read
	Policy    policy.Policy       // by which it is judged
	Memory    func() *pass.Memory // opens what repositories said before, once the data is this service's; nil remembers nothing
	Workers   *pass.Workers       // processes that read, closed with the service; nil reads in this one
	Console   fs.FS
	Log       *slog.Logger
	Around    bool              // leads and owners see the lines around a claim
	FileLinks map[string]string // of hosts of repositories, by globs: where they show a file
	Every     time.Duration     // how long after a survey begins the next one does; 0 leaves surveys to those who ask for them
}

// Service is an opened service.
type Service struct {
	Clock   func() time.Time
	Store   *store.Store
	Jobs    *survey.Jobs
	api     *api.Server
	reader  pass.Reader
	log     *slog.Logger
	version string
	day     func() time.Time
	views   *view.Views
	tls     *tls.Config
	held    *store.Held
	every   time.Duration
}

// Open opens the data and makes the service ready to serve.
func Open(ctx context.Context, o Options) (*Service, error) {
	roots, err := realRoots(o.Roots)
	if err != nil {
		return nil, err
	}
	if o.Clock == nil {
		o.Clock = time.Now
	}
	data, held, err := openData(ctx, o.Data)
	if err != nil {
		return nil, err
	}
	if err := data.StopLeftOver(ctx, o.Clock()); err != nil {
		return nil, errors.Join(err, data.Close(), held.Close())
	}
	views := &view.Views{Store: data, Estate: pass.NewEstate(o.Book, o.Policy)}
	views.Estate.Rules = o.Rules
	views.Estate.Now = nowFunc(o.AsOf, o.Clock)
	within := repo.Within(roots)
	if len(roots) == 0 { // what an earlier start allowed is allowed no more
		within = repo.Nowhere
	}
	reader := pass.Reader{Claims: o.Reader, Rules: o.Rules, Workers: o.Workers}
	if o.Memory != nil {
		reader.Memory = o.Memory()
	}
	jobs := &survey.Jobs{Store: data, Reader: reader, Within: within, Now: o.Clock, Log: o.Log,
		Renew: views.Renew}
	s := &Service{Clock: o.Clock, Store: data, Jobs: jobs, reader: reader, log: o.Log, day: dayFunc(o.AsOf, o.Clock), views: views, version: o.Version, tls: o.TLS, held: held, every: o.Every}
	s.api = &api.Server{Store: data, Views: views, Jobs: jobs, Catalogue: o.Book.Catalogue, Reader: o.Reader, Roots: roots, Names: o.Names, FileLinks: o.FileLinks, Around: o.Around,
		Now: o.Clock, Day: s.day, Version: o.Version, Console: o.Console, Log: o.Log}
	views.Warm = api.Warm
	return s, nil
}

// openData takes the data file for this service alone and opens it.
func openData(ctx context.Context, file string) (*store.Store, *store.Held, error) {
	held, err := store.Lock(file)
	if err != nil {
		return nil, nil, err
	}
	err = store.Fits(ctx, held.Path)
	if err == nil { // nothing is laid beside what is somebody's
		err = held.Beside()
	}
	var data *store.Store
	if err == nil {
		data, err = store.Open(ctx, held.Path)
	}
	if err != nil {
		return nil, nil, errors.Join(err, held.Close())
	}
	data.Whole = held.Whole
	return data, held, nil
}

// nowFunc is by when machines have to have reported: where the day is fixed, by its end.
func nowFunc(fixed time.Time, clock func() time.Time) func() time.Time {
	if fixed.IsZero() {
		return clock
	}
	return func() time.Time { return fixed.AddDate(0, 0, 1).Add(-time.Second) }
}

func dayFunc(fixed time.Time, clock func() time.Time) func() time.Time {
	return func() time.Time {
		if !fixed.IsZero() {
			return fixed
		}
		return clock().UTC().Truncate(24 * time.Hour)
	}
}

// realRoots follows the links of the allowed folders.
func realRoots(roots []string) ([]string, error) {
	var out []string
	for _, root := range roots {
		if strings.TrimSpace(root) == "" {
			return nil, errors.New("a root is empty; name a folder, or leave the roots out")
		}
		abs, err := filepath.Abs(root)
		if err == nil {
			abs, err = filepath.EvalSymlinks(abs)
		}
		if err != nil {
			return nil, fmt.Errorf("root %s: %w", root, err)
		}
		out = append(out, abs)
	}
	return out, nil
}

// stopLimit is how long requests may take to end when the service stops.
const stopLimit = 5 * time.Second

// Serve answers on the listener until ctx ends, then lets requests finish, stops a
// running survey and closes the data. Requests that do not finish are cut off: that the
// service stops is no failure.
func (s *Service) Serve(ctx context.Context, listener net.Listener) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	s.api.Lasting = ctx
	handler, err := s.api.Handler()
	if err != nil {
		return errors.Join(err, s.Close())
	}
	requests, cut := context.WithCancel(context.WithoutCancel(ctx)) // requests under way go on when ctx ends
	defer cut()
	h := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute, IdleTimeout: 2 * time.Minute,
		MaxHeaderBytes: 64 << 10, BaseContext: func(net.Listener) context.Context { return requests }, ErrorLog: slog.NewLogLogger(s.log.Handler(), slog.LevelDebug)}
	listener = newCrowd(listener, mostGuests)
	if s.tls != nil {
		listener = tls.NewListener(listener, s.tls)
	}
	failed := make(chan error, 1)
	go func() { failed <- h.Serve(listener) }()
	s.log.Info("serving", "address", listener.Addr().String(), "encrypted", s.tls != nil)
	var schedule sync.WaitGroup
	if s.every > 0 {
		schedule.Go(func() { s.keepSurveying(ctx, s.every) })
	}
	select {
	case err = <-failed:
	case <-ctx.Done():
		limit, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopLimit)
		defer cancel()
		if err = h.Shutdown(limit); errors.Is(err, context.DeadlineExceeded) {
			s.log.Warn("requests that did not finish were cut off")
			cut()
			err = h.Close()
		}
	}
	stop() // also where the listener failed: surveys and their schedule end
	schedule.Wait()
	s.Jobs.Wait()
	s.log.Info("stopped")
	return errors.Join(err, s.Close())
}

// Report is what the service's newest survey found, on a day.
func (s *Service) Report(ctx context.Context, day time.Time) (*report.Report, error) {
	v, err := s.views.At(ctx, view.Lens{Day: day})
	if err != nil {
		return nil, err
	}
	return v.Report(s.version), nil
}

// Close closes the data, ends the readers and lets another service take the data file.
func (s *Service) Close() error {
	return errors.Join(s.Store.Close(), s.reader.Close(), s.held.Close())
}
