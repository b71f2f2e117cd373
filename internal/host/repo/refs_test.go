package repo_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo"
)

// TestCommitOf: where it answers at all, it answers as git does.
func TestCommitOf(t *testing.T) {
	dir := t.TempDir()
	a := filepath.Join(dir, "a")
	first := commit(t, a, map[string]string{"x": "1"})
	git(t, a, "tag", "light")
	git(t, a, "tag", "-a", "heavy", "-m", "m")
	git(t, a, "branch", "side/way")
	second := commit(t, a, map[string]string{"x": "2"})
	at := func(l repo.Location, ref string) string { return repo.CommitOf(l, repo.Reading{Ref: ref}) }
	plain := repo.Location{Path: a, Kind: repo.Git}
	assert.Equal(t, second, at(plain, ""))
	assert.Equal(t, first, at(plain, "refs/heads/side/way"))
	assert.Equal(t, first, at(plain, "refs/tags/light"))
	git(t, a, "pack-refs", "--all")
	assert.Equal(t, second, at(plain, ""), "packed")
	assert.Equal(t, first, at(plain, "refs/tags/light"))
	assert.NotEqual(t, first, at(plain, "refs/tags/heavy"), "a tag of its own is followed by those who read objects")
	git(t, a, "checkout", "-q", "--detach", first)
	assert.Equal(t, first, at(plain, ""))

	git(t, dir, "clone", "-q", "--bare", a, "bare")
	assert.Equal(t, first, at(repo.Location{Path: filepath.Join(dir, "bare"), Kind: repo.Bare}, ""))
	git(t, a, "worktree", "add", "-q", filepath.Join(dir, "linked"), "side/way")
	assert.Equal(t, first, at(repo.Location{Path: filepath.Join(dir, "linked"), Kind: repo.Git}, ""), "a linked work tree has a HEAD of its own")
	for _, ref := range []string{"main", "HEAD~1", "../../etc/passwd", "refs/heads/../../config", "refs/heads/none"} {
		assert.Empty(t, at(plain, ref), ref)
	}
	assert.Empty(t, at(repo.Location{Path: dir, Kind: repo.Plain}, ""))
	require.NoError(t, os.WriteFile(filepath.Join(a, ".git", "HEAD"), []byte("ref: refs/heads/a\nref: refs/heads/b\n"), 0o644))
	assert.Empty(t, at(plain, ""), "nonsense")
	require.NoError(t, os.Remove(filepath.Join(a, ".git", "HEAD")))
	require.NoError(t, os.Symlink("/etc/passwd", filepath.Join(a, ".git", "HEAD")))
	assert.Empty(t, at(plain, ""), "no link is followed")
}

func TestSubmodulesAreRepositoriesOfTheirOwn(t *testing.T) {
	dir := t.TempDir()
	commit(t, filepath.Join(dir, "src/fern"), map[string]string{".node-version": "18\n"})
	outer := filepath.Join(dir, "estate/outer")
	commit(t, outer, map[string]string{".node-version": "22\n"})
	git(t, outer, "submodule", "--quiet", "add", filepath.Join(dir, "src/fern"), "lib/fern")
	git(t, outer, "commit", "-qm", "fern")
	write(t, outer, map[string]string{".gitmodules": "[submodule \"fern\"]\n\tpath = lib/fern\n[submodule \"out\"]\n\tpath = ../../src/fern\n[submodule \"gone\"]\n\tpath = lib/gone\n[submodule \"abs\"]\n\tpath = /etc\n"})
	found, problems := repo.Discover([]string{filepath.Join(dir, "estate")}, func(string) bool { return false })
	require.Len(t, problems, 1)
	assert.ErrorContains(t, problems[0], "lib/gone: it is a submodule that is not checked out")
	var names []string
	for _, l := range found {
		names = append(names, l.Name)
		got := read(t, l.Path, repo.Reading{})
		require.Len(t, got.Claims, 1)
		assert.Equal(t, map[string]string{"outer": "22", "fern": "18"}[l.Name], got.Claims[0].Raw)
	}
	assert.ElementsMatch(t, []string{"outer", "fern"}, names)
}
