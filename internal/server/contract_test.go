package server_test

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/legacy"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
)

// checked is a way to the service on which every answer is held against api/openapi.yaml.
type checked struct {
	t      *testing.T
	router routers.Router
	mu     sync.Mutex
	seen   map[string]int
}

func newChecked(t *testing.T) *checked {
	t.Helper()
	contract, err := openapi3.NewLoader().LoadFromFile("../../api/openapi.yaml")
	require.NoError(t, err)
	require.NoError(t, contract.Validate(context.Background()))
	router, err := legacy.NewRouter(contract)
	require.NoError(t, err)
	openapi3filter.RegisterBodyDecoder("application/problem+json", openapi3filter.RegisteredBodyDecoder("application/json"))
	return &checked{t: t, router: router, seen: map[string]int{}}
}

// RoundTrip calls the service, and fails the test where the answer is not as the contract says.
func (c *checked) RoundTrip(q *http.Request) (*http.Response, error) {
	response, err := http.DefaultTransport.RoundTrip(q)
	if err != nil || strings.HasSuffix(q.URL.Path, "/events") {
		return response, err
	}
	body, err := io.ReadAll(response.Body)
	response.Body.Close()
	response.Body = io.NopCloser(bytes.NewReader(body))
	if err != nil {
		return response, err
	}
	bare := q.Clone(q.Context())
	bare.URL.Scheme, bare.URL.Host, bare.Host = "", "", "" // the contract names no servers
	route, params, err := c.router.FindRoute(bare)
	if !assert.NoError(c.t, err, "%s %s stands in the contract", q.Method, q.URL) {
		return response, nil
	}
	err = openapi3filter.ValidateResponse(q.Context(), &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{Request: bare, PathParams: params, Route: route}, Status: response.StatusCode, Header: response.Header,
		Body: io.NopCloser(bytes.NewReader(body)), Options: &openapi3filter.Options{IncludeResponseStatus: true},
	})
	assert.NoError(c.t, err, "%s %s answered %d: %.300s", q.Method, q.URL, response.StatusCode, body)
	c.mu.Lock()
	defer c.mu.Unlock()
	c.seen[route.Operation.OperationID]++
	return response, nil
}

// TestAnswersAreAsTheContractSays: every call that gives something is made, for a
// repository whose name means something in an address too, and its answer looked over.
func TestAnswersAreAsTheContractSays(t *testing.T) {
	r := start(t)
	lay(t, r.estate, "a#b?c%25 d", map[string]string{"package.json": `{"engines": {"node": ">=20"}, "dependencies": {"vite": "^5"}}`, "package-lock.json": `{"lockfileVersion": 3, "packages": {"node_modules/fern": {"version": "1.0.0", "engines": {"node": ">=99"}}}}`,
		"Dockerfile": "ARG V=20\nFROM node:${V}-alpine AS web\n", ".zig-version": "1\n", ".beds": "python 3.13 3.12\n"})
	lead := r.as(t, "lead")
	_, err := lead.AddRepositoriesWithResponse(t.Context(), client.AddRepositories{Path: r.estate})
	require.NoError(t, err)
	_, err = lead.SendInventoryWithBodyWithResponse(t.Context(), "application/json", body(t, inventoryOf("bench", "22.11.0")))
	require.NoError(t, err)
	r.survey(t, lead)
	checks := newChecked(t)
	_, secret, err := r.service.Store.CreateToken(t.Context(), "all", "owner", "", time.Now())
	require.NoError(t, err)
	get := func(path string, status int) string {
		t.Helper()
		q, err := http.NewRequestWithContext(t.Context(), http.MethodGet, r.url+path, nil)
		require.NoError(t, err)
		q.Header.Set("Authorization", "Bearer "+secret)
		response, err := (&http.Client{Transport: checks}).Do(q)
		require.NoError(t, err)
		defer response.Body.Close()
		text, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		require.Equal(t, status, response.StatusCode, "%s: %s", path, text)
		return string(text)
	}
	odd := url.PathEscape("a#b?c%25 d")
	for _, path := range []string{"/health", "/ready", "/api/session", "/api/overview", "/api/matrix", "/api/matrix?from=0&rows=1", "/api/causes", "/api/causes?class=toolchain-missing&age=7", "/api/repositories", "/api/repositories/" + odd, "/api/machines", "/api/machines/bench", "/api/report",
		"/api/claims", "/api/resolutions?tool=node", "/api/findings", "/api/findings?repository=" + url.QueryEscape("a#b?c%25 d"), "/api/lines?tool=node", "/api/surveys", "/api/surveys/1", "/api/tokens", "/api/sessions"} {
		get(path, 200)
	}
	assert.Contains(t, get("/api/repositories/"+odd, 200), `"name":"a#b?c%25 d"`)
	assert.Contains(t, get("/api/repositories/"+odd, 200), `"begin":`)
	assert.Contains(t, get("/api/repositories/"+odd, 200), `"mentions":[`)
	for _, path := range []string{"/api/repositories/none", "/api/machines/none", "/api/surveys/99"} {
		get(path, 404)
	}
	get("/api/findings?class=nonsense", 400)
	get("/api/causes?class=nonsense", 400)
	for _, operation := range []string{"getHealth", "getReady", "getSession", "getOverview", "getMatrix", "listRepositories", "getRepository", "listMachines", "getMachine", "getReport",
		"listClaims", "listResolutions", "listFindings", "listCauses", "listLines", "listSurveys", "getSurvey", "listTokens", "listSessions"} {
		assert.Positive(t, checks.seen[operation], operation)
	}
}
