package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWhatGitMakes: repositories as git's own commands leave them are read, or it is told that
// they are not.
func TestWhatGitMakes(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	origin := lay(t, map[string]string{".node-version": "24.21.0\n", "package.json": `{"engines": {"node": ">=24"}}`, "web/package.json": "{}"})
	git(t, origin, "init", "-q", "-b", "main")
	git(t, origin, "config", "uploadpack.allowFilter", "true")
	git(t, origin, "add", "-A")
	git(t, origin, "commit", "-qm", "bed")
	require.NoError(t, os.WriteFile(filepath.Join(origin, "later.txt"), nil, 0o644))
	git(t, origin, "add", "-A")
	git(t, origin, "commit", "-qm", "later")
	outer := lay(t, map[string]string{".node-version": "24.21.0\n"})
	git(t, outer, "init", "-q", "-b", "main")
	git(t, outer, "-c", "protocol.file.allow=always", "submodule", "--quiet", "add", origin, "fern")
	git(t, outer, "add", "-A")
	git(t, outer, "commit", "-qm", "with a fern")
	bench := filepath.Join(t.TempDir(), "bench.json")
	require.NoError(t, os.WriteFile(bench, []byte(benchOf), 0o644))
	clone := func(t *testing.T, from string, args ...string) string {
		at := filepath.Join(t.TempDir(), "bed")
		git(t, ".", append(append([]string{"-c", "protocol.file.allow=always", "clone", "-q"}, args...), "file://"+from, at)...)
		return at
	}
	branch := func(name string) func(t *testing.T) string {
		return func(t *testing.T) string {
			at := clone(t, origin)
			git(t, at, "checkout", "-q", "-b", name)
			return at
		}
	}
	after := func(commands ...string) func(t *testing.T) string {
		return func(t *testing.T) string {
			at := clone(t, origin)
			for _, c := range commands {
				git(t, at, strings.Fields(c)...)
			}
			return at
		}
	}
	for name, c := range map[string]struct {
		make  func(t *testing.T) string
		told  string // what is said of what is not read; "" where all is
		holds bool   // and what is said holds without
	}{
		"a number":             {branch("fix/#42"), "", true},
		"a package":            {branch("bots/npm/@types/node"), "", true},
		"letters":              {branch("größe/日本"), "", true},
		"an equals sign":       {branch("x=1,(y)!%&'{z$"), "", true},
		"detached":             {after("checkout -q --detach HEAD~1"), "", true},
		"a tag of a tag":       {after("tag -a -m one one", "tag -a -m two two one", "checkout -q two"), "", true},
		"packed refs":          {after("tag old HEAD~1", "pack-refs --all"), "", true},
		"packed objects":       {after("gc -q --aggressive --prune=now"), "", true},
		"many packs, an index": {after("repack -q -d", "commit -q --allow-empty -m more", "repack -q", "multi-pack-index write"), "", true},
		"shallow":              {func(t *testing.T) string { return clone(t, origin, "--depth", "1") }, "", true},
		"partial, checked out": {func(t *testing.T) string { return clone(t, origin, "--filter=blob:none") }, "", true},
		"partial, without files": {func(t *testing.T) string {
			return clone(t, origin, "--filter=blob:none", "--no-checkout")
		}, "does not hold the object", false},
		"partial, without folders": {func(t *testing.T) string {
			return clone(t, origin, "--filter=tree:0", "--no-checkout")
		}, "", false},
		"shared objects": {func(t *testing.T) string {
			at := filepath.Join(t.TempDir(), "bed")
			git(t, ".", "clone", "-q", "--shared", origin, at)
			return at
		}, "", true},
		"shared objects that are gone": {func(t *testing.T) string {
			from := clone(t, origin)
			at := filepath.Join(t.TempDir(), "bed")
			git(t, ".", "clone", "-q", "--shared", from, at)
			require.NoError(t, os.RemoveAll(from))
			return at
		}, "", false},
		"a linked work tree": {func(t *testing.T) string {
			at := filepath.Join(t.TempDir(), "linked")
			git(t, clone(t, origin), "worktree", "add", "-q", at)
			return at
		}, "", true},
		"a linked work tree whose home is gone": {func(t *testing.T) string {
			home, at := clone(t, origin), filepath.Join(t.TempDir(), "linked")
			git(t, home, "worktree", "add", "-q", at)
			require.NoError(t, os.RemoveAll(home))
			return at
		}, "", false},
		"a submodule": {func(t *testing.T) string {
			return clone(t, outer, "--recurse-submodules")
		}, "", true},
		"a submodule that is not there": {func(t *testing.T) string { return clone(t, outer) }, "submodule", true},
		"a mirror":                      {func(t *testing.T) string { return clone(t, origin, "--mirror") }, "", true},
		"sparse":                        {after("sparse-checkout set web"), "", true},
		"an orphan":                     {after("checkout -q --orphan new"), "branch that is not there", false},
		"a merge under way":             {after("merge -q --no-commit --no-ff -s ours HEAD~1"), "", true},
		"SHA-256": {func(t *testing.T) string {
			at := lay(t, map[string]string{".node-version": "24.21.0\n"})
			git(t, at, "init", "-q", "--object-format=sha256", "-b", "main")
			git(t, at, "add", "-A")
			git(t, at, "commit", "-qm", "bed")
			return at
		}, "", true},
		"modes of a few": {func(t *testing.T) string {
			at := clone(t, origin)
			pin := strings.TrimSpace(gitOut(t, at, "rev-parse", "HEAD:.node-version"))
			tree := treeWith(t, at, [3]string{"100600", ".node-version", pin}, [3]string{"040000", "web", strings.TrimSpace(gitOut(t, at, "rev-parse", "HEAD:web"))})
			git(t, at, "update-ref", "HEAD", strings.TrimSpace(gitOut(t, at, "commit-tree", "-m", "x", tree)))
			return at
		}, "", true},
	} {
		t.Run(name, func(t *testing.T) {
			at := c.make(t)
			status, out, errs := wexo(t, "survey", "--as-of", "2026-11-30", "--inventory", bench, at)
			said := strings.Join(strings.Fields(out+errs), " ")
			if !c.holds {
				assert.Equal(t, 3, status, said)
				assert.Contains(t, said, c.told)
				assert.NotContains(t, said, "Everything asked for")
				return
			}
			assert.Equal(t, 0, status, said)
			assert.NotContains(t, said, " 0 claims")
			if c.told == "" {
				assert.Contains(t, said, "Everything asked for is there and supported.")
			} else {
				assert.Contains(t, said, c.told)
			}
		})
	}
}

// TestWhatComesLaterIsRead: a partial clone that is made whole is read anew, although its commit
// is the same.
func TestWhatComesLaterIsRead(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	origin := lay(t, map[string]string{"bench.json": benchOf, ".node-version": "24.21.0\n"})
	git(t, origin, "init", "-q", "-b", "main")
	git(t, origin, "config", "uploadpack.allowFilter", "true")
	git(t, origin, "add", ".node-version")
	git(t, origin, "commit", "-qm", "bed")
	at := filepath.Join(t.TempDir(), "bed")
	git(t, ".", "clone", "-q", "--filter=blob:none", "--no-checkout", "file://"+origin, at)
	args := []string{"survey", "--as-of", "2026-11-30", "--inventory", filepath.Join(origin, "bench.json"), at}
	for range 2 {
		status, out, errs := wexo(t, args...)
		require.Equal(t, 3, status, out+errs)
	}
	git(t, at, "checkout", "-q", "HEAD", "--", ".")
	for range 2 {
		status, out, errs := wexo(t, args...)
		require.Equal(t, 0, status, out+errs)
	}
}
