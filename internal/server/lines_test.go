package server_test

import (
	"context"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
)

// TestTheTextAroundAClaim: of lines that something rests on, as the commit has them, and of no
// others; and what looks like a secret is left out.
func TestTheTextAroundAClaim(t *testing.T) {
	r := start(t)
	lay(t, r.estate, "ferns", map[string]string{".env": "NPM_TOKEN=abc\nNODE_VERSION=22.11.0\nOTHER=1\n", ".node-version": "22\n", "notes.txt": "one\n"})
	c := r.surveyed(t)
	lines := func(file string, line int) (int, string, string) {
		got, err := c.GetLinesWithResponse(context.Background(), "ferns", &client.GetLinesParams{File: file, Line: line})
		require.NoError(t, err)
		if got.JSON200 == nil {
			return got.StatusCode(), string(got.Body), ""
		}
		var text []string
		for _, l := range got.JSON200.Lines {
			text = append(text, l.Text)
		}
		return got.StatusCode(), strings.Join(text, "|"), got.JSON200.Notice
	}
	status, text, _ := lines(".node-version", 1)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "22", text)
	status, text, _ = lines(".env", 2)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "NODE_VERSION=22.11.0", text, "the claim's own line alone")
	for file, line := range map[string]int{"notes.txt": 1, "../mosses/.python-version": 1, ".git/config": 1, ".env": 1, "/etc/passwd": 1} {
		status, text, _ = lines(file, line)
		assert.Equal(t, http.StatusNotFound, status, file)
		assert.Contains(t, text, "only lines that a claim or a finding rests on are shown")
	}
	// What was read counts, and not what lies there now.
	require.NoError(t, os.WriteFile(filepath.Join(r.estate, "ferns", ".node-version"), []byte("99\n"), 0o644))
	_, text, _ = lines(".node-version", 1)
	assert.Equal(t, "22", text)
	require.NoError(t, os.RemoveAll(filepath.Join(r.estate, "ferns", ".git")))
	status, text, notice := lines(".node-version", 1)
	assert.Equal(t, http.StatusOK, status)
	assert.Empty(t, text)
	assert.Contains(t, notice, "The file cannot be read any more")
	got, err := c.GetLinesWithResponse(context.Background(), "fern", &client.GetLinesParams{File: "x", Line: 1})
	require.NoError(t, err)
	assert.Contains(t, string(got.Body), "No repository is called fern; did you mean ferns?")
}

// TestTheLinesAroundAClaim are for leads and owners, where the service shows them, and without
// what looks like a secret.
func TestTheLinesAroundAClaim(t *testing.T) {
	r := start(t)
	lay(t, r.estate, "ferns", map[string]string{".env": "DB_PASS=hunter2\nNODE_VERSION=22.11.0\nPAY=sk_live_hunter2hunter2hunter2\n"})
	r.surveyed(t)
	lines := func(role string) string {
		got, err := r.as(t, role).GetLinesWithResponse(t.Context(), "ferns", &client.GetLinesParams{File: ".env", Line: 2})
		require.NoError(t, err)
		var text []string
		for _, l := range got.JSON200.Lines {
			text = append(text, l.Text)
		}
		return strings.Join(text, "|")
	}
	assert.Equal(t, "NODE_VERSION=22.11.0", lines("owner"))
	r.service.ShowAround()
	assert.Equal(t, "NODE_VERSION=22.11.0", lines("reader"))
	for _, role := range []string{"lead", "owner"} {
		assert.Equal(t, "DB_PASS=•••|NODE_VERSION=22.11.0|PAY=•••", lines(role))
	}
}

// TestFilesAtTheirHost: where a repository's address is known, its files are.
func TestFilesAtTheirHost(t *testing.T) {
	r := start(t)
	out, err := exec.Command("git", "-C", filepath.Join(r.estate, "ferns"), "remote", "add", "origin", "git@github.trust.invalid:beds/ferns.git").CombinedOutput()
	require.NoError(t, err, "%s", out)
	c := r.surveyed(t)
	got, err := c.GetRepositoryWithResponse(context.Background(), "ferns", nil)
	require.NoError(t, err)
	assert.Equal(t, "https://github.trust.invalid/beds/ferns/blob/"+got.JSON200.Commit+"/{file}#L{line}", got.JSON200.Link)
	list, err := c.ListFindingsWithResponse(context.Background(), nil)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"ferns": got.JSON200.Link}, list.JSON200.Links)
	other, err := c.GetRepositoryWithResponse(context.Background(), "mosses", nil)
	require.NoError(t, err)
	assert.Empty(t, other.JSON200.Link)
}

// TestWhatASurveyChanged is told with it: what came, what went, and nothing where nothing did.
func TestWhatASurveyChanged(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	first, err := c.ListSurveysWithResponse(context.Background())
	require.NoError(t, err)
	found, err := c.ListFindingsWithResponse(context.Background(), nil)
	require.NoError(t, err)
	assert.Equal(t, found.JSON200.Total, first.JSON200.Surveys[0].Opened)
	assert.Zero(t, first.JSON200.Surveys[0].Closed)
	again := r.survey(t, c)
	assert.Zero(t, again.Opened+again.Closed)
	lay(t, r.estate, "orchids", map[string]string{".node-version": "24.21.0\n"})
	changed := r.survey(t, c)
	assert.Equal(t, [2]int{2, 1}, [2]int{changed.Opened, changed.Closed}, "what was missing on the bench is there, is missing on the desk, and what the desk has serves nobody")
}

// TestTheWorstFirst: by severity, class and reach, or by repository where nothing else is said.
func TestTheWorstFirst(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	order := func(sort *client.ListFindingsParamsSort) string {
		got, err := c.ListFindingsWithResponse(context.Background(), &client.ListFindingsParams{Sort: sort})
		require.NoError(t, err)
		var out []string
		for _, f := range got.JSON200.Findings {
			out = append(out, string(f.Severity)+" "+f.Class+" "+f.Repository)
		}
		return strings.Join(out, "\n")
	}
	need := client.ListFindingsParamsSortNeed
	assert.Equal(t, "error toolchain-missing mosses\nerror toolchain-missing ferns\nerror toolchain-missing orchids\nerror end-of-life mosses\nwarning support-ending ferns", order(&need))
	assert.NotEqual(t, order(&need), order(nil))
}

// TestACollectorSignsInToNothing: it may see nothing, and is told so before it tries.
func TestACollectorSignsInToNothing(t *testing.T) {
	r := start(t)
	_, secret, err := r.service.Store.CreateToken(context.Background(), "agent", "collector", "", r.service.Clock())
	require.NoError(t, err)
	response, err := http.Post(r.url+"/api/session", "application/json", strings.NewReader(`{"token": "`+secret+`"}`))
	require.NoError(t, err)
	defer response.Body.Close()
	assert.Equal(t, http.StatusForbidden, response.StatusCode)
	assert.Empty(t, response.Header.Get("Set-Cookie"))
	sessions, err := r.service.Store.Sessions(context.Background(), r.service.Clock())
	require.NoError(t, err)
	assert.Empty(t, sessions)
}
