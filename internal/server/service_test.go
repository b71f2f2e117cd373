package server_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	openapi_types "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/server"
)

// running is a service on loopback.
type running struct {
	url     string
	service *server.Service
	estate  string
	data    string
	stop    func() error
}

func start(t *testing.T) *running {
	t.Helper()
	estate := t.TempDir()
	lay(t, estate, "ferns", map[string]string{".node-version": "22\n", "package.json": `{"engines": {"node": ">=22"}}`})
	lay(t, estate, "mosses", map[string]string{".python-version": "3.8\n"})
	lay(t, estate, "orchids", map[string]string{".node-version": "24.11.1\n"})
	return startOn(t, filepath.Join(t.TempDir(), "wexo.db"), estate)
}

// startNamed starts a service that answers to some host names only.
func startNamed(t *testing.T, names ...string) *running {
	t.Helper()
	return startOn(t, filepath.Join(t.TempDir(), "wexo.db"), t.TempDir(), names...)
}

func openOn(t *testing.T, data string, roots []string, names ...string) (*server.Service, error) {
	t.Helper()
	b, err := rule.Embedded()
	require.NoError(t, err)
	return openWith(t, b, data, roots, names...)
}

func openWith(t *testing.T, b *rule.Book, data string, roots []string, names ...string) (*server.Service, error) {
	t.Helper()
	reader, err := reading.New(b.Catalogue)
	require.NoError(t, err)
	return server.Open(context.Background(), server.Options{Data: data, Roots: roots, Names: names, AsOf: time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC),
		Version: "test", Book: b, Reader: reader, Log: slog.New(slog.DiscardHandler),
		Console: fstest.MapFS{"index.html": {Data: []byte("<title>Wexo</title>")}, "assets/a.js": {Data: []byte("1")}}})
}

func startOn(t *testing.T, data, estate string, names ...string) *running {
	t.Helper()
	service, err := openOn(t, data, []string{estate}, names...)
	require.NoError(t, err)
	return runningOf(t, service, data, estate)
}

// runningOf serves on loopback until the test ends.
func runningOf(t *testing.T, service *server.Service, data, estate string) *running {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan error, 1)
	go func() { done <- service.Serve(ctx, listener) }()
	r := &running{url: "http://" + listener.Addr().String(), service: service, estate: estate, data: data}
	r.stop = sync.OnceValue(func() error {
		cancel()
		return <-done
	})
	t.Cleanup(func() { assert.NoError(t, r.stop()) })
	return r
}

func lay(t *testing.T, estate, name string, files map[string]string) {
	t.Helper()
	dir := filepath.Join(estate, name)
	for file, content := range files {
		at := filepath.Join(dir, file)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(content), 0o644))
	}
	for _, args := range [][]string{{"init", "-q"}, {"add", "-A"}, {"-c", "user.name=t", "-c", "user.email=t@trust.invalid", "commit", "-qm", "bed"}} {
		cmd := exec.Command("git", append([]string{"-C", dir}, args...)...)
		cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
}

// as gives a client with a token of the role.
func (r *running) as(t *testing.T, role string) *client.ClientWithResponses {
	t.Helper()
	_, secret, err := r.service.Store.CreateToken(context.Background(), role, role, "", time.Now())
	require.NoError(t, err)
	return r.with(t, secret)
}

func (r *running) with(t *testing.T, secret string) *client.ClientWithResponses {
	t.Helper()
	c, err := client.NewClientWithResponses(r.url, client.WithRequestEditorFn(func(_ context.Context, q *http.Request) error {
		q.Header.Set("Authorization", "Bearer "+secret)
		return nil
	}), client.WithHTTPClient(&http.Client{Transport: newChecked(t)}))
	require.NoError(t, err)
	return c
}

func inventoryOf(name string, node ...string) inventory.Inventory {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name, Kind: "laptop"}, TakenAt: time.Date(2026, 11, 16, 8, 0, 0, 0, time.UTC),
		Installations: []inventory.Installation{}, FirstOnPath: []inventory.OnPath{}, Defaults: []inventory.Default{}, Overrides: []inventory.Override{}}
	for _, v := range node {
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "node", Version: v, Path: "/opt/node/" + v + "/bin/node", Home: "/opt/node/" + v, Origin: "versioned-root", Health: "good"})
	}
	return inv
}

// body is a value as a request's body.
func body(t *testing.T, value any) io.Reader {
	t.Helper()
	data, err := json.Marshal(value)
	require.NoError(t, err)
	return bytes.NewReader(data)
}

// surveyed adds the estate and two machines and surveys.
func (r *running) surveyed(t *testing.T) *client.ClientWithResponses {
	t.Helper()
	c := r.as(t, "lead")
	ctx := context.Background()
	added, err := c.AddRepositoriesWithResponse(ctx, client.AddRepositories{Path: r.estate})
	require.NoError(t, err)
	require.Equal(t, http.StatusCreated, added.StatusCode(), string(added.Body))
	require.Len(t, added.JSON201.Repositories, 3)
	bench := inventoryOf("bench", "22.11.0", "24.21.0")
	bench.Editors = []inventory.Wiring{{Tool: "node", Kind: inventory.WiredSetting, Editor: "VS Code", Path: "/opt/node/24.21.0/bin/node"}} // which is therefore no spare one
	for _, inv := range []inventory.Inventory{bench, inventoryOf("desk", "24.11.1")} {
		sent, err := c.SendInventoryWithBodyWithResponse(ctx, "application/json", body(t, inv))
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, sent.StatusCode(), string(sent.Body))
	}
	r.survey(t, c)
	return c
}

// survey starts a survey and follows its events to the end.
func (r *running) survey(t *testing.T, c *client.ClientWithResponses) client.Survey {
	t.Helper()
	ctx := context.Background()
	started, err := c.StartSurveyWithResponse(ctx)
	require.NoError(t, err)
	require.Equal(t, http.StatusAccepted, started.StatusCode(), string(started.Body))
	response, err := c.WatchSurvey(ctx, started.JSON202.Id)
	require.NoError(t, err)
	defer response.Body.Close()
	assert.Equal(t, "text/event-stream", response.Header.Get("Content-Type"))
	var last client.Survey
	lines := bufio.NewScanner(response.Body)
	for lines.Scan() {
		if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
			require.NoError(t, json.Unmarshal([]byte(data), &last))
		}
	}
	require.Equal(t, client.Finished, last.State, last.Message)
	assert.Equal(t, last.Total, last.Done)
	return last
}

func TestWhatTheServiceTells(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	ctx := context.Background()

	list, err := c.ListRepositoriesWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, "ferns", list.JSON200.Repositories[0].Name)
	assert.Len(t, list.JSON200.Repositories[0].Commit, 40)

	found, err := c.ListFindingsWithResponse(ctx, nil)
	require.NoError(t, err)
	var got []string
	for _, f := range found.JSON200.Findings {
		got = append(got, f.Repository+" "+f.Class+" "+strings.Join(f.Machines, ","))
		assert.Equal(t, "2026-11-16", f.FirstSeen)
	}
	assert.Equal(t, []string{"ferns support-ending bench,desk", "ferns toolchain-missing desk", "mosses end-of-life bench,desk", "mosses toolchain-missing bench,desk", "orchids toolchain-missing bench"}, got)

	class, severity := []string{"toolchain-missing"}, []string{"error"}
	one, two, q, machine := 1, 2, "orchids 24.11", []string{"desk"}
	for name, x := range map[string]struct {
		p     client.ListFindingsParams
		total int
		shown int
	}{
		"class":    {client.ListFindingsParams{Class: &class}, 3, 3},
		"severity": {client.ListFindingsParams{Severity: &severity}, 4, 4},
		"page":     {client.ListFindingsParams{Limit: &two, Offset: &one}, 5, 2},
		"words":    {client.ListFindingsParams{Q: &q}, 1, 1},
		"machine":  {client.ListFindingsParams{Machine: &machine}, 4, 4},
		"date":     {client.ListFindingsParams{AsOf: &openapi_types.Date{Time: time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)}}, 4, 4},
	} {
		got, err := c.ListFindingsWithResponse(ctx, &x.p)
		require.NoError(t, err)
		require.Equal(t, 200, got.StatusCode(), string(got.Body))
		assert.Equal(t, x.total, got.JSON200.Total, name)
		assert.Len(t, got.JSON200.Findings, x.shown, name)
	}

	causes, err := c.ListCausesWithResponse(ctx, nil)
	require.NoError(t, err)
	var titles []string
	shown := 0
	for _, cause := range causes.JSON200.Causes {
		titles = append(titles, cause.Title)
		of, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Cause: &cause.Id})
		require.NoError(t, err)
		assert.Equal(t, cause.Findings, of.JSON200.Total, cause.Title)
		assert.NotEmpty(t, cause.First)
		assert.NotEmpty(t, cause.Remedy)
		shown += of.JSON200.Total
	}
	assert.Equal(t, found.JSON200.Total, shown, "every finding has one cause")
	assert.Equal(t, []string{"Python 3.8: out of support since 7 Oct 2024, in use in mosses, and missing on every machine",
		"Node.js 24.11.1: asked for by orchids, missing on 1 machine", "Node.js 22: asked for by ferns, missing on 1 machine", "Node.js 22: support ends on 30 Apr 2027, in use in ferns"}, titles)
	over := 7
	old, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Over: &over})
	require.NoError(t, err)
	assert.Zero(t, old.JSON200.Total, "all were first seen today")

	o, err := c.GetOverviewWithResponse(ctx, nil)
	require.NoError(t, err)
	assert.Equal(t, 3, o.JSON200.Repositories)
	assert.Equal(t, 4, o.JSON200.Causes)
	assert.Len(t, o.JSON200.First, 4)
	assert.Equal(t, 4, o.JSON200.BySeverity.Error)
	assert.Equal(t, "22", o.JSON200.Ending[0].Line)
	assert.Equal(t, 1, o.JSON200.Ending[0].Repositories)
	assert.Len(t, o.JSON200.Freshness.Machines, 2)

	m, err := c.GetMatrixWithResponse(ctx, nil)
	require.NoError(t, err)
	cell := m.JSON200.Rows[2].Cells[0]
	assert.Equal(t, client.Cell{Tool: "node", Kind: "toolchain-missing", Severity: "error", Asked: "24.11.1", Resolved: "on 1 of 2; 24.11.1 on 1 of 2", Classes: []string{"toolchain-missing"}, Affected: 1, Among: 2}, cell)

	part, err := c.GetMatrixWithResponse(ctx, &client.GetMatrixParams{From: &one, Rows: &one})
	require.NoError(t, err)
	assert.Equal(t, m.JSON200.Rows[1:2], part.JSON200.Rows)
	assert.Equal(t, 3, part.JSON200.Total)
	assert.Equal(t, m.JSON200.Tools, part.JSON200.Tools, "what is counted is of all rows")

	d, err := c.GetRepositoryWithResponse(ctx, "ferns", nil)
	require.NoError(t, err)
	tool := d.JSON200.Folders[0].Tools[0]
	assert.Equal(t, "Node.js", tool.Title)
	assert.Equal(t, ">=22.0.0 <23.0.0", tool.Feasible)
	assert.Len(t, tool.Resolutions[0].Ladder, 6)
	assert.True(t, tool.Resolutions[0].Ladder[1].Decides)
	assert.NotEmpty(t, tool.Ruler.Ticks)
	require.NotEmpty(t, tool.Ruler.Bars)

	claims, err := c.ListClaimsWithResponse(ctx, &client.ListClaimsParams{Repository: ptr("ferns")})
	require.NoError(t, err)
	assert.Equal(t, 2, claims.JSON200.Total)
	resolutions, err := c.ListResolutionsWithResponse(ctx, &client.ListResolutionsParams{Tool: ptr("python")})
	require.NoError(t, err)
	assert.Equal(t, 1, resolutions.JSON200.Total)
	assert.Equal(t, []string{"bench", "desk"}, resolutions.JSON200.Resolutions[0].Resolution.Machines, "machines with the same ladder are together")
	lines, err := c.ListLinesWithResponse(ctx, &client.ListLinesParams{Tool: ptr("node")})
	require.NoError(t, err)
	assert.NotEmpty(t, lines.JSON200.Lines)
}

func ptr[T any](v T) *T { return &v }

func TestHistoryAndRemoval(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	ctx := context.Background()
	require.NoError(t, os.WriteFile(filepath.Join(r.estate, "mosses", ".python-version"), []byte("3.13\n"), 0o644))
	out, err := exec.Command("git", "-C", filepath.Join(r.estate, "mosses"), "-c", "user.name=t", "-c", "user.email=t@trust.invalid", "commit", "-qam", "newer").CombinedOutput()
	require.NoError(t, err, string(out))
	r.survey(t, c)
	got, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Class: &[]string{"end-of-life"}})
	require.NoError(t, err)
	assert.Zero(t, got.JSON200.Total, "what was mended is gone")

	removed, err := c.RemoveRepositoryWithResponse(ctx, "orchids")
	require.NoError(t, err)
	assert.Equal(t, http.StatusNoContent, removed.StatusCode())
	assert.DirExists(t, filepath.Join(r.estate, "orchids"))
	again, err := c.RemoveRepositoryWithResponse(ctx, "orchids")
	require.NoError(t, err)
	assertProblem(t, again.HTTPResponse, again.Body, http.StatusNotFound, "No repository is called orchids.")
}

func TestDataStaysOverARestart(t *testing.T) {
	data := filepath.Join(t.TempDir(), "wexo.db")
	estate := t.TempDir()
	lay(t, estate, "ferns", map[string]string{".node-version": "22\n"})
	lay(t, estate, "mosses", map[string]string{".python-version": "3.8\n"})
	lay(t, estate, "orchids", map[string]string{".node-version": "24.11.1\n"})
	first := startOn(t, data, estate)
	first.surveyed(t)
	_, secret, err := first.service.Store.CreateToken(context.Background(), "kept", "reader", "", time.Now())
	require.NoError(t, err)
	require.NoError(t, first.stop())
	second := startOn(t, data, estate)
	got, err := second.with(t, secret).ListFindingsWithResponse(context.Background(), nil)
	require.NoError(t, err)
	assert.Equal(t, 5, got.JSON200.Total)
}

func TestHealthAndConsole(t *testing.T) {
	r := start(t)
	get := func(path string) (*http.Response, string) {
		response, err := http.Get(r.url + path)
		require.NoError(t, err)
		defer response.Body.Close()
		body, err := io.ReadAll(response.Body)
		require.NoError(t, err)
		return response, string(body)
	}
	_, body := get("/health")
	assert.JSONEq(t, `{"status": "ok", "version": "test"}`, body)
	_, body = get("/ready")
	assert.JSONEq(t, `{"status": "ready", "version": "test"}`, body)
	for _, path := range []string{"/", "/matrix", "/repositories/ferns"} {
		response, body := get(path)
		assert.Equal(t, 200, response.StatusCode)
		assert.Contains(t, body, "<title>Wexo")
		assert.Contains(t, response.Header.Get("Content-Security-Policy"), "default-src 'self'")
	}
	response, _ := get("/assets/a.js")
	assert.Contains(t, response.Header.Get("Cache-Control"), "immutable")
	response, _ = get("/assets/gone.js")
	assert.Equal(t, 404, response.StatusCode)
	for _, path := range []string{"/../../etc/passwd", "/metrics", "/openapi.yaml", "/matrix/", "/wp-admin", "/repositories/", "/index.htm", "/assets"} {
		response, body = get(path)
		assert.NotContains(t, body, "root:")
		assert.Equal(t, 404, response.StatusCode, path)
		assert.Contains(t, body, "There is no such file or page.")
	}
	q, err := http.NewRequest("GET", r.url+"/beds", nil)
	require.NoError(t, err)
	q.Header.Set("Accept", "text/html,*/*")
	shown, err := http.DefaultClient.Do(q)
	require.NoError(t, err)
	page, err := io.ReadAll(shown.Body)
	require.NoError(t, errors.Join(err, shown.Body.Close()))
	assert.Equal(t, 404, shown.StatusCode)
	assert.Contains(t, string(page), "<title>Wexo", "people are shown so by the console")
	response, body = get("/api/openapi.yaml")
	assert.Equal(t, 200, response.StatusCode)
	assert.Contains(t, body, "openapi: 3")
}
