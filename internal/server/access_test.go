package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
)

func TestProblems(t *testing.T) {
	r := start(t)
	r.surveyed(t)
	_, owner, err := r.service.Store.CreateToken(context.Background(), "o", "owner", "", time.Now())
	require.NoError(t, err)
	outside := t.TempDir()
	require.NoError(t, os.Symlink(outside, filepath.Join(r.estate, "way-out")))
	for _, c := range []struct {
		method, path, body, token string
		status                    int
		says                      string
	}{
		{"GET", "/api/findings", "", "", 401, "Sign in"},
		{"GET", "/api/findings", "", "wexo_wrong", 401, "unknown or was revoked"},
		{"GET", "/api/nothing", "", owner, 404, "no such call"},
		{"GET", "/api/repositories/nothing", "", owner, 404, "No repository is called nothing"},
		{"GET", "/api/machines/nothing", "", owner, 404, "No machine is called nothing"},
		{"GET", "/api/surveys/99", "", owner, 404, "No survey is called 99"},
		{"GET", "/api/surveys/99/events", "", owner, 404, "No survey is called 99"},
		{"GET", "/api/surveys/first", "", owner, 400, "id"},
		{"GET", "/api/findings?class=sins", "", owner, 400, "The parameter class names a class of findings that is not known: \"sins\"; known are"},
		{"GET", "/api/findings?class=end-of-lif", "", owner, 400, "did you mean \"end-of-life\"?"},
		{"GET", "/api/findings?clas=end-of-life", "", owner, 400, "This call has no parameter \"clas\"; did you mean \"class\"?"},
		{"GET", "/api/repositories/ferns/lines?file=x", "", owner, 400, "The parameter line is missing."},
		{"GET", "/api/repositories/ferns/lines?file=x&line=0", "", owner, 400, "line"},
		{"GET", "/api/surveys?limit=3", "", owner, 400, "This call takes no parameters, and \"limit\" is given."},
		{"GET", "/api/findings?severity=awful", "", owner, 400, "should be error, warning or note"},
		{"GET", "/api/findings?tool=nod", "", owner, 400, "did you mean \"node\"?"},
		{"GET", "/api/causes?tool=nod", "", owner, 400, "did you mean \"node\"?"},
		{"GET", "/api/claims?tool=nod", "", owner, 400, "did you mean \"node\"?"},
		{"GET", "/api/resolutions?repository=nowhere", "", owner, 400, "The parameter repository names one that is not known: \"nowhere\"; known are"},
		{"GET", "/api/report?tag=x", "", owner, 400, "The parameter tag names one that is not known"},
		{"GET", "/api/findings?limit=0", "", owner, 400, "from 1 to 1000"},
		{"GET", "/api/claims?limit=1001", "", owner, 400, "from 1 to 1000"},
		{"GET", "/api/resolutions?offset=-1", "", owner, 400, "not below 0"},
		{"DELETE", "/health", "", "", 405, "Method Not Allowed"},
		{"POST", "/api/machines", strings.Repeat(" ", 17<<20), owner, 413, "too large; at most 5120 KB"},
		{"GET", "/api/findings?asOf=someday", "", owner, 400, "asOf"},
		{"GET", "/api/findings?machine=nobody", "", owner, 400, "nobody"},
		{"GET", "/api/lines?tool=abacus", "", owner, 400, "The parameter tool names one that is not known: \"abacus\"; known are bun,"},
		{"POST", "/api/machines", `{"format": "wexo.inventory/9", "machine": {"name": "x"}}`, owner, 422, "wexo.inventory/1"},
		{"POST", "/api/machines", `{`, owner, 400, ""},
		{"POST", "/api/repositories", `{"path": "relative"}`, owner, 400, "absolute"},
		{"POST", "/api/repositories", `{"path": "/etc"}`, owner, 403, "does not lie below"},
		{"POST", "/api/repositories", `{"path": "` + r.estate + `/../../etc"}`, owner, 403, "does not lie below"},
		{"POST", "/api/repositories", `{"path": "` + r.estate + `/way-out"}`, owner, 403, "does not lie below"},
		{"POST", "/api/repositories", `{"path": "` + r.estate + `/nowhere"}`, owner, 422, "no such folder"},
		{"POST", "/api/tokens", `{"name": "x", "role": "king"}`, owner, 400, "role"},
		{"POST", "/api/session", `{}`, "", 400, "token or a one-time code"},
		{"POST", "/api/session", `{"token": "guess"}`, "", 401, "unknown"},
		{"POST", "/api/session", `{"code": "guess"}`, "", 401, "used or has expired"},
		{"DELETE", "/api/tokens/99", "", owner, 404, "no token number 99"},
	} {
		q, err := http.NewRequest(c.method, r.url+c.path, strings.NewReader(c.body))
		require.NoError(t, err)
		q.Header.Set("Content-Type", "application/json")
		if c.token != "" {
			q.Header.Set("Authorization", "Bearer "+c.token)
		}
		response, err := http.DefaultClient.Do(q)
		require.NoError(t, err)
		body, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		response.Body.Close()
		t.Run(c.method+" "+c.path, func(t *testing.T) { assertProblem(t, response, body, c.status, c.says) })
	}
}

func assertProblem(t *testing.T, response *http.Response, body []byte, status int, detail string) {
	t.Helper()
	assert.Equal(t, status, response.StatusCode, string(body))
	assert.Equal(t, "application/problem+json", response.Header.Get("Content-Type"))
	var p client.Problem
	require.NoError(t, json.Unmarshal(body, &p), string(body))
	assert.Equal(t, status, p.Status)
	assert.Equal(t, http.StatusText(status), p.Title)
	require.NotNil(t, p.Detail)
	assert.Contains(t, *p.Detail, detail)
}

func TestRoles(t *testing.T) {
	r := start(t)
	r.surveyed(t)
	ctx := context.Background()
	allowed := map[string]map[string]bool{
		"reader":    {"findings": true, "send": false, "survey": false, "add": false, "tokens": false},
		"collector": {"findings": false, "send": true, "survey": false, "add": false, "tokens": false},
		"lead":      {"findings": true, "send": true, "survey": true, "add": true, "tokens": false},
		"owner":     {"findings": true, "send": true, "survey": true, "add": true, "tokens": true},
	}
	for role, may := range allowed {
		c := r.as(t, role)
		status := map[string]int{}
		findings, err := c.ListFindings(ctx, nil)
		require.NoError(t, err)
		status["findings"] = findings.StatusCode
		send, err := c.SendInventoryWithBody(ctx, "application/json", body(t, inventoryOf("from-"+role)))
		require.NoError(t, err)
		status["send"] = send.StatusCode
		add, err := c.AddRepositories(ctx, client.AddRepositories{Path: r.estate})
		require.NoError(t, err)
		status["add"] = add.StatusCode
		tokens, err := c.ListTokens(ctx)
		require.NoError(t, err)
		status["tokens"] = tokens.StatusCode
		survey, err := c.StartSurvey(ctx)
		require.NoError(t, err)
		status["survey"] = survey.StatusCode
		r.service.Jobs.Wait()
		for what, ok := range may {
			assert.Equal(t, ok, status[what] != http.StatusForbidden, "%s: %s answered %d", role, what, status[what])
		}
	}
}

func TestConsoleSession(t *testing.T) {
	r := start(t)
	ctx := context.Background()
	code, err := r.service.Store.CreateCode(ctx, 0, "fern", "lead", time.Now().Add(time.Hour))
	require.NoError(t, err)
	signIn := func(body string) *http.Response {
		response, err := http.Post(r.url+"/api/session", "application/json", strings.NewReader(body))
		require.NoError(t, err)
		t.Cleanup(func() { response.Body.Close() })
		return response
	}
	response := signIn(`{"code": "` + code + `"}`)
	require.Equal(t, 200, response.StatusCode)
	assert.Equal(t, 401, signIn(`{"code": "`+code+`"}`).StatusCode, "a link signs in once")
	cookie := response.Cookies()[0]
	assert.True(t, cookie.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, cookie.SameSite)
	var session client.Session
	require.NoError(t, json.NewDecoder(response.Body).Decode(&session))
	assert.Equal(t, client.Lead, session.Role)

	call := func(method, path, csrf string) int {
		q, err := http.NewRequest(method, r.url+path, bytes.NewReader(nil))
		require.NoError(t, err)
		q.AddCookie(cookie)
		if csrf != "" {
			q.Header.Set("X-Wexo-CSRF", csrf)
		}
		response, err := http.DefaultClient.Do(q)
		require.NoError(t, err)
		response.Body.Close()
		return response.StatusCode
	}
	assert.Equal(t, 200, call("GET", "/api/overview", ""))
	assert.Equal(t, 403, call("POST", "/api/surveys", ""), "a change needs the CSRF token")
	assert.Equal(t, 403, call("POST", "/api/surveys", "wrong"))
	assert.Equal(t, 202, call("POST", "/api/surveys", session.Csrf))
	r.service.Jobs.Wait()
	assert.Equal(t, 204, call("DELETE", "/api/session", session.Csrf))
	assert.Equal(t, 401, call("GET", "/api/overview", ""), "signed out")

	id, secret, err := r.service.Store.CreateToken(ctx, "moss", "reader", "", time.Now())
	require.NoError(t, err)
	response = signIn(`{"token": "` + secret + `"}`)
	require.Equal(t, 200, response.StatusCode)
	cookie = response.Cookies()[0]
	assert.Equal(t, 200, call("GET", "/api/overview", ""))
	require.NoError(t, r.service.Store.DeleteToken(ctx, id))
	assert.Equal(t, 401, call("GET", "/api/overview", ""), "revoking a token ends its sessions")
}

func TestSecretsAreNotStored(t *testing.T) {
	data := filepath.Join(t.TempDir(), "wexo.db")
	r := startOn(t, data, t.TempDir())
	_, secret, err := r.service.Store.CreateToken(context.Background(), "x", "owner", "", time.Now())
	require.NoError(t, err)
	code, err := r.service.Store.CreateCode(context.Background(), 0, "x", "owner", time.Now().Add(time.Hour))
	require.NoError(t, err)
	require.NoError(t, r.stop())
	files, err := filepath.Glob(data + "*")
	require.NoError(t, err)
	for _, file := range files {
		content, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.NotContains(t, string(content), secret)
		assert.NotContains(t, string(content), code)
	}
}
