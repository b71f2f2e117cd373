package cli_test

import (
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/report"
)

// TestSurveyOfSomeFindings: what is left out is not told, counted or judged, and it is said
// that it was.
func TestSurveyOfSomeFindings(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{"bench.json": benchInventory, "work/ferns/.node-version": "20\n", "work/ferns/.python-version": "3.8\n", "work/ferns/.wexo.yaml": "tags: [glasshouse]\n",
		"work/mosses/.node-version": "20\n"})
	survey := func(args ...string) (int, report.Document, string) {
		status, out, errors := wexo(t, append([]string{"survey", "--as-of", "2026-11-16", "--output", "json", "--inventory", filepath.Join(dir, "bench.json"), filepath.Join(dir, "work")}, args...)...)
		var d report.Document
		if out != "" {
			require.NoError(t, json.Unmarshal([]byte(out), &d))
		}
		return status, d, errors
	}
	found := func(d report.Document) string {
		var out []string
		for _, f := range d.Findings {
			out = append(out, f.Repository+" "+f.Tool+" "+f.Class)
		}
		return strings.Join(out, "; ")
	}
	status, d, errors := survey()
	assert.Equal(t, 1, status)
	assert.Empty(t, errors)
	assert.Equal(t, "ferns node end-of-life; ferns node toolchain-missing; ferns python end-of-life; ferns python toolchain-missing; mosses node end-of-life; mosses node toolchain-missing;  node installation-unneeded", found(d))
	for _, c := range []struct {
		args   []string
		status int
		found  string
		says   string
	}{
		{[]string{"--class", "end-of-life"}, 1, "ferns node end-of-life; ferns python end-of-life; mosses node end-of-life", "--class end-of-life: 3 of 7 findings; the others are not told and fail no gate."},
		{[]string{"--tool", "Python3", "--class", "toolchain-missing"}, 1, "ferns python toolchain-missing", "--class toolchain-missing --tool Python3: 1 of 7"},
		{[]string{"--repository", "mosses"}, 1, "mosses node end-of-life; mosses node toolchain-missing", "--repository mosses: 2 of 2"},
		{[]string{"--tag", "glasshouse", "--tool", "node"}, 1, "ferns node end-of-life; ferns node toolchain-missing", ""},
		{[]string{"--severity", "note"}, 0, " node installation-unneeded", "--severity note: 1 of 7"},
		{[]string{"--tool", "nod"}, 2, "", `unknown tool "nod"; did you mean "node"?`},
		{[]string{"--repository", "mossses"}, 2, "", `--repository: none is called "mossses" here; did you mean "mosses"?`},
		{[]string{"--tag", "glass-house"}, 2, "", `--tag: no repository has "glass-house"; did you mean "glasshouse"?`},
		{[]string{"--class", "end-oflife"}, 2, "", `did you mean "end-of-life"?`},
	} {
		status, d, errors := survey(c.args...)
		assert.Equal(t, c.status, status, "%v", c.args)
		assert.Equal(t, c.found, found(d), "%v", c.args)
		assert.Contains(t, errors, c.says, "%v", c.args)
		assert.Equal(t, len(d.Findings), d.Summary.Count(), "%v", c.args)
	}
}

// TestRulesOfTheEstateThatChangeNothing are findings of every report of the estate, where no
// repository had a use for them; of one repository they are told with --verbose.
func TestRulesOfTheEstateThatChangeNothing(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{"bench.json": benchInventory, "work/ferns/ops/node.txt": "18\n", "work/ferns/go.mod": "module ferns\n", "work/mosses/.node-version": "18\n",
		"wexo.yaml": "claims:\n  - {files: [ops/node.txt], tool: node}\n  - {files: [ops/nod.txt], tool: node}\nleave-out:\n  - never\nrepositories:\n  moss*:\n    leave-out: [old]\n"})
	for _, fresh := range []string{"--fresh=true", "--fresh=false", "--fresh=false"} { // what is remembered says the same
		args := []string{"survey", fresh, "--config", filepath.Join(dir, "wexo.yaml"), "--inventory", filepath.Join(dir, "bench.json")}
		_, out, _ := wexo(t, append(args, "--output", "json", filepath.Join(dir, "work"))...)
		d, err := report.ReadDocument(strings.NewReader(out))
		require.NoError(t, err)
		var idle []int
		for _, f := range d.Findings {
			if f.Class == "rule-idle" {
				idle = append(idle, f.Evidence[0].Line)
				assert.Equal(t, "wexo.yaml", f.Evidence[0].File)
			}
		}
		assert.ElementsMatch(t, []int{3, 5, 8}, idle)
		_, out, errors := wexo(t, append(args, "--verbose", filepath.Join(dir, "work/ferns"))...)
		assert.Equal(t, 3, strings.Count(errors, ": this rule changes nothing in any of the repositories"), errors)
		assert.NotContains(t, out, "rule idle")
	}
}
