package cli_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// homely gives the test a home of its own.
func homely(t *testing.T) string {
	t.Helper()
	home, err := filepath.EvalSymlinks(t.TempDir())
	require.NoError(t, err)
	for name, value := range map[string]string{"HOME": home, "XDG_CONFIG_HOME": "", "XDG_CACHE_HOME": filepath.Join(home, ".cache"), "WEXO_SERVER": "", "WEXO_TOKEN": ""} {
		t.Setenv(name, value)
	}
	return home
}

func put(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for name, text := range files {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
}

func repository(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	put(t, dir, files)
	for _, args := range [][]string{{"init", "-q", "-b", "main"}, {"add", "-A"}, {"-c", "user.name=fern", "-c", "user.email=fern@trust.invalid", "commit", "-qm", "x"}} {
		out, err := exec.Command("git", append([]string{"-C", dir}, args...)...).CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
}

// TestWhichConfigurationCounts: one that is named, that of the user's own folder, and that of a
// current folder which is nobody's source and not surveyed. Others are told as not used.
func TestWhichConfigurationCounts(t *testing.T) {
	home := homely(t)
	at := func(name string) string { return filepath.Join(home, name) }
	const asOf = "as-of: 2001-02-03\n"
	repository(t, at("clone"), map[string]string{"wexo.yaml": asOf, ".node-version": "22\n", "below/x": "1"})
	put(t, home, map[string]string{
		"archive/wexo.yaml": asOf, "archive/package.json": `{"engines":{"node":">=22"}}`, "archive/below/wexo.yaml": asOf,
		"estate/wexo.yaml": asOf, "estate/notes.txt": "x", "clone/below/wexo.yaml": asOf, "others/wexo.yaml": asOf, "work/wexo.yaml": asOf,
	})
	repository(t, at("work/shop"), map[string]string{".node-version": "22\n"})
	require.NoError(t, os.Chmod(at("others/wexo.yaml"), 0o666))
	require.NoError(t, os.Symlink(at("clone"), at("linked")))
	for _, c := range []struct {
		from   string
		args   []string
		counts bool
		says   string
	}{
		{from: "estate", args: []string{"lines", "node"}, counts: true},
		{from: "estate", args: []string{"survey", "--fail-on", "never", at("clone")}, counts: true},
		{from: "work", args: []string{"survey", "--fail-on", "never", "shop"}, counts: true},
		{from: "work", args: []string{"survey", "--fail-on", "never", "."}, says: "a folder that is surveyed"},
		{from: "clone", args: []string{"survey", "--fail-on", "never", "."}, says: "a folder that is surveyed"},
		{from: "clone/below", args: []string{"survey", "--fail-on", "never", ".."}, says: "a folder that is surveyed"},
		{from: "clone/below", args: []string{"survey", "--fail-on", "never", at("work/shop")}, says: "the git repository"},
		{from: "linked", args: []string{"survey", "--fail-on", "never", "../clone"}, says: "a folder that is surveyed"},
		{from: "clone", args: []string{"lines", "node"}, says: "the git repository"},
		{from: "clone", args: []string{"trace", ".:below", "node"}, says: "a folder that is surveyed"},
		{from: "clone", args: []string{"needs"}, says: "a folder that is surveyed"},
		{from: "archive", args: []string{"lines", "node"}, says: "somebody's source"},
		{from: "archive/below", args: []string{"lines", "node"}, says: "somebody's source"},
		{from: "others", args: []string{"lines", "node"}, says: "others may write"},
		{from: "clone", args: []string{"--config", "wexo.yaml", "survey", "--fail-on", "never", "."}, counts: true},
	} {
		t.Run(c.from+" "+strings.Join(c.args, " "), func(t *testing.T) {
			t.Chdir(at(c.from))
			_, out, errs := wexo(t, c.args...)
			took := strings.Contains(out, "3 Feb 2001") || strings.Contains(out, "2014-07-31    upcoming")
			assert.Equal(t, c.counts, took, "%s\n%s", out, errs)
			if c.says != "" {
				assert.Contains(t, errs, "wexo.yaml is not used, since ")
				assert.Contains(t, errs, c.says)
				assert.Equal(t, 1, strings.Count(errs, "is not used"), "it is told once")
			}
		})
	}
	t.Run("a variable names it", func(t *testing.T) {
		t.Chdir(at("clone"))
		t.Setenv("WEXO_CONFIG", "wexo.yaml")
		_, out, _ := wexo(t, "survey", "--fail-on", "never", ".")
		assert.Contains(t, out, "3 Feb 2001")
	})
	t.Run("the user's own folder", func(t *testing.T) {
		put(t, home, map[string]string{".config/wexo/wexo.yaml": "as-of: 2002-03-04\n"})
		t.Chdir(at("clone"))
		_, out, errs := wexo(t, "survey", "--fail-on", "never", ".")
		assert.Contains(t, out, "4 Mar 2002", errs)
	})
}

// TestTheArgumentsOfACatalogue: a tool of somebody's folder is asked for its version with few
// arguments, unless a configuration that is named trusts it.
func TestTheArgumentsOfACatalogue(t *testing.T) {
	home := homely(t)
	at := func(name string) string { return filepath.Join(home, name) }
	tool := func(run string) string {
		return "tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\ninstallation:\n  executables: [env]\n  inside: [bin]\n  version:\n    - run: " + run + "\n      pattern: '(\\d+\\.\\d+)'\n"
	}
	put(t, home, map[string]string{"few/tools/d.yaml": tool("[--version]"), "many/tools/d.yaml": tool("[sh, -c, 'echo 1.2 > " + at("witness") + "; echo 1.2']"), "two/tools/d.yaml": tool("[--version, x]"),
		"trusting.yaml": "catalogue: [many]\ntrusted: true\n", "plain.yaml": "catalogue: [many]\n", "own/wexo.yaml": "catalogue: [../many]\ntrusted: true\n"})
	t.Chdir(home)
	status, _, errs := wexo(t, "--catalogue", "few", "inventory")
	assert.Equal(t, 0, status, errs)
	for _, args := range [][]string{{"--catalogue", "many", "inventory"}, {"--catalogue", "two", "inventory"}, {"--config", "plain.yaml", "inventory"}, {"catalogue", "check", "many"}} {
		status, _, errs = wexo(t, args...)
		assert.Equal(t, 2, status, args)
		assert.Contains(t, errs, "d.yaml:9: ", args)
		assert.Contains(t, errs, "unless a configuration that --config or WEXO_CONFIG names says trusted: true", args)
		assert.NoFileExists(t, at("witness"))
	}
	t.Chdir(at("own"))
	status, _, _ = wexo(t, "inventory")
	assert.Equal(t, 2, status, "one that nobody names trusts nothing")
	assert.NoFileExists(t, at("witness"))
	t.Chdir(home)
	status, out, errs := wexo(t, "--config", "trusting.yaml", "inventory")
	assert.Equal(t, 0, status, errs)
	assert.Contains(t, out, "Dibber")
	assert.FileExists(t, at("witness"))
}

// TestADataFileOfSomebodys that nobody named is not opened.
func TestADataFileOfSomebodys(t *testing.T) {
	home := homely(t)
	repository(t, filepath.Join(home, "clone"), map[string]string{"wexo.db": "x", ".node-version": "22\n"})
	t.Chdir(filepath.Join(home, "clone"))
	for _, args := range [][]string{{"serve", "--listen", "127.0.0.1:0"}, {"tokens", "recover"}} {
		status, out, errs := wexo(t, args...)
		assert.Equal(t, 2, status, args)
		assert.Empty(t, out)
		assert.Contains(t, errs, "wexo.db is not used, since it lies in the git repository")
	}
}

// TestWhatOwnRulesTakeAway is told wherever a result stands, and --strict counts it.
func TestWhatOwnRulesTakeAway(t *testing.T) {
	home := homely(t)
	put(t, home, map[string]string{"bench.json": `{"format":"wexo.inventory/1","machine":{"name":"bench","os":"linux"},"takenAt":"2026-11-16T08:00:00Z","installations":[]}`,
		"none.yaml": "repositories-decide: []\n", "some.yaml": "repositories-decide: [apart]\nrepositories: {shop: {repositories-decide: [leave-out, apart]}}\n"})
	files := map[string]string{"app/.node-version": "16.0.0\n", "app/package.json": `{"engines":{"node":">=22"}}`}
	survey := func(rules string, args ...string) (int, string, string) {
		dir := filepath.Join(home, "shop")
		require.NoError(t, os.RemoveAll(dir))
		repository(t, dir, files)
		put(t, dir, map[string]string{".wexo.yaml": rules})
		return wexo(t, append([]string{"survey", "--fresh", "--worktree", "--as-of", "2026-11-16", "--inventory", filepath.Join(home, "bench.json"), dir}, args...)...)
	}
	status, out, _ := survey("")
	require.Equal(t, 1, status, out)
	status, out, _ = survey("leave-out:\n  - '**'\n")
	assert.Equal(t, 0, status, out)
	assert.Contains(t, out, `shop .wexo.yaml:2 leave-out "**": 2 claims, 3 errors`)
	assert.Contains(t, out, "Nothing else is found to be wrong.")
	assert.NotContains(t, out, "Everything asked for")
	status, out, _ = survey("apart: [app]\n")
	assert.Equal(t, 0, status, out)
	assert.Contains(t, out, `shop .wexo.yaml:1 apart "app": 3 errors`)
	status, _, errs := survey("apart: [app]\n", "--strict", "--output", "json")
	assert.Equal(t, 1, status)
	assert.Contains(t, errs, "Repositories' own rules take away 3 errors, in 1 repository; wexo survey --strict counts them.")
	_, _, _ = survey("leave-out: ['**']\n")
	for _, args := range [][]string{{"needs", filepath.Join(home, "shop")}, {"needs", filepath.Join(home, "shop"), "--output", "markdown"}, {"reconcile", "--all", filepath.Join(home, "shop")}} {
		_, out, errs := wexo(t, append(args, "--worktree", "--inventory", filepath.Join(home, "bench.json"))...)
		assert.Contains(t, out+errs, "Repositories' own rules take away 2 claims, 3 errors", args)
		assert.NotContains(t, out, "has all that is asked for.")
		assert.NotContains(t, out, "all that is asked for is there")
	}
	for config, want := range map[string]int{"none.yaml": 1, "some.yaml": 0} {
		status, out, _ = survey("leave-out: ['**']\n", "--config", filepath.Join(home, config))
		assert.Equal(t, want, status, "%s: %s", config, out)
		assert.Equal(t, want == 1, strings.Contains(out, "leave-out is not for repositories to decide here"), out)
	}
}
