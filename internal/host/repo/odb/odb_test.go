package odb_test

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo/odb"
)

func git(t testing.TB, dir string, args ...string) []byte {
	t.Helper()
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=t", "-c", "user.email=t@trust.invalid"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
	out, err := cmd.Output()
	require.NoError(t, err, args)
	return out
}

// grown makes a repository with a history: files that change a little, so that they are
// packed as deltas of each other.
func grown(t testing.TB, dir string, initial ...string) {
	t.Helper()
	git(t, filepath.Dir(dir), append([]string{"init", "-q", "-b", "main", dir}, initial...)...)
	text := strings.Repeat("a row of ferns beside a row of mosses\n", 200)
	for i := range 12 {
		text = fmt.Sprintf("bed %d\n", i) + text + fmt.Sprintf("bench %d\n", i*i)
		for _, name := range []string{"beds.txt", "deep/er/rows.txt"} {
			at := filepath.Join(dir, name)
			require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
			require.NoError(t, os.WriteFile(at, []byte(name+text), 0o644))
		}
		git(t, dir, "add", "-A")
		git(t, dir, "commit", "-qm", fmt.Sprint("season ", i))
	}
	git(t, dir, "tag", "-a", "heavy", "-m", "m")
}

// same compares every object with what git says of it.
func same(t *testing.T, dir string, size int, folders ...string) {
	t.Helper()
	store, err := odb.Open(folders, size)
	require.NoError(t, err)
	defer store.Close()
	out := bufio.NewReader(bytes.NewReader(git(t, dir, "cat-file", "--batch-all-objects", "--batch")))
	seen := 0
	for {
		header, err := out.ReadString('\n')
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		fields := strings.Fields(header)
		var length int
		_, err = fmt.Sscan(fields[2], &length)
		require.NoError(t, err)
		content := make([]byte, length+1)
		_, err = io.ReadFull(out, content)
		require.NoError(t, err)
		id, ok := odb.ParseID(fields[0])
		require.True(t, ok)
		kind, n, err := store.Stat(id)
		require.NoError(t, err)
		assert.Equal(t, map[string]odb.Kind{"commit": odb.Commit, "tree": odb.Tree, "blob": odb.Blob, "tag": odb.Tag}[fields[1]], kind)
		assert.Equal(t, int64(length), n)
		_, data, err := store.Read(id, 1<<20)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(content[:length], data), fields[0])
		_, _, err = store.Read(id, int64(length)-1)
		assert.ErrorIs(t, err, odb.ErrTooLarge)
		seen++
	}
	assert.Greater(t, seen, 50)
	_, _, err = store.Read(odb.ID(strings.Repeat("\xab", size)), 10)
	assert.ErrorIs(t, err, odb.ErrMissing)
	_, _, err = store.Stat(odb.ID(strings.Repeat("\xab", 52-size)))
	assert.ErrorIs(t, err, odb.ErrMissing, "a name of the other length")
}

func TestObjectsAsGitReadsThem(t *testing.T) {
	for name, c := range map[string]struct {
		size    int
		initial []string
		then    [][]string
	}{
		"loose":         {20, nil, nil},
		"packed":        {20, nil, [][]string{{"gc", "-q"}}},
		"deep deltas":   {20, nil, [][]string{{"repack", "-q", "-a", "-d", "-f", "--depth=40", "--window=50"}}},
		"by name":       {20, nil, [][]string{{"-c", "repack.useDeltaBaseOffset=false", "repack", "-q", "-a", "-d", "-f", "--window=50"}}},
		"several packs": {20, nil, [][]string{{"repack", "-q", "-d"}, {"commit", "-q", "--allow-empty", "-m", "x"}, {"repack", "-q", "-d"}}},
		"longer names":  {32, []string{"--object-format=sha256"}, [][]string{{"gc", "-q"}}},
	} {
		t.Run(name, func(t *testing.T) {
			dir := filepath.Join(t.TempDir(), "beds")
			grown(t, dir, c.initial...)
			for _, args := range c.then {
				git(t, dir, args...)
			}
			same(t, dir, c.size, filepath.Join(dir, ".git", "objects"))
		})
	}
}

func TestSharedObjects(t *testing.T) {
	dir := t.TempDir()
	grown(t, filepath.Join(dir, "beds"))
	git(t, dir, "clone", "-q", "--shared", filepath.Join(dir, "beds"), filepath.Join(dir, "copy"))
	same(t, filepath.Join(dir, "copy"), 20, filepath.Join(dir, "copy", ".git", "objects"), filepath.Join(dir, "beds", ".git", "objects"))
}

// TestAPackLargerThanItsSmallIndex is looked up in its file.
func TestAPackWithALargeIndex(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "beds")
	grown(t, dir)
	var stream bytes.Buffer
	for i := range 12_000 {
		text := fmt.Sprint("plant ", i)
		fmt.Fprintf(&stream, "blob\nmark :%d\ndata %d\n%s\n", i+1, len(text), text)
	}
	cmd := exec.Command("git", "-C", dir, "fast-import", "--quiet")
	cmd.Stdin = &stream
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	same(t, dir, 20, filepath.Join(dir, ".git", "objects"))
}

// TestDamagedPacks: whatever stands in a pack, its index or a loose object, reading ends
// with an error or with bytes, quickly, and within the limit.
func TestDamagedPacks(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "beds")
	grown(t, dir)
	ids := strings.Fields(string(git(t, dir, "rev-list", "--objects", "--no-object-names", "HEAD")))
	objects := filepath.Join(dir, ".git", "objects")
	loose, err := filepath.Glob(filepath.Join(objects, "??", "*"))
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(1, 2))
	damage := func(files []string, rounds int) {
		for range rounds {
			file := files[random.IntN(len(files))]
			was, err := os.ReadFile(file)
			require.NoError(t, err)
			bad := bytes.Clone(was)
			for range 1 + random.IntN(8) {
				bad[random.IntN(len(bad))] = byte(random.Uint32())
			}
			if random.IntN(4) == 0 {
				bad = bad[:random.IntN(len(bad))]
			}
			require.NoError(t, os.Chmod(file, 0o644))
			require.NoError(t, os.WriteFile(file, bad, 0o644))
			if store, err := odb.Open([]string{objects}, 20); err == nil {
				for _, text := range ids {
					id, _ := odb.ParseID(text)
					_, _, _ = store.Stat(id)
					if _, data, err := store.Read(id, 64<<10); err == nil {
						assert.LessOrEqual(t, len(data), 64<<10)
					}
				}
				require.NoError(t, store.Close())
			}
			require.NoError(t, os.WriteFile(file, was, 0o644))
		}
	}
	damage(loose, 50)
	git(t, dir, "gc", "-q")
	packs, err := filepath.Glob(filepath.Join(objects, "pack", "pack-*.pack"))
	require.NoError(t, err)
	damage(packs, 300)
	index, err := filepath.Glob(filepath.Join(objects, "pack", "pack-*.idx"))
	require.NoError(t, err)
	damage(index, 300)
	same(t, dir, 20, objects)
}
