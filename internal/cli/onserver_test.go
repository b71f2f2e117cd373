package cli_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
	"wexo/internal/report"
)

const benchInventory = `{"format": "wexo.inventory/1", "machine": {"name": "bench", "kind": "laptop"}, "takenAt": "2026-11-16T08:00:00Z",
"installations": [{"tool": "node", "version": "18.20.8", "path": "/opt/node/18.20.8/bin/node", "home": "/opt/node/18.20.8", "health": "good"}]}`

// oddNames are repositories' names that mean something in addresses.
var oddNames = []string{"a#b", "c?d=e", "f%25g", "h i", "j:k", "plain", "ü&+"}

// TestASurveyOfAServiceIsAGate like the local one: the same findings with the same
// fingerprints, the same forms, the same statuses, whatever repositories are called.
func TestASurveyOfAServiceIsAGate(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir, inventory := t.TempDir(), filepath.Join(t.TempDir(), "bench.json")
	require.NoError(t, os.WriteFile(inventory, []byte(benchInventory), 0o644))
	for _, name := range oddNames {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Join(at, "web"), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(at, ".node-version"), []byte("18\n"), 0o644))
		require.NoError(t, os.WriteFile(filepath.Join(at, "web", "package.json"), []byte("{\"engines\": {\"node\": \">=20\"}}\n"), 0o644))
		git(t, at, "init", "-q", "-b", "main")
		git(t, at, "add", "-A")
		git(t, at, "commit", "-qm", "bed")
	}
	token, link, stop := serving(t, "--data", filepath.Join(t.TempDir(), "wexo.db"), "--roots", dir, "--as-of", "2026-11-16")
	defer stop()
	url, _, _ := strings.Cut(link, "/sign-in")
	t.Setenv("WEXO_SERVER", url)
	t.Setenv("WEXO_TOKEN", token)
	for _, args := range [][]string{{"repositories", "add", dir}, {"machines", "send", inventory}} {
		status, _, errs := wexo(t, args...)
		require.Equal(t, 0, status, errs)
	}
	status, text, errs := wexo(t, "survey")
	assert.Equal(t, 1, status, errs)
	status, here, errs := wexo(t, "survey", "--inventory", inventory, "--as-of", "2026-11-16", dir)
	require.Equal(t, 1, status, errs)
	assert.Equal(t, here, text, "the same text")
	status, _, _ = wexo(t, "survey", "--fail-on", "never")
	assert.Equal(t, 0, status)
	status, later, _ := wexo(t, "survey", "--as-of", "2024-01-01", "--fail-on", "never")
	assert.Equal(t, 0, status)
	assert.Contains(t, later, "as of 1 Jan 2024")

	_, mine, _ := wexo(t, "survey", "--inventory", inventory, "--as-of", "2026-11-16", "--output", "json", dir)
	_, its, _ := wexo(t, "survey", "--output", "json")
	assert.Equal(t, prints(t, mine), prints(t, its), "the same fingerprints")
	_, alone, _ := wexo(t, "survey", "--inventory", inventory, "--as-of", "2026-11-16", "--output", "json", filepath.Join(dir, "a#b"))
	assert.Subset(t, prints(t, mine), prints(t, alone), "whichever others are surveyed beside it")

	for _, refused := range [][]string{{"--inventory", inventory}, {"--ref", "HEAD"}, {"--worktree"}, {"--fresh"}, {"--verbose"}} {
		status, _, errs := wexo(t, append([]string{"survey"}, refused...)...)
		assert.Equal(t, 2, status)
		assert.Contains(t, errs, refused[0]+" goes with a survey of this machine")
	}
	for _, name := range oddNames {
		if strings.Contains(name, ":") {
			continue // names a folder on the command line
		}
		status, out, errs := wexo(t, "trace", name+":web", "node", "--server", url)
		require.Equal(t, 0, status, "%s: %s", name, errs)
		assert.Contains(t, out, "Node.js in "+name+"/web")
		assert.Contains(t, out, "What runs on bench")
	}
	status, _, errs = wexo(t, append([]string{"repositories", "remove"}, oddNames...)...)
	assert.Equal(t, 0, status, errs)
}

// prints are the findings of a report, by fingerprint.
func prints(t *testing.T, text string) []string {
	t.Helper()
	d, err := report.ReadDocument(strings.NewReader(text))
	require.NoError(t, err)
	var out []string
	for _, f := range d.Findings {
		out = append(out, f.Fingerprint+" "+f.Repository+" "+f.Class)
	}
	require.NotEmpty(t, out)
	slices.Sort(out)
	return out
}

// TestAnInterruptedSurveyIsNoSuccess, also where the service goes on with it.
func TestAnInterruptedSurveyIsNoSuccess(t *testing.T) {
	watched := make(chan struct{})
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			w.Header().Set("Content-Type", "application/json")
			w.WriteHeader(http.StatusAccepted)
			_ = json.NewEncoder(w).Encode(map[string]any{"id": 1, "state": "running", "asOf": "2026-11-16", "startedAt": "", "finishedAt": "", "total": 9, "done": 0, "message": ""})
			return
		}
		w.WriteHeader(http.StatusOK)
		w.(http.Flusher).Flush()
		close(watched)
		<-r.Context().Done()
	}))
	defer server.Close()
	done := make(chan int, 1)
	go func() {
		done <- cli.Run([]string{"survey", "--server", server.URL, "--token", "x", "--fail-on", "never"}, cli.Streams{In: strings.NewReader(""), Out: io.Discard, Err: io.Discard})
	}()
	<-watched
	require.NoError(t, syscall.Kill(os.Getpid(), syscall.SIGINT))
	assert.Equal(t, 3, <-done)
}

// TestConfigurationHoldsForEveryCommand: flag over variable over file, with the file's line
// where it is wrong.
func TestConfigurationHoldsForEveryCommand(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir, inventory, config := lay(t, map[string]string{".node-version": "18\n", "web/package.json": "{}"}), filepath.Join(t.TempDir(), "bench.json"), filepath.Join(t.TempDir(), "wexo.yaml")
	require.NoError(t, os.WriteFile(inventory, []byte(benchInventory), 0o644))
	write := func(text string) { require.NoError(t, os.WriteFile(config, []byte(text), 0o644)) }
	write("as-of: 2024-03-01\nhorizon: 10\n")
	survey := func(args ...string) string {
		_, out, errs := wexo(t, append([]string{"survey", "--config", config, "--inventory", inventory, dir}, args...)...)
		return out + errs
	}
	assert.Contains(t, survey(), "as of 1 Mar 2024")
	assert.Contains(t, survey(), "Everything asked for is there and supported.", "the horizon is ten days")
	_, out, _ := wexo(t, "lines", "node", "--config", config)
	assert.Regexp(t, `node +18 .* long-term|node +18 .*maintenance`, out)
	_, out, errs := wexo(t, "trace", "--config", config, "--inventory", inventory, dir, "node")
	assert.NotContains(t, out+errs, "end of life")
	t.Setenv("WEXO_AS_OF", "2026-11-16")
	assert.Contains(t, survey(), "as of 16 Nov 2026")
	_, out, _ = wexo(t, "lines", "node", "--config", config)
	assert.Regexp(t, `node +18 .* ended`, out)
	assert.Contains(t, survey("--as-of", "2025-01-01"), "as of 1 Jan 2025")
	write("# beds\nas-of: soon\nroots: {}\nseverities: {pin-missing: awful, nonsense: note}\n")
	said := survey()
	assert.Contains(t, said, config+":2: as-of should be a date such as 2026-11-16")
	assert.Contains(t, said, config+":3: roots should be a list of texts")
	assert.Contains(t, said, config+":4: the severity of pin-missing should be error, warning or note")
	assert.Contains(t, said, config+`:4: severities should name classes of findings, and "nonsense" is none`)
	write("severities: {end-of-life: note}\nrepositories: {other: {severities: {end-of-life: error}}}\n")
	status, _, _ := wexo(t, "survey", "--config", config, "--inventory", inventory, dir)
	assert.Equal(t, 0, status, "what the user calls a note does not fail")

	status, _, errs = wexo(t, "trace", "--inventory", inventory, dir+":no/such", "node")
	assert.Equal(t, 3, status)
	assert.Contains(t, errs, "has no folder no/such")
	data := filepath.Join(t.TempDir(), "beds.db")
	write("data: " + data + "\n")
	status, _, errs = wexo(t, "tokens", "recover", "--config", config)
	assert.Equal(t, 2, status)
	assert.Contains(t, errs, data, "the service's file is the configured one")
}
