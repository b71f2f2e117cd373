package api

import (
	"context"
	"crypto/subtle"
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"wexo/internal/server/store"
)

// sessionCookie carries the console's session.
const sessionCookie = "wexo_session"

// csrfHeader carries the session's CSRF token with every change.
const csrfHeader = "X-Wexo-CSRF"

// caller is who makes a request.
type caller struct {
	name, role, csrf string
}

type callerKey struct{}

func callerOf(ctx context.Context) caller {
	c, _ := ctx.Value(callerKey{}).(caller)
	return c
}

// open operations need no caller.
var open = []string{"GetHealth", "GetReady", "CreateSession"}

// roles are those that may call an operation; operations that are not listed are
// reading ones, open to readers and above.
var roles = map[string][]string{
	"SendInventory":    {"collector", "lead", "owner"},
	"AddRepositories":  {"lead", "owner"},
	"RemoveRepository": {"lead", "owner"},
	"StartSurvey":      {"lead", "owner"},
	"ListTokens":       {"owner"},
	"CreateToken":      {"owner"},
	"DeleteToken":      {"owner"},
	"GetSession":       {"reader", "collector", "lead", "owner"},
	"DeleteSession":    {"reader", "collector", "lead", "owner"},
}

var readers = []string{"reader", "lead", "owner"}

// authorize finds the caller and checks the role that the operation needs.
func (s *Server) authorize(next StrictHandlerFunc, operation string) StrictHandlerFunc {
	return func(c *echo.Context, request any) (any, error) {
		if slices.Contains(open, operation) {
			return next(c, request)
		}
		who, err := s.identify(c)
		if err != nil {
			return nil, err
		}
		allowed, listed := roles[operation]
		if !listed {
			allowed = readers
		}
		if !slices.Contains(allowed, who.role) {
			return nil, problem(http.StatusForbidden, "The role "+who.role+" may not do this; it takes "+strings.Join(allowed, " or ")+".")
		}
		c.SetRequest(c.Request().WithContext(context.WithValue(c.Request().Context(), callerKey{}, who)))
		return next(c, request)
	}
}

func (s *Server) identify(c *echo.Context) (caller, error) {
	ctx := c.Request().Context()
	if secret, ok := strings.CutPrefix(c.Request().Header.Get("Authorization"), "Bearer "); ok {
		token, err := s.Store.UseToken(ctx, strings.TrimSpace(secret), s.Now())
		if errors.Is(err, store.ErrNotFound) {
			return caller{}, problem(http.StatusUnauthorized, "The token is unknown or was revoked.")
		}
		return caller{name: token.Name, role: token.Role}, err
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
	return caller{session.Name, session.Role, session.CSRF}, nil
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
	if token == "" && code == "" {
		return nil, problem(http.StatusBadRequest, "Send a token or a one-time code.")
	}
	secret, session, err := s.Store.SignIn(ctx, token, code, s.Now())
	if errors.Is(err, store.ErrNotFound) {
		return nil, problem(http.StatusUnauthorized, "The token is unknown, or the one-time link was used or has expired.")
	}
	if err != nil {
		return nil, err
	}
	return CreateSession200JSONResponse{Body: s.session(caller{session.Name, session.Role, session.CSRF}),
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
		out.Tokens = append(out.Tokens, Token{Id: t.ID, Name: t.Name, Role: Role(t.Role), CreatedAt: t.CreatedAt, LastUsedAt: t.LastUsedAt})
	}
	return ListTokens200JSONResponse(out), nil
}

// CreateToken makes a token.
func (s *Server) CreateToken(ctx context.Context, r CreateTokenRequestObject) (CreateTokenResponseObject, error) {
	name := strings.TrimSpace(r.Body.Name)
	if name == "" || len(name) > 100 {
		return nil, problem(http.StatusBadRequest, "A token needs a name of 1 to 100 characters.")
	}
	if !r.Body.Role.Valid() {
		return nil, problem(http.StatusBadRequest, "The role is reader, collector, lead or owner.")
	}
	id, secret, err := s.Store.CreateToken(ctx, name, string(r.Body.Role), s.Now())
	if err != nil {
		return nil, err
	}
	return CreateToken201JSONResponse{Id: id, Token: secret}, nil
}

// DeleteToken revokes a token.
func (s *Server) DeleteToken(ctx context.Context, r DeleteTokenRequestObject) (DeleteTokenResponseObject, error) {
	if err := s.Store.DeleteToken(ctx, r.Id); err != nil {
		return nil, err
	}
	return DeleteToken204Response{}, nil
}
