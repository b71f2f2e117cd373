package cli_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/report"
)

// seen are the arguments that look at the demo from its machines.
func seen(t *testing.T, dir string) []string {
	t.Helper()
	out := []string{"--config", filepath.Join(dir, "wexo.yaml"), "--as-of", "2026-11-16"}
	inventories, err := filepath.Glob(filepath.Join(dir, "inventories", "*.json"))
	require.NoError(t, err)
	for _, file := range inventories {
		out = append(out, "--inventory", file)
	}
	return out
}

func TestReconcile(t *testing.T) {
	dir := estate(t)
	at := func(name string) string { return filepath.Join(dir, "repositories", name) }
	reconcile := func(args ...string) (int, string, string) {
		return wexo(t, append(append([]string{"reconcile"}, seen(t, dir)...), args...)...)
	}
	status, out, errors := reconcile(at("meadow-app"))
	assert.Equal(t, 1, status, errors)
	for _, says := range []string{"All tools of meadow-app together", "These 3 cannot hold together; leave out any one, and the others can",
		"build.gradle.kts:2 names Android plug-in 8.3.2", "Android plug-in 8.3 needs Gradle >=8.4", "gradle/wrapper/gradle-wrapper.properties:1 asks for Gradle 8.2",
		"change gradle/wrapper/gradle-wrapper.properties:1, which says 8.2"} {
		assert.Contains(t, out, says)
	}
	status, out, _ = reconcile(at("seed-clock"))
	assert.Equal(t, 0, status)
	assert.Contains(t, out, "All that is said here can hold together.")

	status, out, _ = reconcile("--output", "json", at("garden-guide"))
	assert.Equal(t, 1, status)
	var answer report.Reconciled
	require.NoError(t, json.Unmarshal([]byte(out), &answer))
	assert.Equal(t, report.ReconcileFormat, answer.Format)
	assert.False(t, answer.Feasible)
	assert.True(t, answer.Decided)
	assert.True(t, answer.Smallest)
	require.Len(t, answer.Conflict, 3)
	assert.Equal(t, "rule", answer.Conflict[1].Kind, "the rule stands between what it ties together")
	assert.Equal(t, "flutter-dart", answer.Conflict[1].Rule)
	assert.Equal(t, "recalled, 2026-11-24", answer.Conflict[1].Source)
	require.Len(t, answer.Assignment, 1, "what comes with another tool is not chosen")
	assert.Equal(t, "3.22.0", answer.Assignment[0].Write)
	assert.Equal(t, []report.Change{{File: ".toolchain", Line: 1, Column: 9, Raw: "3.19.6", To: "3.22.0"}}, answer.Assignment[0].Changes)

	status, out, _ = reconcile("--all", "--output", "json", filepath.Join(dir, "repositories"))
	assert.Equal(t, 1, status)
	var all report.Settling
	require.NoError(t, json.Unmarshal([]byte(out), &all))
	assert.Equal(t, 33, all.Repositories)
	assert.Equal(t, all.Folders, all.Holding+all.Apart+all.Undecided)
	assert.NotEmpty(t, all.Moves)
	status, out, _ = reconcile("--all", filepath.Join(dir, "repositories"))
	assert.Equal(t, 1, status)
	assert.Contains(t, out, "Gradle 8.2 → 8.5")

	for _, wrong := range []struct {
		args   []string
		status int
		says   string
	}{
		{[]string{at("meadow-app"), at("moss-index")}, 2, "name one repository, or give --all"},
		{[]string{"--output", "csv", at("meadow-app")}, 2, "--output should be text or json"},
		{[]string{at("meadow-app") + ":nowhere"}, 3, "has no folder nowhere"},
		{[]string{filepath.Join(dir, "nothing")}, 3, "nothing"},
	} {
		status, _, errors := reconcile(wrong.args...)
		assert.Equal(t, wrong.status, status, wrong.args)
		assert.Contains(t, errors, wrong.says)
	}
}

// TestWhatReconcileAdvisesHolds: with the changes made that it advises, all can hold.
func TestWhatReconcileAdvisesHolds(t *testing.T) {
	dir := estate(t)
	for _, name := range []string{"meadow-app", "garden-guide", "herbarium-web", "kiosk-menu", "seed-ledger", "irrigation-core", "rain-gauge"} {
		at := filepath.Join(dir, "repositories", name)
		args := append(append([]string{"reconcile", "--worktree", "--fresh", "--output", "json"}, seen(t, dir)...), at)
		status, out, errors := wexo(t, args...)
		require.Equal(t, 1, status, name+errors)
		var answer report.Reconciled
		require.NoError(t, json.Unmarshal([]byte(out), &answer))
		changes := 0
		for _, a := range answer.Assignment {
			for _, c := range a.Changes {
				file := filepath.Join(at, c.File)
				data, err := os.ReadFile(file)
				require.NoError(t, err)
				lines := strings.Split(string(data), "\n")
				line := lines[c.Line-1]
				require.Equal(t, c.Raw, line[c.Column-1:c.Column-1+len(c.Raw)], name)
				lines[c.Line-1] = line[:c.Column-1] + c.To + line[c.Column-1+len(c.Raw):]
				require.NoError(t, os.WriteFile(file, []byte(strings.Join(lines, "\n")), 0o644))
				changes++
			}
		}
		require.Positive(t, changes, name)
		status, out, _ = wexo(t, args...)
		assert.Equal(t, 0, status, name+out)
	}
}

// TestCatalogueFolders: a folder of the user's adds tools, rules and baselines, for the
// processes that read too, and mistakes in it are told with file and line.
func TestCatalogueFolders(t *testing.T) {
	dir := lay(t, map[string]string{
		"wexo.yaml":                   "catalogue: [trust]\nrules:\n  - {name: own, when: {dibber: '>=2'}, need: {node: '>=24'}, because: it says so}\n",
		"trust/tools/dibber.yaml":     "tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\nclaims:\n  - {files: [dibber.json], format: json, select: [$.version], role: pin, dialect: plain}\n",
		"trust/baselines/bench.yaml":  "baseline: bench\ndemands: {dibber: '3'}\n",
		"work/bed/dibber.json":        `{"version": "2.1.0"}`,
		"work/bed/.node-version":      "22.11.0\n",
		"work/bed/.wexo.yaml":         "baselines: [bench]\n",
		"broken/rules/a.yaml":         "- {name: a, when: {nodee: '22'}, need: {npm: '11'}, because: x}\n",
		"bad/wexo.yaml":               "catalogue: [../broken]\n",
		"unknown/wexo.yaml":           "tags: [x]\nbaselines: [nowhere]\n",
		"work/bed/.git-is-not-needed": "",
	})
	survey := func(config string, more ...string) (int, string, string) {
		return wexo(t, append([]string{"survey", "--fresh", "--config", filepath.Join(dir, config), "--as-of", "2026-11-16", "--output", "json", filepath.Join(dir, "work", "bed")}, more...)...)
	}
	status, out, errors := survey("wexo.yaml")
	assert.Equal(t, 1, status, errors)
	assert.Contains(t, out, "Dibber \u003e=2.0.0 needs Node.js \u003e=24.0.0 (it says so)")
	assert.Contains(t, out, "demands Dibber 3, but dibber.json:1 asks for Dibber 2.1.0")
	status, _, errors = survey("bad/wexo.yaml")
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, `rules/a.yaml:1: "nodee" is no tool or component`)
	status, _, errors = survey("unknown/wexo.yaml")
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, "wexo.yaml:2: no baseline is called \"nowhere\"; none is known")
	status, out, errors = survey("no-such.yaml", "--catalogue", filepath.Join(dir, "trust"))
	assert.Equal(t, 2, status, out+errors)
	status, out, errors = wexo(t, "survey", "--fresh", "--catalogue", filepath.Join(dir, "trust"), "--as-of", "2026-11-16", filepath.Join(dir, "work", "bed"))
	assert.Equal(t, 1, status, errors)
	assert.Contains(t, out, "Dibber")
	status, _, errors = wexo(t, "lines", "--catalogue", filepath.Join(dir, "nowhere"))
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, "there is no folder")
}

// TestTogetherOverTheService: the service gives the same joint answer.
func TestTogetherOverTheService(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := estate(t)
	token, link, stop := serving(t, "--config", filepath.Join(dir, "wexo.yaml"), "--data", filepath.Join(t.TempDir(), "wexo.db"), "--roots", dir, "--as-of", "2026-11-16")
	defer stop()
	url, _, _ := strings.Cut(link, "/sign-in")
	ask := func(args ...string) (int, string, string) {
		return wexo(t, append(args, "--server", url, "--token", token)...)
	}
	inventories, err := filepath.Glob(filepath.Join(dir, "inventories", "*.json"))
	require.NoError(t, err)
	for _, args := range [][]string{{"repositories", "add", filepath.Join(dir, "repositories")}, append([]string{"machines", "send"}, inventories...)} {
		status, _, errors := ask(args...)
		require.Equal(t, 0, status, errors)
	}
	_, _, errors := ask("survey")
	require.Contains(t, errors, "33 of 33")
	for _, name := range []string{"meadow-app", "kiosk-menu", "seed-clock"} {
		wanted, out, _ := wexo(t, append(append([]string{"reconcile", "--output", "json"}, seen(t, dir)...), filepath.Join(dir, "repositories", name))...)
		status, got, errors := ask("reconcile", "--output", "json", name)
		assert.Equal(t, wanted, status, errors)
		var remote, here report.Reconciled
		require.NoError(t, json.Unmarshal([]byte(got), &remote))
		require.NoError(t, json.Unmarshal([]byte(out), &here))
		assert.Equal(t, here, remote)
	}
	status, _, errors := ask("reconcile", "nobody")
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "No repository is called nobody")
}

func TestRules(t *testing.T) {
	for _, q := range []struct {
		args []string
		says string
	}{
		{[]string{"rules"}, "vite-node"},
		{[]string{"rules", "elixir"}, "Elixir 1.17 needs Erlang/OTP >=25 <28 (that is what the line was made for)  [recalled, 2026-11-24]"},
		{[]string{"rules", "java", "21"}, "Java 21 goes with Gradle >=8.5  [gradle-java]"},
		{[]string{"rules", "gradle", "8.4"}, "Gradle 8.4 goes with Java <21  [gradle-java]"},
		{[]string{"rules", "dart", "9.0"}, "Dart 9.0 goes with"},
	} {
		status, out, errors := wexo(t, q.args...)
		assert.Equal(t, 0, status, errors)
		assert.Contains(t, out, q.says)
	}
	for _, wrong := range [][]string{{"rules", "gardener"}, {"rules", "java", ">>1"}, {"rules", "cmake-policy", "1"}, {"rules", "a", "b", "c"}} {
		status, _, errors := wexo(t, wrong...)
		assert.Equal(t, 2, status, wrong)
		assert.NotEmpty(t, errors)
	}
}
