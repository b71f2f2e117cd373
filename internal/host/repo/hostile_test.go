package repo_test

import (
	"bytes"
	"context"
	"encoding/hex"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/reading"
	"wexo/internal/host/repo"
)

// object writes an object as it is, however wrong, and gives its name.
func object(t *testing.T, dir, kind string, content []byte) string {
	t.Helper()
	cmd := exec.Command("git", "-C", dir, "hash-object", "-t", kind, "-w", "--stdin", "--literally")
	cmd.Stdin = bytes.NewReader(content)
	out, err := cmd.Output()
	require.NoError(t, err)
	return strings.TrimSpace(string(out))
}

// treeOf makes a tree object of entries "mode name id" without asking whether git would.
func treeOf(t *testing.T, dir string, entries ...[3]string) string {
	t.Helper()
	var b bytes.Buffer
	for _, e := range entries {
		id, err := hex.DecodeString(e[2])
		require.NoError(t, err)
		fmt.Fprintf(&b, "%s %s\x00%s", e[0], e[1], id)
	}
	return object(t, dir, "tree", b.Bytes())
}

func read(t *testing.T, dir string, how repo.Reading) fact.Reading {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	r, err := reading.New(c)
	require.NoError(t, err)
	return r.Read(open(t, dir, how).FS)
}

// TestHostileTrees: a commit whose tree no ordinary git would make.
func TestHostileTrees(t *testing.T) {
	dir := t.TempDir()
	git(t, dir, "init", "-q", "-b", "main")
	pin := object(t, dir, "blob", []byte("22\n"))
	evil := object(t, dir, "blob", []byte("/etc/passwd"))
	inner := treeOf(t, dir, [3]string{"100644", ".node-version", pin})
	missing := strings.Repeat("ab", 20)
	tree := treeOf(t, dir,
		[3]string{"100644", ".node-version", pin},
		[3]string{"40000", "..", inner},
		[3]string{"40000", ".", inner},
		[3]string{"40000", ".git", inner},
		[3]string{"40000", "a/b", inner},
		[3]string{"40000", "bad", missing},
		[3]string{"40000", "blob-as-folder", pin},
		[3]string{"100644", "folder-as-file", inner},
		[3]string{"120000", ".python-version", evil},
		[3]string{"100644", "package.json", missing},
		[3]string{"160000", "module", missing},
		[3]string{"777777", ".go-version", pin},
		[3]string{"40000", "good", inner},
	)
	commit := object(t, dir, "commit", []byte("tree "+tree+"\nauthor t <t@trust.invalid> 1 +0000\ncommitter t <t@trust.invalid> 1 +0000\n\nevil\n"))
	git(t, dir, "update-ref", "refs/heads/main", commit)

	got := read(t, dir, repo.Reading{})
	var claims, problems []string
	for _, c := range got.Claims {
		claims = append(claims, c.File)
	}
	for _, p := range got.Problems {
		problems = append(problems, p.File)
	}
	assert.Equal(t, []string{".node-version", "good/.node-version"}, claims)
	assert.ElementsMatch(t, []string{"", ".python-version", "bad", "blob-as-folder", "package.json"}, problems, "and that something of the listing is left out is told")
	require.Contains(t, got.Skipped, claim.SkippedFolder{Folder: "module", Why: claim.Submodule})
}

func TestDamagedTree(t *testing.T) {
	dir := t.TempDir()
	git(t, dir, "init", "-q", "-b", "main")
	tree := object(t, dir, "tree", []byte("100644 cut-off\x00short"))
	commit := object(t, dir, "commit", []byte("tree "+tree+"\nauthor t <t@trust.invalid> 1 +0000\ncommitter t <t@trust.invalid> 1 +0000\n\nx\n"))
	git(t, dir, "update-ref", "refs/heads/main", commit)
	_, err := repo.Open(t.Context(), repo.Location{Path: dir, Kind: repo.Git}, repo.Reading{})
	assert.ErrorContains(t, err, "damaged", "a repository of which nothing can be read is no empty one")
}

func TestLongerObjectNames(t *testing.T) {
	dir := t.TempDir()
	write(t, dir, map[string]string{".node-version": "22\n", "web/.node-version": "24\n"})
	git(t, dir, "init", "-q", "--object-format=sha256")
	git(t, dir, "add", "-A")
	git(t, dir, "commit", "-qm", "bed")
	assert.Len(t, read(t, dir, repo.Reading{}).Claims, 2)
	assert.Len(t, open(t, dir, repo.Reading{}).Commit, 64)
}

func TestRepositoriesInsideRepositories(t *testing.T) {
	dir := t.TempDir()
	commit(t, filepath.Join(dir, "inner"), map[string]string{".node-version": "18\n"})
	commit(t, filepath.Join(dir, "outer"), map[string]string{".node-version": "22\n"})
	git(t, filepath.Join(dir, "outer"), "submodule", "--quiet", "add", filepath.Join(dir, "inner"), "module")
	git(t, filepath.Join(dir, "outer"), "commit", "-qm", "module")
	commit(t, filepath.Join(dir, "outer", "nested"), map[string]string{".node-version": "16\n"})
	for _, how := range []repo.Reading{{}, {Worktree: true}} {
		got := read(t, filepath.Join(dir, "outer"), how)
		require.Len(t, got.Claims, 1, "%+v", how)
		assert.Equal(t, "22", got.Claims[0].Raw)
	}
}

func TestLargeFilesAreNotRead(t *testing.T) {
	dir := t.TempDir()
	commit(t, dir, map[string]string{"package.json": `{"a": "` + strings.Repeat("x", 9<<20) + `"}`, ".python-version": strings.Repeat("3", 70<<10), ".diary": strings.Repeat("python 3.12\n", 10_000), ".node-version": "22\n"})
	for _, how := range []repo.Reading{{}, {Worktree: true}} {
		got := read(t, dir, how)
		require.Len(t, got.Claims, 1)
		var reasons []string
		for _, p := range got.Problems {
			reasons = append(reasons, p.File+": "+p.Reason)
		}
		assert.ElementsMatch(t, []string{"package.json: it has 9 MB; no more than 8 MB are read", ".python-version: it has 70 KB; no more than 64 KB are read"}, reasons)
	}
}

func TestManyFolders(t *testing.T) {
	dir := t.TempDir()
	files := map[string]string{}
	for i := range 200 {
		files[fmt.Sprintf("bed%03d/row/.node-version", i)] = "22\n"
	}
	commit(t, dir, files)
	assert.Len(t, read(t, dir, repo.Reading{}).Claims, 200)
}

func TestATreeIsAFileSystem(t *testing.T) {
	dir := t.TempDir()
	commit(t, dir, map[string]string{"a.txt": "one", "b/c.txt": "two"})
	require.NoError(t, os.Chmod(filepath.Join(dir, "a.txt"), 0o755))
	git(t, dir, "commit", "-qam", "mode")
	tree := open(t, dir, repo.Reading{})
	info, err := fs.Stat(tree.FS, "a.txt")
	require.NoError(t, err)
	assert.Equal(t, fs.FileMode(0o755), info.Mode())
	assert.Equal(t, int64(3), info.Size())
	assert.False(t, info.IsDir())
	f, err := tree.Open("b")
	require.NoError(t, err)
	info, err = f.Stat()
	require.NoError(t, err)
	assert.True(t, info.IsDir())
	_, err = f.Read(make([]byte, 1))
	assert.Error(t, err)
	require.NoError(t, f.Close())
	entries, err := fs.ReadDir(tree.FS, ".")
	require.NoError(t, err)
	entry, err := entries[0].Info()
	require.NoError(t, err)
	assert.Equal(t, int64(3), entry.Size())
	for _, name := range []string{"nothing", "b/nothing", "a.txt/below"} {
		_, err := tree.Open(name)
		assert.Error(t, err, name)
	}
	_, err = fs.ReadDir(tree.FS, "a.txt")
	assert.Error(t, err)
}

func TestNamesThatAreUnique(t *testing.T) {
	dir := t.TempDir()
	for _, path := range []string{"a/x/ferns", "b/x/ferns", "b/y/ferns", "mosses"} {
		write(t, filepath.Join(dir, path), map[string]string{".git/HEAD": "ref: refs/heads/main"})
	}
	found, problems := repo.Discover([]string{dir, filepath.Join(dir, "mosses")}, func(string) bool { return false })
	require.Empty(t, problems)
	var names []string
	for _, l := range found {
		names = append(names, l.Name)
	}
	assert.ElementsMatch(t, []string{"a/x/ferns", "b/x/ferns", "y/ferns", "mosses"}, names)
	_, err := repo.At(filepath.Join(dir, "nowhere"))
	assert.ErrorContains(t, err, "no such folder")
	l, err := repo.At(dir)
	require.NoError(t, err)
	assert.Equal(t, repo.Plain, l.Kind)
	_, err = repo.Open(context.Background(), repo.Location{Path: filepath.Join(dir, "gone"), Kind: repo.Plain}, repo.Reading{})
	assert.Error(t, err)
}
