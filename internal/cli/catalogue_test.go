package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// dibber is a tool that nobody knows without its file.
const dibber = `tool: dibber
title: Dibber
scheme: semver
dialect: plain
installation:
  executables: [dibber]
  version:
    - {file: VERSION, pattern: '^(\d+\.\d+\.\d+)$'}
claims:
  - {files: [dibber.json], format: json, select: [$.dibber.version], role: pin}
`

// TestCatalogueCheck: mistakes in catalogue folders of the user's, each with its line; and
// what is right is used.
func TestCatalogueCheck(t *testing.T) {
	dir := lay(t, map[string]string{
		"good/tools/dibber.yaml": dibber, "good/rules/a.yaml": "- {name: a, when: {dibber: \">=2\"}, need: {node: \">=24\"}, because: it says so}\n",
		"bad/tools/dibber.yaml": strings.Replace(dibber, "$.dibber", "dibber", 1) + "names:\n  - go\n", "bad/tools/spade.yml": "", "bad/notes.yaml": "",
		"bad/rules/a.yaml":         "- {name: a, when: {dibbr: \">=2\"}, need: {node: \">=24\"}, because: it says so}\n",
		"bad/baselines/kiosk.yaml": "baseline: kiosk\ndemands: {nod: \"22\"}\n",
		"empty/readme.txt":         "",
	})
	at := func(name string) string { return filepath.Join(dir, name) }
	status, out, errors := wexo(t, "catalogue", "check", at("good"))
	assert.Equal(t, 0, status, errors)
	assert.Equal(t, at("good")+": nothing is wrong with its 1 tool and 1 file of rules\n", out)

	status, out, errors = wexo(t, "catalogue", "check", at("bad"))
	assert.Equal(t, 2, status)
	assert.Empty(t, out)
	assert.Contains(t, errors, at("bad/tools/dibber.yaml")+`:12: the name "go" already belongs to Go (tools/go.yaml)`)
	assert.Contains(t, errors, at("bad/tools/spade.yml")+": files end in .yaml here; this one is not read")
	assert.Contains(t, errors, at("bad/notes.yaml")+": it lies outside tools/, rules/ and baselines/ and is not read")

	require.NoError(t, os.WriteFile(at("bad/tools/dibber.yaml"), []byte(strings.Replace(dibber, "$.dibber", "dibber", 1)), 0o644))
	status, _, errors = wexo(t, "catalogue", "check", at("bad"))
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, at("bad/tools/dibber.yaml")+`:10: the selector "dibber.version" is none: it does not begin with $; did you mean "$.dibber.version"?`)
	assert.Contains(t, errors, at("bad/rules/a.yaml")+`:1: "dibbr" is no tool or component that the catalogue knows; did you mean "dibber"?`)
	assert.Contains(t, errors, at("bad/baselines/kiosk.yaml")+`:2: "nod" is no tool or component that the catalogue knows; did you mean "node"?`)
	assert.Contains(t, errors, "5 mistakes in "+at("bad"))
	assert.NotContains(t, errors, "jsonpath")

	_, _, errors = wexo(t, "catalogue", "check", at("empty"))
	assert.Contains(t, errors, at("empty")+": it holds no tools/*.yaml, rules/*.yaml or baselines/*.yaml")
	status, _, errors = wexo(t, "catalogue", "check", at("gone"))
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, "there is no folder "+at("gone"))
}

// TestAToolOfTheUsers: its file alone makes a tool known to every command; a shipped file can
// be printed, changed and put in the place of the shipped one.
func TestAToolOfTheUsers(t *testing.T) {
	dir := lay(t, map[string]string{"trust/tools/dibber.yaml": dibber, "work/bed/dibber.json": `{"dibber": {"version": "2.1.0"}}`, "bench.json": benchInventory})
	trust := filepath.Join(dir, "trust")
	status, out, errors := wexo(t, "survey", "--catalogue", trust, "--fail-on", "never", "--inventory", filepath.Join(dir, "bench.json"), "--fresh", filepath.Join(dir, "work"))
	assert.Equal(t, 0, status, errors)
	assert.Contains(t, out, "Dibber 2.1.0")
	status, out, errors = wexo(t, "catalogue", "show", "elixir")
	assert.Equal(t, 0, status, errors)
	require.NoError(t, os.WriteFile(filepath.Join(trust, "tools", "elixir.yaml"), []byte(strings.Replace(out, "title: Elixir", "title: Our Elixir", 1)), 0o644))
	status, out, errors = wexo(t, "catalogue", "check", trust)
	assert.Equal(t, 0, status, out+errors)
	_, out, _ = wexo(t, "catalogue", "show", "--catalogue", trust, "elixir")
	assert.Contains(t, out, "title: Our Elixir")
	status, _, errors = wexo(t, "catalogue", "show", "dibber")
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, `unknown tool "dibber"; known are`)
	assert.Contains(t, errors, "a file in a catalogue folder adds one (wexo catalogue --help)")
}
