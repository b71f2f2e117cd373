package cli_test

import (
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
)

func git(t *testing.T, dir string, args ...string) {
	t.Helper()
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=t", "-c", "user.email=t@trust.invalid"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
}

// TestAGateThatCannotLie: what could not be read is no success, however it came about.
func TestAGateThatCannotLie(t *testing.T) {
	dir := t.TempDir()
	inventory := filepath.Join(t.TempDir(), "bench.json")
	require.NoError(t, os.WriteFile(inventory, []byte(`{"format": "wexo.inventory/1", "machine": {"name": "bench"}, "installations": []}`), 0o644))
	made := func(name string, spoil func(git string)) string {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(at, 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(at, "readme.txt"), []byte("ferns\n"), 0o644))
		git(t, at, "init", "-q", "-b", "main")
		git(t, at, "add", "-A")
		git(t, at, "commit", "-qm", "bed")
		spoil(filepath.Join(at, ".git"))
		return at
	}
	survey := func(args ...string) (int, string) {
		status, out, errs := wexo(t, append([]string{"survey", "--inventory", inventory, "--fail-on", "never"}, args...)...)
		return status, out + errs
	}
	good := made("good", func(string) {})
	status, out := survey(good)
	assert.Equal(t, 0, status, out)

	spoilt := map[string]string{
		"objects": made("objects", func(git string) { require.NoError(t, os.RemoveAll(filepath.Join(git, "objects"))) }),
		"no tree": made("no tree", func(git string) { emptied(t, filepath.Join(git, "objects")) }),
		"head":    made("head", func(git string) { require.NoError(t, os.Remove(filepath.Join(git, "HEAD"))) }),
		"nonsense": made("nonsense", func(git string) {
			require.NoError(t, os.WriteFile(filepath.Join(git, "HEAD"), []byte("fern\n"), 0o644))
		}),
		"a file": made("a file", func(git string) {
			require.NoError(t, os.RemoveAll(git))
			require.NoError(t, os.WriteFile(git, []byte("gitdir: /no/such/folder\n"), 0o644))
		}),
		"empty": made("empty", func(git string) {
			require.NoError(t, os.RemoveAll(git))
			require.NoError(t, os.Mkdir(git, 0o755))
		}),
	}
	for name, at := range spoilt {
		status, out := survey(at)
		assert.Equal(t, 3, status, "%s: %s", name, out)
		assert.True(t, strings.HasSuffix(out, "The repository could not be read: nothing of it is checked.\n"), "%s: the last line says so: %s", name, out)
	}
	status, out = survey("--output", "json", spoilt["empty"], good)
	assert.Equal(t, 3, status, out)
	status, out = survey("--ref", "no-such-ref", good)
	assert.Equal(t, 3, status, out)
	assert.Contains(t, out, `it has no ref "no-such-ref"`)
	status, out = survey("--ref", "HEAD~99", good)
	assert.Equal(t, 3, status, out)

	status, out = survey(dir)
	assert.Equal(t, 3, status, "those found below a folder count as those that are named")
	assert.True(t, strings.HasSuffix(out, "6 of 7 repositories could not be read: nothing of them is checked.\n"), out)
	require.NoError(t, os.Mkdir(filepath.Join(t.TempDir(), "empty"), 0o755))
	status, out = survey(good, t.TempDir())
	assert.Equal(t, 3, status, "a folder that holds none was named too")
	assert.Contains(t, out, "no repository is found there")
	status, _ = survey(filepath.Join(dir, "nowhere"), good)
	assert.Equal(t, 3, status)

	tabled := lay(t, map[string]string{".node-version": "22\n"})
	for name, text := range map[string]string{"config": "[core]\n\trepositoryformatversion = 1\n[extensions]\n\trefstorage = reftable\n", "HEAD": "ref: refs/heads/.invalid\n", "reftable/tables.list": "0x000000000001-0x000000000002-aaaaaaaa.ref\n", "reftable/0x000000000001-0x000000000002-aaaaaaaa.ref": "REFT", "objects/info/packs": ""} {
		at := filepath.Join(tabled, ".git", name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	status, out = survey(tabled)
	assert.Equal(t, 3, status)
	assert.Contains(t, strings.Join(strings.Fields(out), " "), "its tables of refs cannot be understood")
	t.Setenv("PATH", "/nowhere")
	status, out = survey("--ref", "HEAD~0", good)
	assert.Equal(t, 0, status, "no git is needed: %s", out)
}

func emptied(t *testing.T, objects string) {
	t.Helper()
	folders, err := filepath.Glob(filepath.Join(objects, "??"))
	require.NoError(t, err)
	for _, folder := range folders {
		require.NoError(t, os.RemoveAll(folder))
	}
}

// failing is an output that takes so many bytes.
type failing struct {
	left int
	err  error
}

func (f *failing) Write(p []byte) (int, error) {
	if f.left -= len(p); f.left < 0 {
		return 0, f.err
	}
	return len(p), nil
}

// TestAnOutputThatCannotBeWritten ends every command with the same status.
func TestAnOutputThatCannotBeWritten(t *testing.T) {
	dir := lay(t, map[string]string{".node-version": "22\n"})
	bench := filepath.Join(t.TempDir(), "bench.json")
	require.NoError(t, os.WriteFile(bench, []byte(`{"format": "wexo.inventory/1", "machine": {"name": "bench"}, "installations": []}`), 0o644))
	for _, args := range [][]string{
		{"survey", "--inventory", bench, "--fail-on", "never", dir}, {"survey", "--inventory", bench, "--output", "json", "--fail-on", "never", dir}, {"trace", "--inventory", bench, dir, "node"},
		{"inventory", "--root", dir}, {"inventory", "--root", dir, "--output", "json"}, {"lines"}, {"satisfies", "npm", ">=1", "2.0.0"}, {"order", "semver", "1.0.0"}, {"order", "--stdin"}, {"satisfies", "--stdin"},
		{"--help"}, {"--version"},
	} {
		for _, err := range []error{syscall.ENOSPC, syscall.EPIPE} {
			var said strings.Builder
			status := cli.Run(args, cli.Streams{In: strings.NewReader(`{"dialect": "npm", "range": "*", "version": "1.0.0"}` + "\n"), Out: &failing{3, err}, Err: &said})
			assert.Equal(t, 3, status, args)
			assert.Equal(t, errors.Is(err, syscall.ENOSPC), strings.Contains(said.String(), "standard output cannot be written: no space left on device"), "%v: %s", args, said.String())
			assert.NotContains(t, said.String(), "goroutine")
		}
	}
}

// TestWhatCountsApartFailsNoGate: test data and examples are told of, and let a build pass;
// what they are can be decided.
func TestWhatCountsApartFailsNoGate(t *testing.T) {
	dir := t.TempDir()
	inventory := filepath.Join(t.TempDir(), "bench.json")
	require.NoError(t, os.WriteFile(inventory, []byte(`{"format": "wexo.inventory/1", "machine": {"name": "bench"}, "installations": []}`), 0o644))
	lay := func(file, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, file)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, file), []byte(text), 0o644))
	}
	lay("examples/old/.python-version", "3.8\n")
	lay("legacy/.python-version", "3.8\n")
	git(t, dir, "init", "-q", "-b", "main")
	survey := func() (int, string) {
		status, out, _ := wexo(t, "survey", "--worktree", "--inventory", inventory, "--as-of", "2026-11-16", dir)
		return status, out
	}
	status, out := survey()
	assert.Equal(t, 1, status, out)
	assert.Contains(t, out, "legacy/.python-version:1 asks for Python 3.8")
	assert.NotContains(t, out, "examples/old/.python-version:1")
	assert.Contains(t, out, "2 findings in folders of test data, examples or vendored code count apart")
	lay(".wexo.yaml", "apart: [legacy]\n")
	status, out = survey()
	assert.Equal(t, 0, status, out)
	lay(".wexo.yaml", "apart: [legacy, '!examples']\n")
	status, out = survey()
	assert.Equal(t, 1, status, out)
	assert.Contains(t, out, "examples/old/.python-version:1 asks for Python 3.8")
}
