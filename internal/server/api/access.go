package api

import (
	"cmp"
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"wexo/internal/server/store"
	"wexo/internal/terminal"
)

// sessionCookie carries the console's session.
const sessionCookie = "wexo_session"

// csrfHeader carries the session's CSRF token with every change.
const csrfHeader = "X-Wexo-CSRF"

// caller is who makes a request.
type caller struct {
	name, role, csrf string
	token            store.Token // zero where a session signs
}

type callerKey struct{}

func callerOf(ctx context.Context) caller {
	c, _ := ctx.Value(callerKey{}).(caller)
	return c
}

func (s *Server) identify(c *echo.Context) (caller, error) {
	ctx := c.Request().Context()
	if secret, ok := strings.CutPrefix(c.Request().Header.Get("Authorization"), "Bearer "); ok {
		token, err := s.Store.UseToken(ctx, strings.TrimSpace(secret), s.Now())
		if errors.Is(err, store.ErrNotFound) {
			return caller{}, problem(http.StatusUnauthorized, "The token is unknown or was revoked.")
		}
		return caller{name: token.Name, role: token.Role, token: token}, err
	}
	cookie, err := c.Cookie(sessionCookie)
	if err != nil {
		return caller{}, problem(http.StatusUnauthorized, "Sign in, or send a token: Authorization: Bearer …")
	}
	session, err := s.Store.UseSession(ctx, cookie.Value, s.Now())
	if errors.Is(err, store.ErrNotFound) {
		return caller{}, problem(http.StatusUnauthorized, "The session has ended; sign in again.")
	}
	if err != nil {
		return caller{}, err
	}
	safe := c.Request().Method == http.MethodGet || c.Request().Method == http.MethodHead
	if !safe && subtle.ConstantTimeCompare([]byte(c.Request().Header.Get(csrfHeader)), []byte(session.CSRF)) != 1 {
		return caller{}, problem(http.StatusForbidden, "The header "+csrfHeader+" is missing or wrong.")
	}
	if !safe && !sameOrigin(c.Request()) {
		return caller{}, problem(http.StatusForbidden, "The request comes from a page of another origin.")
	}
	return callerBy(session), nil
}

func callerBy(session store.Session) caller {
	return caller{name: session.Name, role: session.Role, csrf: session.CSRF}
}

type requestKey struct{}

// withRequest lets handlers see the request itself, for its cookies and encryption.
func withRequest(next StrictHandlerFunc, _ string) StrictHandlerFunc {
	return func(c *echo.Context, request any) (any, error) {
		c.SetRequest(c.Request().WithContext(context.WithValue(c.Request().Context(), requestKey{}, c.Request())))
		return next(c, request)
	}
}

func requestOf(ctx context.Context) *http.Request {
	r, _ := ctx.Value(requestKey{}).(*http.Request)
	return r
}

func cookie(ctx context.Context, value string, maxAge int) *string {
	r := requestOf(ctx)
	text := (&http.Cookie{Name: sessionCookie, Value: value, Path: "/", MaxAge: maxAge, HttpOnly: true,
		SameSite: http.SameSiteStrictMode, Secure: r != nil && r.TLS != nil}).String()
	return &text
}

// CreateSession signs in with a token or a one-time code.
func (s *Server) CreateSession(ctx context.Context, r CreateSessionRequestObject) (CreateSessionResponseObject, error) {
	token, code := value(r.Body.Token), value(r.Body.Code)
	if token == "" && code == "" || len(token)+len(code) > 400 {
		return nil, problem(http.StatusBadRequest, "Send a token or a one-time code.")
	}
	from := address(requestOf(ctx))
	if left := s.failures.wait(from, s.Now()); left > 0 {
		return nil, &problemError{status: http.StatusTooManyRequests, detail: "Too many attempts to sign in failed; try again in a minute.", wait: left}
	}
	secret, session, err := s.Store.SignIn(ctx, token, code, s.Now())
	if errors.Is(err, store.ErrNotFound) {
		s.failures.fail(from, s.Now())
		return nil, problem(http.StatusUnauthorized, "The token is unknown, or the one-time link was used or has expired.")
	}
	if err != nil {
		return nil, err
	}
	if session.Role == string(Collector) {
		if err := s.Store.EndSession(ctx, secret); err != nil {
			return nil, err
		}
		return nil, problem(http.StatusForbidden, "This is a collector's token: it sends inventories and may see nothing. Sign in with the token of a reader, a lead or an owner.")
	}
	return CreateSession200JSONResponse{Body: s.session(callerBy(session)),
		Headers: CreateSession200ResponseHeaders{SetCookie: cookie(ctx, secret, int(store.SessionLife.Seconds()))}}, nil
}

// GetSession tells who is signed in.
func (s *Server) GetSession(ctx context.Context, _ GetSessionRequestObject) (GetSessionResponseObject, error) {
	return GetSession200JSONResponse(s.session(callerOf(ctx))), nil
}

func (s *Server) session(c caller) Session {
	return Session{Name: c.name, Role: Role(c.role), Csrf: c.csrf, AsOf: dateOf(s.Day())}
}

// DeleteSession signs out.
func (s *Server) DeleteSession(ctx context.Context, _ DeleteSessionRequestObject) (DeleteSessionResponseObject, error) {
	if r := requestOf(ctx); r != nil {
		if c, err := r.Cookie(sessionCookie); err == nil {
			if err := s.Store.EndSession(ctx, c.Value); err != nil {
				return nil, err
			}
		}
	}
	return DeleteSession204Response{Headers: DeleteSession204ResponseHeaders{SetCookie: cookie(ctx, "", -1)}}, nil
}

// ListTokens lists tokens without their secrets.
func (s *Server) ListTokens(ctx context.Context, _ ListTokensRequestObject) (ListTokensResponseObject, error) {
	list, err := s.Store.Tokens(ctx)
	if err != nil {
		return nil, err
	}
	out := TokenList{Tokens: []Token{}}
	for _, t := range list {
		out.Tokens = append(out.Tokens, Token{Id: t.ID, Name: t.Name, Role: Role(t.Role), CreatedAt: t.CreatedAt, LastUsedAt: t.LastUsedAt, Machine: optional(t.Machine)})
	}
	return ListTokens200JSONResponse(out), nil
}

// CreateToken makes a token.
func (s *Server) CreateToken(ctx context.Context, r CreateTokenRequestObject) (CreateTokenResponseObject, error) {
	name, machine := strings.TrimSpace(r.Body.Name), value(r.Body.Machine)
	switch {
	case name == "" || utf8.RuneCountInString(name) > 100 || terminal.Clean(name) != name:
		return nil, problem(http.StatusBadRequest, "The field name should hold 1 to 100 characters that can be seen.")
	case !r.Body.Role.Valid():
		return nil, problem(http.StatusBadRequest, "The field role should be reader, collector, lead or owner.")
	case machine != "" && r.Body.Role != Collector:
		return nil, problem(http.StatusBadRequest, "The field machine goes with the role collector.")
	case len(machine) > 200 || strings.TrimSpace(machine) != machine || terminal.Clean(machine) != machine:
		return nil, problem(http.StatusBadRequest, "The field machine should be a machine's name.")
	}
	id, secret, err := s.Store.CreateToken(ctx, name, string(r.Body.Role), machine, s.Now())
	if err != nil {
		return nil, err
	}
	return CreateToken201JSONResponse{Id: id, Token: secret}, nil
}

// DeleteToken revokes a token.
func (s *Server) DeleteToken(ctx context.Context, r DeleteTokenRequestObject) (DeleteTokenResponseObject, error) {
	err := s.Store.DeleteToken(ctx, r.Id)
	if errors.Is(err, store.ErrLastOwner) {
		return nil, problem(http.StatusConflict, "This is the last owner's token: without it nobody could make another. Make one for the next owner first.")
	}
	if err != nil {
		return nil, numbered(err, "token", r.Id)
	}
	return DeleteToken204Response{}, nil
}

// ListSessions lists the consoles that are signed in.
func (s *Server) ListSessions(ctx context.Context, _ ListSessionsRequestObject) (ListSessionsResponseObject, error) {
	list, err := s.Store.Sessions(ctx, s.Now())
	if err != nil {
		return nil, err
	}
	out := SessionList{Sessions: []OpenSession{}}
	for _, x := range list {
		out.Sessions = append(out.Sessions, OpenSession{Id: x.ID, Name: x.Name, Role: Role(x.Role), CreatedAt: x.CreatedAt, ExpiresAt: x.ExpiresAt, From: cmp.Or(x.From, "a sign-in link")})
	}
	return ListSessions200JSONResponse(out), nil
}

// EndSession signs a console out.
func (s *Server) EndSession(ctx context.Context, r EndSessionRequestObject) (EndSessionResponseObject, error) {
	if err := s.Store.DeleteSession(ctx, r.Id); err != nil {
		return nil, numbered(err, "session", r.Id)
	}
	return EndSession204Response{}, nil
}

// numbered tells what was not found.
func numbered(err error, kind string, id int64) error {
	if errors.Is(err, store.ErrNotFound) {
		return problem(http.StatusNotFound, fmt.Sprintf("There is no %s number %d.", kind, id))
	}
	return err
}
