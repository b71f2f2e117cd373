package repo_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo"
)

func identity(t *testing.T, dir string) string {
	t.Helper()
	l, err := repo.At(dir)
	require.NoError(t, err)
	return repo.Identity(l)
}

func TestIdentityIsWhereItWasClonedFrom(t *testing.T) {
	dir := t.TempDir()
	clone := func(name, from string) string {
		at := filepath.Join(dir, name)
		commit(t, at, map[string]string{"a": "1"})
		git(t, at, "remote", "add", "origin", from)
		return identity(t, at)
	}
	ferns := clone("ferns", "https://hosts.example/garden/ferns.git")
	for i, way := range []string{"https://gardener@Hosts.example/garden/ferns", "git@hosts.example:garden/ferns.git", "ssh://git@hosts.example:2222/garden/ferns/"} {
		assert.Equal(t, ferns, clone(string(rune('a'+i)), way), way)
	}
	assert.NotEqual(t, ferns, clone("mosses", "https://hosts.example/garden/mosses.git"))
	assert.Equal(t, clone("quoted", `/srv/garden #1/fern "new".git`), clone("again", `/srv/garden #1/fern "new"`), "what git writes in quotes is read without them")
	assert.NotEqual(t, clone("here", "../ferns"), clone("there", "../ferns"), "a relative way leads elsewhere from every place")
}

func TestIdentityIsOfTheWholeRepository(t *testing.T) {
	dir := t.TempDir()
	ferns := filepath.Join(dir, "ferns")
	commit(t, ferns, map[string]string{"a": "1"})
	own := identity(t, ferns)
	git(t, dir, "clone", "-q", ferns, "one")
	git(t, dir, "clone", "-q", "--bare", ferns, "two.git")
	assert.Equal(t, identity(t, filepath.Join(dir, "one")), identity(t, filepath.Join(dir, "two.git")), "both are clones of one")

	git(t, ferns, "remote", "add", "origin", "https://hosts.example/old.git")
	git(t, ferns, "remote", "add", "other", "https://hosts.example/other.git")
	git(t, ferns, "config", "remote.origin.url", "https://hosts.example/ferns.git")
	git(t, ferns, "worktree", "add", "-q", "-b", "bed", filepath.Join(dir, "bed"))
	cloned := identity(t, ferns)
	assert.NotEqual(t, own, cloned)
	assert.Equal(t, cloned, identity(t, filepath.Join(dir, "bed")), "a linked working tree is the same repository")

	git(t, ferns, "remote", "remove", "origin")
	assert.Equal(t, own, identity(t, ferns), "without an origin it is where it lies")
	config, err := os.OpenFile(filepath.Join(ferns, ".git/config"), os.O_APPEND|os.O_WRONLY, 0)
	require.NoError(t, err)
	_, err = config.WriteString("[remote \"origin\"]\n\turl = https://hosts.example/first.git\n\turl = https://hosts.example/ferns.git\n[broken\n")
	require.NoError(t, err)
	require.NoError(t, config.Close())
	assert.Equal(t, cloned, identity(t, ferns), "the last one counts, and what stands before a mistake holds")
	plain := filepath.Join(dir, "plain")
	write(t, plain, map[string]string{".node-version": "22\n"})
	assert.NotEqual(t, identity(t, plain), identity(t, ferns))
}
