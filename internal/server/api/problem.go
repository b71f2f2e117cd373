package api

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"regexp"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"wexo/internal/server/store"
	"wexo/internal/server/survey"
	"wexo/internal/server/view"
)

// problemError is an error that the caller may see, with its status.
type problemError struct {
	status int
	detail string
	wait   time.Duration // before the same may be tried again
}

func (e *problemError) Error() string { return e.detail }

func problem(status int, detail string) error { return &problemError{status: status, detail: detail} }

// writeProblem answers every error with a problem detail; what is not meant for
// callers is logged and told as an internal error.
func writeProblem(log *slog.Logger) echo.HTTPErrorHandler {
	return func(c *echo.Context, err error) {
		if r, unwrapErr := echo.UnwrapResponse(c.Response()); unwrapErr == nil && r.Committed {
			return
		}
		p := describe(err)
		var own *problemError
		if errors.As(err, &own) && own.wait > 0 {
			c.Response().Header().Set("Retry-After", strconv.Itoa(int(own.wait/time.Second)+1))
		}
		if p.Status == http.StatusInternalServerError {
			log.Error("request failed", "method", c.Request().Method, "path", c.Request().URL.Path, "error", err)
		}
		instance := c.Request().URL.Path
		p.Instance = &instance
		data, marshalErr := json.Marshal(p)
		if marshalErr != nil {
			data = []byte(`{}`)
		}
		if c.Request().Method == http.MethodHead {
			data = nil
		}
		if writeErr := c.Blob(p.Status, "application/problem+json", data); writeErr != nil {
			log.Debug("answer not written", "error", writeErr)
		}
	}
}

func describe(err error) Problem {
	status, detail := http.StatusInternalServerError, "The service could not do this; its log says why."
	var own *problemError
	var noMachine view.ErrNoMachine
	var coder echo.HTTPStatusCoder
	var older *store.Older
	var gone *store.Gone
	switch {
	case errors.As(err, &own):
		status, detail = own.status, own.detail
	case errors.Is(err, store.ErrNotFound):
		status, detail = http.StatusNotFound, "There is no such thing here."
	case errors.Is(err, survey.ErrRunning):
		status, detail = http.StatusConflict, "A survey is running already; wait for it, or watch it."
	case errors.As(err, &gone):
		status, detail = http.StatusServiceUnavailable, sentence("the data file "+gone.Plainly())
	case errors.As(err, &older):
		status, detail = http.StatusConflict, sentence(older.Error())
	case errors.Is(err, context.DeadlineExceeded):
		status, detail = http.StatusServiceUnavailable, "The answer took too long; ask for less of it."
	case errors.Is(err, context.Canceled), errors.Is(err, http.ErrServerClosed):
		status, detail = http.StatusServiceUnavailable, "The service is stopping, or the caller went away."
	case errors.As(err, &noMachine):
		status, detail = http.StatusBadRequest, stopped("The parameter machine names none: "+noMachine.Error())
	case errors.As(err, &coder):
		status, detail = coder.StatusCode(), http.StatusText(coder.StatusCode())+"."
		var echoErr *echo.HTTPError
		if errors.As(err, &echoErr) {
			detail = misread(echoErr.Message, detail)
		}
	}
	return Problem{Type: "about:blank", Title: http.StatusText(status), Status: status, Detail: &detail}
}

// parameter finds the name in what the generated server says of a parameter.
var parameter = regexp.MustCompile(`^Invalid format for parameter (\w+):`)

// misread says what is wrong with a request that the generated server could not read,
// without the words of the library that tried.
func misread(message, otherwise string) string {
	if m := parameter.FindStringSubmatch(message); m != nil {
		return "The parameter " + m[1] + " cannot be understood."
	}
	return otherwise
}
