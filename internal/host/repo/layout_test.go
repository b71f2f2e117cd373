package repo_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo"
)

// real is a new folder, links followed.
func real(t *testing.T) string {
	t.Helper()
	dir, err := filepath.EvalSymlinks(t.TempDir())
	require.NoError(t, err)
	return dir
}

// TestNothingLeadsOutOfTheRoots: whatever a repository's own files name.
func TestNothingLeadsOutOfTheRoots(t *testing.T) {
	root, outside := real(t), real(t)
	secret := filepath.Join(outside, "secret")
	commit(t, secret, map[string]string{".node-version": "16\n"})
	in := func(name string, files map[string]string) string {
		dir := filepath.Join(root, name)
		require.NoError(t, os.MkdirAll(dir, 0o755))
		write(t, dir, files)
		return dir
	}
	cases := map[string]func(dir string){
		"a file":  func(dir string) { write(t, dir, map[string]string{".git": "gitdir: " + secret + "/.git\n"}) },
		"a link":  func(dir string) { require.NoError(t, os.Symlink(secret+"/.git", dir+"/.git")) },
		"objects": func(dir string) { commit(t, dir, nil0()); relink(t, dir+"/.git/objects", secret+"/.git/objects") },
		"commondir": func(dir string) {
			write(t, dir, map[string]string{".git/HEAD": "ref: refs/heads/main\n", ".git/commondir": secret + "/.git\n"})
		},
		"climbing": func(dir string) {
			up, err := filepath.Rel(dir, secret+"/.git")
			require.NoError(t, err)
			write(t, dir, map[string]string{".git": "gitdir: " + up + "\n"})
		},
		"alternates": func(dir string) {
			commit(t, dir, nil0())
			write(t, dir, map[string]string{".git/objects/info/alternates": secret + "/.git/objects\n"})
		},
		"alternates of alternates": func(dir string) {
			commit(t, dir, nil0())
			inner := in("shared-"+filepath.Base(dir), map[string]string{"objects/info/alternates": secret + "/.git/objects\n"})
			write(t, dir, map[string]string{".git/objects/info/alternates": inner + "/objects\n"})
		},
		"itself": func(dir string) {
			require.NoError(t, os.Remove(dir))
			require.NoError(t, os.Symlink(secret, dir))
		},
	}
	for name, lay := range cases {
		dir := in("bed "+name, nil)
		lay(dir)
		l := repo.Location{Name: name, Path: dir, Kind: repo.Git}
		how := repo.Reading{Within: repo.Within{root}}
		_, err := repo.Open(t.Context(), l, how)
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), "leads to "+outside, name)
		assert.Contains(t, err.Error(), "does not lie below", name)
		if name == "a file" || name == "a link" || name == "itself" || name == "commondir" || name == "climbing" {
			assert.Empty(t, repo.CommitOf(l, how), name)
		}
	}
	how := repo.Reading{Within: repo.Within{filepath.Join(root, "narrower")}}
	_, err := repo.Open(t.Context(), repo.Location{Path: in("bed", map[string]string{"x": "1"}), Kind: repo.Plain}, how)
	assert.ErrorContains(t, err, "does not lie below", "the roots were narrowed")
}

func nil0() map[string]string { return map[string]string{"x": "1"} }

func relink(t *testing.T, from, to string) {
	t.Helper()
	require.NoError(t, os.RemoveAll(from))
	require.NoError(t, os.Symlink(to, from))
}

// TestAnEmptyGitFolderIsNoRepository: git would go on to the folder above.
func TestAnEmptyGitFolderIsNoRepository(t *testing.T) {
	dir := real(t)
	commit(t, dir, map[string]string{".node-version": "16\n", "inner/x": "1"})
	require.NoError(t, os.Mkdir(filepath.Join(dir, "inner", ".git"), 0o755))
	for _, ref := range []string{"", "main", "HEAD~0"} {
		_, err := repo.Open(t.Context(), repo.Location{Path: filepath.Join(dir, "inner"), Kind: repo.Git}, repo.Reading{Ref: ref})
		assert.Error(t, err, ref)
	}
}

// TestRepositoriesInUsualPlaces are read, wherever git keeps their parts.
func TestRepositoriesInUsualPlaces(t *testing.T) {
	dir := real(t)
	commit(t, filepath.Join(dir, "a"), map[string]string{".node-version": "22\n"})
	git(t, filepath.Join(dir, "a"), "worktree", "add", "-q", "../linked", "-b", "side")
	git(t, dir, "clone", "-q", "--shared", "a", "shared")
	git(t, dir, "clone", "-q", "a", "plain")
	git(t, filepath.Join(dir, "plain"), "gc", "-q")
	git(t, filepath.Join(dir, "plain"), "init", "-q", "--separate-git-dir", filepath.Join(dir, "apart.git"))
	git(t, dir, "clone", "-q", "--mirror", "a", "mirror.git")
	for _, name := range []string{"a", "linked", "shared", "plain", "mirror.git"} {
		l, err := repo.At(filepath.Join(dir, name))
		require.NoError(t, err)
		for _, within := range []repo.Within{nil, {dir}} {
			tree, err := repo.Open(t.Context(), l, repo.Reading{Within: within})
			require.NoError(t, err, name)
			data, err := fs.ReadFile(tree.FS, ".node-version")
			require.NoError(t, err, name)
			assert.Equal(t, "22\n", string(data))
			require.NoError(t, tree.Close())
		}
	}
}

// TestPipesInsideGit cost their repository alone, at once.
func TestPipesInsideGit(t *testing.T) {
	for _, name := range []string{"HEAD", "commondir", "packed-refs", "refs/heads/main", "objects/info/alternates", "objects/pack/pack-0.idx", "config"} {
		dir := real(t)
		commit(t, dir, map[string]string{"x": "1"})
		at := filepath.Join(dir, ".git", name)
		require.NoError(t, os.RemoveAll(at))
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, syscall.Mkfifo(at, 0o644))
		done := make(chan error, 1)
		go func() {
			for _, ref := range []string{"", "nothing"} {
				tree, err := repo.Open(t.Context(), repo.Location{Path: dir, Kind: repo.Git}, repo.Reading{Ref: ref})
				if err == nil {
					tree.Close()
				}
			}
			done <- nil
		}()
		select {
		case <-done:
		case <-time.After(20 * time.Second):
			t.Fatal("a pipe at .git/" + name + " keeps the reader waiting")
		}
	}
}
