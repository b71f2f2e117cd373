package cli_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/report"
)

// benchOn is what the bench has on a day of November 2026.
func benchOn(day int, installations ...string) string {
	var list []string
	for _, text := range installations {
		tool, rest, _ := strings.Cut(text, " ")
		version, health, _ := strings.Cut(rest, " ")
		home := "/opt/" + tool + "/" + version
		list = append(list, fmt.Sprintf(`{"tool": %q, "version": %q, "path": "%s/bin/%s", "home": %q, "origin": "versioned-root", "health": %q, "sizeBytes": 1000000}`, tool, version, home, tool, home, health))
	}
	return fmt.Sprintf(`{"format": "wexo.inventory/1", "machine": {"name": "bench", "os": "linux", "arch": "amd64", "kind": "build-agent"}, "takenAt": "2026-11-%02dT08:00:00Z", "installations": [%s]}`, day, strings.Join(list, ", "))
}

// TestMachinesOfAService: what is sent is listed, compared with what was sent before, and
// asked for what it needs; another machine's name and older inventories are refused.
func TestMachinesOfAService(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := t.TempDir()
	at := filepath.Join(dir, "kiosk")
	require.NoError(t, os.MkdirAll(at, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(at, ".node-version"), []byte("24.11.1\n"), 0o644))
	git(t, at, "init", "-q", "-b", "main")
	git(t, at, "add", "-A")
	git(t, at, "commit", "-qm", "bed")
	owner, link, stop := serving(t, "--data", filepath.Join(t.TempDir(), "wexo.db"), "--roots", dir, "--as-of", "2026-11-16")
	defer stop()
	url, _, _ := strings.Cut(link, "/sign-in")
	t.Setenv("WEXO_SERVER", url)
	t.Setenv("WEXO_TOKEN", owner)
	sent := func(token, text string) (int, string) {
		status, _, errs := wexoReading(t, text, "machines", "send", "--token", token, "-")
		return status, errs
	}
	status, _, errs := wexo(t, "repositories", "add", dir)
	require.Equal(t, 0, status, errs)
	status, out, errs := wexo(t, "tokens", "add", "bench", "--role", "collector", "--machine", "bench")
	require.Equal(t, 0, status, errs)
	token := out[strings.Index(out, "wexo_"):]
	token, _, _ = strings.Cut(strings.TrimSpace(token), " ")

	status, errs = sent(token, benchOn(10, "node 22.11.0 good", "go 1.26.1 good"))
	assert.Equal(t, 0, status, errs)
	assert.Equal(t, "bench: 2 installations sent.\n", errs)
	file := filepath.Join(t.TempDir(), "bench.json")
	require.NoError(t, os.WriteFile(file, []byte(benchOn(12, "node 22.11.0 broken", "java 21.0.5 good")), 0o600))
	status, _, errs = wexo(t, "machines", "send", "--token", token, file)
	assert.Equal(t, 0, status, errs)

	status, errs = sent(token, benchOn(11))
	assert.NotEqual(t, 0, status)
	assert.Contains(t, errs, "A newer inventory of bench is held, taken at 2026-11-12T08:00:00Z")
	status, errs = sent(token, strings.Replace(benchOn(14), `"bench"`, `"other"`, 1))
	assert.NotEqual(t, 0, status)
	assert.Contains(t, errs, "bench")
	status, errs = sent(token, benchOn(14)[:100])
	assert.Equal(t, 2, status)
	assert.Contains(t, errs, "standard input: ")

	_, out, _ = wexo(t, "needs", "--server", url, "bench")
	assert.Equal(t, "It is not known what bench needs.\n  No repository that was read is built by it or lies on it.\n", out, "before a survey nothing is called needless")
	status, _, errs = wexo(t, "survey", "--fail-on", "never")
	require.Equal(t, 0, status, errs)

	status, out, _ = wexo(t, "machines", "list")
	assert.Equal(t, 0, status)
	assert.Regexp(t, `bench +build-agent +linux/amd64 +— +0 of 1 +2, 1 broken +2026-11-12 08:00`, out)
	status, out, _ = wexo(t, "machines", "changes", "bench")
	assert.Equal(t, 0, status)
	assert.Equal(t, `bench, from 2026-11-10 08:00 to 2026-11-12 08:00
  + Java 21.0.5 at /opt/java/21.0.5/bin/java
  - Go 1.26.1 at /opt/go/1.26.1/bin/go
  ~ Node.js health of /opt/node/22.11.0/bin/node: broken, was good
`, out)
	_, out, _ = wexo(t, "machines", "changes", "bench", "--since", "2026-11-13")
	assert.Equal(t, "bench, from 2026-11-12 08:00 to 2026-11-12 08:00\n  nothing has changed\n", out)
	_, out, _ = wexo(t, "machines", "changes", "bench", "--since", "2026-11-09")
	assert.Equal(t, "bench: nothing older is kept to compare with.\n", out)

	status, out, errs = wexo(t, "needs", "--server", url, "bench")
	assert.Equal(t, 0, status, errs)
	assert.Contains(t, out, "bench needs 1 toolchain\n  + Node.js 24.11.1")
	_, out, _ = wexo(t, "needs", "--server", url, "bench", "kiosk", "--output", "json")
	var n report.Needs
	require.NoError(t, json.Unmarshal([]byte(out), &n))
	assert.Equal(t, "24.11.1", n.Install[0].Version)
	_, out, _ = wexo(t, "needs", "--server", url, "bench", "--output", "list")
	assert.Equal(t, "node\t24.11.1\t-\t-\n", out)

	status, _, errs = wexo(t, "machines", "remove", "bench")
	assert.Equal(t, 0, status)
	assert.Equal(t, "bench is forgotten.\n", errs)
	status, _, errs = wexo(t, "machines", "changes", "bench")
	assert.NotEqual(t, 0, status)
	assert.Contains(t, errs, "bench")
}
