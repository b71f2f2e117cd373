package cli_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/report"
)

func TestRulesOfTheEstate(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{"ops/node.txt": "22\n", "package.json": "{}", "legacy/.node-version": "8\n"})
	config := filepath.Join(t.TempDir(), "wexo.yaml")
	require.NoError(t, os.WriteFile(config, []byte("listen: 127.0.0.1:1\nclaims:\n  - {files: [ops/node.txt], tool: node}\nleave-out: [legacy]\n"), 0o644))
	status, out, errors := wexo(t, "survey", "--config", config, "--output", "json", "--fail-on", "never", dir)
	require.Equal(t, 0, status, errors)
	r, err := report.ReadDocument(strings.NewReader(out))
	require.NoError(t, err)
	require.Len(t, r.Repositories[0].Folders, 2)
	got := r.Repositories[0].Folders[1]
	assert.Equal(t, "ops", got.Path)
	assert.Equal(t, "rule", got.Tools[0].Claims[0].Recognised)
	assert.Equal(t, "22", got.Tools[0].Claims[0].Raw)

	require.NoError(t, os.WriteFile(config, []byte("claims:\n  - files: [ops/node.txt]\n    tool: gardener\nlisten: x\nwater: daily\n"), 0o644))
	status, _, errors = wexo(t, "survey", "--config", config, dir)
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, config+":3: unknown tool \"gardener\"; known are")
	assert.Contains(t, errors, config+":5: unknown key \"water\" in the file; known are")
	status, _, errors = wexo(t, "survey", "--config", filepath.Join(dir, "none.yaml"), dir)
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, "none.yaml")
}

func TestVerboseTellsWhatWasNotRead(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{".node-version": "22\n", "node_modules/fern/package.json": "{}", "web/.venv/pyvenv.cfg": "version = 3.12.1\n"})
	_, _, errors := wexo(t, "survey", "--verbose", "--fail-on", "never", dir)
	assert.Contains(t, errors, "not read: node_modules/ (installed dependencies)")
	assert.Contains(t, errors, "not read: web/.venv/ (a virtual environment)")
	assert.Contains(t, errors, "Unchanged since it was read before: 0 of 1 repository. Read elsewhere: 1 file.")
	_, _, quiet := wexo(t, "survey", "--fail-on", "never", dir)
	assert.NotContains(t, quiet, "not read")
}

// TestVerboseTellsWhatWasNotUnderstood: with the place and the reason, and the JSON lists the same.
func TestVerboseTellsWhatWasNotUnderstood(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{".node-version": "22\n", "Dockerfile": "FROM debian:12\nENV PYTHON_VERSION=next\n"})
	_, _, errors := wexo(t, "survey", "--verbose", "--fail-on", "never", dir)
	assert.Contains(t, errors, "no claim: Dockerfile:2:20 next (no version of Python)")
	_, out, quiet := wexo(t, "survey", "--output", "json", "--fail-on", "never", dir)
	assert.NotContains(t, quiet, "no claim")
	var r report.Document
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	assert.Equal(t, []claim.Mention{{Tool: "python", Raw: "next", File: "Dockerfile", Line: 2, Column: 20, Reason: "no version of Python"}}, r.Repositories[0].Mentions)
}

func TestUnclaimedFilesEndWithConfiguration(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{".pinned": "9.9.9\n"})
	_, out, _ := wexo(t, "survey", "--fail-on", "never", dir)
	assert.Contains(t, out, "stays as its own reader wants it:\n        claims:\n          - files: [.pinned]\n            tool: TOOL # the tool's name\n")
	_, out, _ = wexo(t, "survey", "--fresh", "--output", "json", "--fail-on", "never", dir)
	r, err := report.ReadDocument(strings.NewReader(out))
	require.NoError(t, err)
	require.Len(t, r.Findings, 1)
	assert.Contains(t, r.Findings[0].Configuration, "files: [.pinned]")
}

// TestTheSchemaKnowsTheConfiguration: the published schema names the keys that wexo.yaml
// may hold, and the classes of findings that may be weighed.
func TestTheSchemaKnowsTheConfiguration(t *testing.T) {
	data, err := os.ReadFile("../../docs/schemas/wexo.schema.json")
	require.NoError(t, err)
	var schema struct {
		Properties map[string]struct {
			PropertyNames struct{ Enum []string }
		}
	}
	require.NoError(t, json.Unmarshal(data, &schema))
	config := filepath.Join(t.TempDir(), "wexo.yaml")
	require.NoError(t, os.WriteFile(config, []byte("beds: 3\n"), 0o644))
	status, _, said := wexo(t, "survey", "--config", config, t.TempDir())
	assert.Equal(t, 2, status)
	assert.Contains(t, said, config+`:1: unknown key "beds" in the file; known are`)
	for key := range schema.Properties { // each is taken, or told what it should be
		require.NoError(t, os.WriteFile(config, []byte(key+": {a: {b: [c]}}\n"), 0o644))
		_, _, said := wexo(t, "survey", "--config", config, t.TempDir())
		assert.NotContains(t, said, "unknown key \""+key+"\" in the file", key)
	}
	var classes []string
	for _, c := range assess.Classes() {
		classes = append(classes, c.Name)
	}
	assert.ElementsMatch(t, classes, schema.Properties["severities"].PropertyNames.Enum)
}
