package repo_test

import (
	"context"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo"
)

func write(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for name, content := range files {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(content), 0o644))
	}
}

func git(t *testing.T, dir string, args ...string) string {
	t.Helper()
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=t", "-c", "user.email=t@trust.invalid", "-c", "protocol.file.allow=always"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull) // nothing of the account's own git may show
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	return strings.TrimSpace(string(out))
}

func commit(t *testing.T, dir string, files map[string]string) string {
	t.Helper()
	write(t, dir, files)
	git(t, dir, "init", "-q", "-b", "main")
	git(t, dir, "add", "-A")
	git(t, dir, "commit", "-qm", "bed")
	return git(t, dir, "rev-parse", "HEAD")
}

func open(t *testing.T, dir string, how repo.Reading) *repo.Tree {
	t.Helper()
	l, err := repo.At(dir)
	require.NoError(t, err)
	tree, err := repo.Open(context.Background(), l, how)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, tree.Close()) })
	return tree
}

func TestDiscover(t *testing.T) {
	dir := t.TempDir()
	commit(t, filepath.Join(dir, "team/ferns"), map[string]string{"a": "1", "deep/package.json": "{}"})
	commit(t, filepath.Join(dir, "other/ferns"), map[string]string{"a": "1"})
	write(t, dir, map[string]string{"plain/package.json": "{}", "plain/web/package.json": "{}", "notes/readme.txt": "x", "node_modules/x/package.json": "{}", ".cache/package.json": "{}"})
	git(t, dir, "clone", "-q", "--bare", filepath.Join(dir, "team/ferns"), filepath.Join(dir, "mirror.git"))
	require.NoError(t, os.Symlink(dir, filepath.Join(dir, "loop")))
	marks := func(base string) bool { return base == "package.json" }

	found, problems := repo.Discover([]string{dir, filepath.Join(dir, "nowhere"), filepath.Join(dir, "notes/readme.txt")}, marks)
	got := map[string]repo.Kind{}
	for _, l := range found {
		got[l.Name] = l.Kind
	}
	assert.Equal(t, map[string]repo.Kind{"team/ferns": repo.Git, "other/ferns": repo.Git, "plain": repo.Plain, "mirror": repo.Bare}, got)
	require.Len(t, problems, 2, "the link leads to no repository, and the dot-folder holds none")
	assert.ErrorContains(t, problems[0], "no such folder")
	assert.ErrorContains(t, problems[1], "it is a file")

	found, problems = repo.Discover([]string{t.TempDir()}, marks)
	assert.Empty(t, found)
	require.Len(t, problems, 1)
	assert.ErrorContains(t, problems[0], "no repository is found there")
}

func TestCommittedAndWorkingTree(t *testing.T) {
	dir := t.TempDir()
	first := commit(t, dir, map[string]string{".node-version": "20\n", "a/b/c.txt": "deep"})
	write(t, dir, map[string]string{".node-version": "22\n"})
	git(t, dir, "commit", "-qam", "newer")
	git(t, dir, "tag", "grown")
	write(t, dir, map[string]string{".node-version": "24\n"})

	read := func(how repo.Reading) string {
		data, err := fs.ReadFile(open(t, dir, how).FS, ".node-version")
		require.NoError(t, err)
		return string(data)
	}
	assert.Equal(t, "22\n", read(repo.Reading{}))
	assert.Equal(t, "20\n", read(repo.Reading{Ref: "HEAD~1"}))
	assert.Equal(t, "22\n", read(repo.Reading{Ref: "grown"}))
	assert.Equal(t, "24\n", read(repo.Reading{Worktree: true}))

	tree := open(t, dir, repo.Reading{Ref: "HEAD~1"})
	assert.Equal(t, first, tree.Commit)
	var names []string
	require.NoError(t, fs.WalkDir(tree.FS, ".", func(name string, d fs.DirEntry, err error) error {
		names = append(names, name)
		return err
	}))
	assert.Equal(t, []string{".", ".node-version", "a", "a/b", "a/b/c.txt"}, names)
	_, err := fs.ReadFile(tree.FS, "a/b")
	assert.Error(t, err)
	_, err = fs.Stat(tree.FS, "a/missing")
	assert.ErrorIs(t, err, fs.ErrNotExist)

	l, err := repo.At(dir)
	require.NoError(t, err)
	for _, ref := range []string{"no-such-branch", "--upload-pack=x", "a\nb"} {
		_, err = repo.Open(context.Background(), l, repo.Reading{Ref: ref})
		assert.Error(t, err, ref)
	}
}

func TestBareAndEmptyRepositories(t *testing.T) {
	dir := t.TempDir()
	commit(t, filepath.Join(dir, "a"), map[string]string{"x": "1"})
	git(t, dir, "clone", "-q", "--bare", filepath.Join(dir, "a"), filepath.Join(dir, "bare"))
	data, err := fs.ReadFile(open(t, filepath.Join(dir, "bare"), repo.Reading{}).FS, "x")
	require.NoError(t, err)
	assert.Equal(t, "1", string(data))

	write(t, filepath.Join(dir, "new"), map[string]string{"x": "2"})
	git(t, filepath.Join(dir, "new"), "init", "-q")
	tree := open(t, filepath.Join(dir, "new"), repo.Reading{})
	assert.Contains(t, tree.Notice, "working tree was read")
	data, err = fs.ReadFile(tree.FS, "x")
	require.NoError(t, err)
	assert.Equal(t, "2", string(data))
}

// TestNothingEscapes: links out of the tree lead nowhere, in commits and on disk.
func TestNothingEscapes(t *testing.T) {
	outside := t.TempDir()
	write(t, outside, map[string]string{"secret": "42"})
	dir := t.TempDir()
	write(t, dir, map[string]string{"inner/real": "1"})
	for name, target := range map[string]string{"absolute": filepath.Join(outside, "secret"), "climbing": "../../../../../../" + filepath.Join(outside, "secret"), "good": "inner/real", "round": "round", "dir": outside, "inner/up": "../good"} {
		require.NoError(t, os.Symlink(target, filepath.Join(dir, name)))
	}
	commit(t, dir, nil)
	for _, how := range []repo.Reading{{}, {Worktree: true}} {
		tree := open(t, dir, how).FS
		for _, name := range []string{"absolute", "climbing", "round", "dir/secret", "../secret"} {
			_, err := fs.ReadFile(tree, name)
			assert.Error(t, err, name)
		}
		for _, name := range []string{"good", "inner/up"} {
			data, err := fs.ReadFile(tree, name)
			require.NoError(t, err, name)
			assert.Equal(t, "1", string(data))
		}
	}
}

// TestRepositoriesRunNothing: configuration and hooks that name programs are not followed.
func TestRepositoriesRunNothing(t *testing.T) {
	dir := t.TempDir()
	commit(t, dir, map[string]string{"x": "1", ".gitattributes": "* filter=evil diff=evil\n"})
	trap := filepath.Join(t.TempDir(), "ran")
	script := filepath.Join(dir, ".git", "evil.sh")
	require.NoError(t, os.WriteFile(script, []byte("#!/bin/sh\ntouch "+trap+"\n"), 0o755))
	for key, value := range map[string]string{"core.fsmonitor": script, "core.hooksPath": filepath.Dir(script), "filter.evil.smudge": script, "filter.evil.clean": script, "core.pager": script, "diff.evil.textconv": script, "core.sshCommand": script} {
		git(t, dir, "config", key, value)
	}
	for _, how := range []repo.Reading{{}, {Worktree: true}} {
		_, err := fs.ReadFile(open(t, dir, how).FS, "x")
		require.NoError(t, err)
	}
	assert.NoFileExists(t, trap)
}

func TestPipesDoNotHang(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, syscall.Mkfifo(filepath.Join(dir, ".node-version"), 0o644))
	info, err := fs.Stat(open(t, dir, repo.Reading{}).FS, ".node-version")
	require.NoError(t, err)
	assert.False(t, info.Mode().IsRegular(), "a reader can see that it is no file")
}
