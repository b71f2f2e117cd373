package api

import (
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"

	"github.com/labstack/echo/v5"

	"wexo/internal/server/store"
	"wexo/internal/server/survey"
	"wexo/internal/server/view"
)

// problemError is an error that the caller may see, with its status.
type problemError struct {
	status int
	detail string
}

func (e *problemError) Error() string { return e.detail }

func problem(status int, detail string) error { return &problemError{status, detail} }

// writeProblem answers every error with a problem detail; what is not meant for
// callers is logged and told as an internal error.
func writeProblem(log *slog.Logger) echo.HTTPErrorHandler {
	return func(c *echo.Context, err error) {
		if r, unwrapErr := echo.UnwrapResponse(c.Response()); unwrapErr == nil && r.Committed {
			return
		}
		p := describe(err)
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
	switch {
	case errors.As(err, &own):
		status, detail = own.status, own.detail
	case errors.Is(err, store.ErrNotFound):
		status, detail = http.StatusNotFound, "There is no such thing here."
	case errors.Is(err, survey.ErrRunning):
		status, detail = http.StatusConflict, "A survey is running already; wait for it, or watch it."
	case errors.As(err, &noMachine):
		status, detail = http.StatusBadRequest, noMachine.Error()+"."
	case errors.As(err, &coder):
		status, detail = coder.StatusCode(), http.StatusText(coder.StatusCode())+"."
		var echoErr *echo.HTTPError
		if errors.As(err, &echoErr) && echoErr.Message != "" {
			detail = echoErr.Message
		}
	}
	return Problem{Type: "about:blank", Title: http.StatusText(status), Status: status, Detail: &detail}
}
