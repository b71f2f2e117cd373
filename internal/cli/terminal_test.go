package cli_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// evil is a name that tries everything: a colour, a title, a line of its own, text turned
// around, an eight-bit control character.
const evil = "fern\x1b[31m\x1b]0;owned\a\r\nerror: all is well\u202eslaw lla\u009b2J\x7f"

// unsteered asserts that an output holds nothing that steers a terminal, and no line that
// a name made.
func unsteered(t *testing.T, what, out string) {
	t.Helper()
	for _, r := range out {
		if r != '\n' && r != '\t' && (unicode.IsControl(r) || unicode.Is(unicode.Bidi_Control, r)) {
			t.Errorf("%s: %q in %.300q", what, r, out)
			return
		}
	}
	for line := range strings.Lines(out) {
		assert.False(t, strings.HasPrefix(line, "error: all is well"), "%s: a name made a line of its own: %s", what, out)
	}
}

// TestNoNameSteersTheTerminal runs every command on an estate whose every name is evil.
func TestNoNameSteersTheTerminal(t *testing.T) {
	dir := t.TempDir()
	place := filepath.Join(dir, evil)
	for name, content := range map[string]string{
		evil + "/.node-version": "22\n", evil + "/" + evil + "/package.json": `{"engines": {"node": ">=99"}}`, evil + "/.fern-version": "1.2.3\n",
		"." + evil + "-version": "1.2\n", ".pins": "node 22\n" + "fern\x1b[31m 1.2.3\n", ".python-version": "3.12\x1b[31m\n", ".ruby-version": "\x1b]0;x\a\n", "package.json": "{\"a\x1b[31m\": \x1b}",
		evil + "/node_modules/x": "", "broken\u202e.tf": "a = (", ".vscode/settings.json": `{"python.defaultInterpreterPath": "/opt/` + "\\u001b[31m" + `/bin/python"}`,
		".wexo.yaml": "leave-out: ['" + "\u202e" + "x']\nfern\u202e: 1\n",
	} {
		at := filepath.Join(place, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(content), 0o644))
	}
	git(t, place, "init", "-q", "-b", "main")
	git(t, place, "add", "-Af")
	git(t, place, "commit", "-qm", "bed")
	inventory := filepath.Join(dir, "bench.json")
	require.NoError(t, os.WriteFile(inventory, []byte(`{"format": "wexo.inventory/1", "machine": {"name": "bench"}, "installations": []}`), 0o644))
	bad := filepath.Join(dir, "bad.json")
	data, err := json.Marshal(map[string]any{"format": "wexo.inventory/1", "machine": map[string]string{"name": evil}, "installations": []any{}})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(bad, data, 0o644))
	evilFile := filepath.Join(dir, "inventory"+strings.ReplaceAll(evil, "/", ""))
	require.NoError(t, os.WriteFile(evilFile, []byte("{"), 0o644))
	for _, args := range [][]string{
		{"survey", place}, {"survey", "--worktree", "--verbose", place}, {"survey", "--output", "json", place}, {"survey", dir}, {"survey", "--ref", evil, place}, {"survey", filepath.Join(dir, evil, "gone"+evil)},
		{"survey", "--inventory", bad, place}, {"survey", "--inventory", evilFile, place}, {"survey", "--config", evilFile, place}, {"survey", "--as-of", evil, place}, {"survey", "--output", evil, place},
		{"trace", place, "node"}, {"trace", "--output", "json", place, "node"}, {"trace", place + ":" + evil, "node"}, {"trace", place, evil}, {"trace", place, "go"},
		{"inventory", "--root", place}, {"inventory", "--root", place, "--name", evil}, {"inventory", "--root", place, "--name", evil, "--output", "json"}, {"inventory", "--root", evil},
		{"lines", evil}, {"satisfies", evil, evil, evil}, {"satisfies", "npm", ">=1", evil}, {"satisfies", "npm", ">=1", "1.0.0", "--why"}, {"order", "semver", "1.0.0-" + evil}, {"order", evil, "1"},
		{"serve", "--listen", evil}, {"serve", "--data", filepath.Join(evil, evil, evil)}, {"serve", "--roots", evil}, {"tokens", "recover", "--data", evil}, {evil}, {"survey", "--" + evil}, {"demo", "--once", "--dir", place},
	} {
		_, out, errs := wexo(t, args...)
		unsteered(t, fmt.Sprint(args), out)
		unsteered(t, fmt.Sprint(args), errs)
		assert.NotEmpty(t, out+errs, args)
	}
	_, out, _ := wexoReading(t, fmt.Sprintf("{\"dialect\": %q, \"range\": \"x\", \"version\": \"1\"}\n{\"dialect\": \"\u202e\", \"range\": \"\u009b\"}\n\x1b\n", evil), "satisfies", "--stdin")
	unsteered(t, "satisfies --stdin", out)
}

// TestNoServerSteersTheTerminal: whatever a service answers.
func TestNoServerSteersTheTerminal(t *testing.T) {
	answers := map[string]any{
		"/api/repositories": map[string]any{"repositories": []any{map[string]string{"name": evil, "path": evil, "ref": evil, "commit": evil, "readAt": evil}}},
		"/api/machines":     map[string]any{"machines": []any{map[string]any{"name": evil, "os": evil, "arch": evil, "kind": evil, "takenAt": "2026-11-16T08:00:00Z", "installations": 3}}},
		"/api/tokens":       map[string]any{"tokens": []any{map[string]any{"id": 1, "name": evil, "role": evil, "createdAt": evil, "lastUsedAt": evil, "machine": evil}}, "token": evil, "id": 2},
		"/api/sessions":     map[string]any{"sessions": []any{map[string]any{"id": 1, "name": evil, "role": evil, "createdAt": evil, "expiresAt": evil, "from": evil}}},
		"/api/findings": map[string]any{"total": 1, "findings": []any{map[string]any{"fingerprint": evil, "class": evil, "severity": evil, "repository": evil, "folder": evil, "tool": evil, "title": evil,
			"machines": []string{evil}, "message": evil, "evidence": []any{}, "remedy": evil, "configuration": evil + "\n" + evil, "waived": false, "firstSeen": evil}}},
		"/api/surveys": map[string]any{"id": 1, "state": "running", "asOf": evil, "message": evil, "startedAt": "", "finishedAt": "", "total": 1, "done": 0},
		"/api/repositories/beds": map[string]any{"name": evil, "path": evil, "ref": "", "commit": "", "readAt": "", "notice": evil, "findings": []any{}, "folders": []any{map[string]any{"path": "", "tools": []any{map[string]any{
			"tool": "node", "title": evil, "feasible": evil, "conflict": []any{}, "findings": []any{}, "claims": []any{map[string]any{"role": evil, "raw": evil, "file": evil, "range": evil, "notes": []string{evil}}},
			"resolutions": []any{map[string]any{"machine": evil, "state": "met", "decidedBy": "pin", "version": evil, "path": evil, "ladder": []any{map[string]any{"source": "pin", "says": true, "raw": evil, "where": evil, "version": evil, "path": evil, "decides": true, "note": evil}}}},
			"ruler":       map[string]any{}}}}}},
	}
	refusing := false
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, "/events") {
			w.Header().Set("Content-Type", "text/event-stream")
			data, _ := json.Marshal(map[string]any{"id": 1, "state": "failed" + evil, "message": evil})
			fmt.Fprintf(w, "event: survey\ndata: %s\n\n", data)
			return
		}
		w.Header().Set("Content-Type", "application/json")
		status := http.StatusOK
		var body any = answers[r.URL.Path]
		if r.Method == http.MethodPost {
			status = http.StatusCreated
			if r.URL.Path == "/api/surveys" {
				status = http.StatusAccepted
			}
		}
		if refusing || body == nil {
			w.Header().Set("Content-Type", "application/problem+json")
			status, body = http.StatusTeapot, map[string]any{"title": evil, "status": 418, "detail": evil, "type": evil}
		}
		w.WriteHeader(status)
		_ = json.NewEncoder(w).Encode(body)
	}))
	defer server.Close()
	t.Setenv("WEXO_SERVER", server.URL)
	t.Setenv("WEXO_TOKEN", "wexo_token")
	for range 2 {
		for _, args := range [][]string{
			{"repositories", "list"}, {"repositories", "add", "/x"}, {"repositories", "remove", evil}, {"machines", "list"}, {"machines", "remove", evil}, {"tokens", "list"}, {"tokens", "add", evil}, {"tokens", "remove", "1"},
			{"tokens", "remove", evil}, {"sessions", "list"}, {"sessions", "remove", evil}, {"findings"}, {"survey"}, {"trace", "beds", "node"},
		} {
			for _, output := range []string{"text", "json"} {
				_, out, errs := wexo(t, append(slices.Clone(args), "--output", output)...)
				unsteered(t, fmt.Sprint(args), out)
				unsteered(t, fmt.Sprint(args), errs)
			}
		}
		refusing = true
	}
}
