// Package api is the service's HTTP interface: the generated contract, answered from
// the store and from views, with the console beside it.
package api

import (
	"context"
	"errors"
	"io/fs"
	"iter"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	openapi_types "github.com/oapi-codegen/runtime/types"

	contract "wexo/api"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/server/store"
	"wexo/internal/server/survey"
	"wexo/internal/server/view"
)

// Server answers the API.
type Server struct {
	Store     *store.Store
	Views     *view.Views
	Jobs      *survey.Jobs
	Catalogue *catalogue.Catalogue
	Reader    *reading.Reader
	Roots     []string         // local paths may be added only below these, links followed
	Now       func() time.Time // the clock, for sessions and times shown
	Day       func() time.Time // the service's own day, for verdicts
	Version   string
	Console   fs.FS // the built console; nil serves none
	Log       *slog.Logger
	Lasting   context.Context   // lives as long as the service: surveys run in it
	FileLinks map[string]string // of hosts of repositories, by globs: where they show a file
	Around    bool              // leads and owners see the lines around a claim
	Names     []string          // host names by which it is spoken to; none means any

	failures throttle
	ready    readiness
}

var _ StrictServerInterface = (*Server)(nil)

// Handler is the whole HTTP interface.
func (s *Server) Handler() (http.Handler, error) {
	all, err := newPermits()
	if err != nil {
		return nil, err
	}
	e := echo.New()
	e.HTTPErrorHandler = writeProblem(s.Log)
	e.Binder = binder{}
	e.Use(s.logged, middleware.Recover(), headers, limited, s.permit(all), middleware.GzipWithConfig(middleware.GzipConfig{
		MinLength: 1024, Skipper: uncompressed}))
	RegisterHandlers(e, NewStrictHandler(s, []StrictMiddlewareFunc{withRequest}))
	e.Match([]string{http.MethodGet, http.MethodHead}, contractPath, func(c *echo.Context) error {
		return c.Blob(http.StatusOK, "application/yaml; charset=utf-8", contract.Text())
	})
	e.Any("/api/*", func(*echo.Context) error { return problem(http.StatusNotFound, "There is no such call.") })
	if s.Console != nil {
		files := &console{files: s.Console, kept: map[string]*asset{}}
		e.Match([]string{http.MethodGet, http.MethodHead}, "/*", files.serve)
	}
	return e, nil
}

// answerLimit is how long an answer may take: whoever works longer for one is told to stop. Events
// go on.
const answerLimit = 2 * time.Minute

// limited ends the work for an answer when its time is over, or who asked has gone.
func limited(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if strings.HasSuffix(c.Request().URL.Path, "/events") {
			return next(c)
		}
		ctx, cancel := context.WithTimeout(c.Request().Context(), answerLimit)
		defer cancel()
		c.SetRequest(c.Request().WithContext(ctx))
		return next(c)
	}
}

// contractPath is where the contract itself is.
const contractPath = "/api/openapi.yaml"

// uncompressed reports whether an answer is not to be compressed: events are sent as they
// come, the matrix and the console's files are compressed already, and what a change is
// answered is short.
func uncompressed(c *echo.Context) bool {
	path := c.Request().URL.Path
	return c.Request().Method != http.MethodGet || !strings.HasPrefix(path, "/api/") || strings.HasSuffix(path, "/events") || path == "/api/matrix"
}

// headers that keep the console and the API to themselves.
func headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
		if strings.HasPrefix(c.Request().URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		return next(c)
	}
}

// logged writes one line a request.
func (s *Server) logged(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		start := time.Now()
		err := next(c)
		_, status := echo.ResolveResponseStatus(c.Response(), err)
		s.Log.Debug("request", "method", c.Request().Method, "path", c.Request().URL.Path, "status", status, "took", time.Since(start))
		return err
	}
}

// GetHealth tells that the process runs.
func (s *Server) GetHealth(context.Context, GetHealthRequestObject) (GetHealthResponseObject, error) {
	return GetHealth200JSONResponse{Status: "ok", Version: s.Version}, nil
}

// readiness is what was found out lately: asking may write, and anybody may ask.
type readiness struct {
	mu    sync.Mutex
	asked time.Time
	err   error
}

// readyFor is how long an answer holds, and readyLimit how long one may take.
const (
	readyFor   = 2 * time.Second
	readyLimit = 2 * time.Second
)

// GetReady tells whether the service can answer and keep what it is told.
func (s *Server) GetReady(ctx context.Context, _ GetReadyRequestObject) (GetReadyResponseObject, error) {
	s.ready.mu.Lock()
	defer s.ready.mu.Unlock()
	if now := s.Now(); s.ready.asked.IsZero() || now.Sub(s.ready.asked).Abs() >= readyFor {
		brief, cancel := context.WithTimeout(context.WithoutCancel(ctx), readyLimit)
		defer cancel()
		if s.ready.asked, s.ready.err = now, s.Store.Beat(brief); s.ready.err != nil {
			s.Log.Warn("not ready", "reason", s.ready.err)
		}
	}
	var gone *store.Gone
	if errors.As(s.ready.err, &gone) {
		return nil, problem(http.StatusServiceUnavailable, sentence("the data file "+gone.Plainly()))
	}
	if s.ready.err != nil {
		return nil, problem(http.StatusServiceUnavailable, "The data file cannot be written; the service's log says why. What is there can still be read.")
	}
	return GetReady200JSONResponse{Status: "ready", Version: s.Version}, nil
}

// view gives the view through a request's lens.
func (s *Server) view(ctx context.Context, asOf *openapi_types.Date, machines *[]string) (*view.View, error) {
	lens := view.Lens{Day: s.Day()}
	if asOf != nil {
		lens.Day = asOf.Time
	}
	if machines != nil {
		lens.Machines = *machines
	}
	return s.Views.At(ctx, lens)
}

func dateOf(t time.Time) openapi_types.Date { return openapi_types.Date{Time: t} }

// value is what a pointer points at, or the zero value.
func value[T any](p *T) T {
	if p == nil {
		var zero T
		return zero
	}
	return *p
}

// page is the asked-for part of a list, and how long all of it is.
func page[T any](list iter.Seq[T], limit, offset *int) (shown []T, total int, err error) {
	most, from := 100, value(offset)
	if limit != nil {
		most = *limit
	}
	switch {
	case most < 1 || most > 1000:
		return nil, 0, problem(http.StatusBadRequest, "limit must lie between 1 and 1000.")
	case from < 0:
		return nil, 0, problem(http.StatusBadRequest, "offset must not be negative.")
	}
	shown = []T{}
	for item := range list {
		if total >= from && len(shown) < most {
			shown = append(shown, item)
		}
		total++
	}
	return shown, total, nil
}
