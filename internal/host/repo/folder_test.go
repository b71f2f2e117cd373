package repo_test

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo"
)

// TestFoldersAreListedAsTheyLie: every entry with its kind, sorted, also of folders too
// large for one answer of the system; and no way out of the tree.
func TestFoldersAreListedAsTheyLie(t *testing.T) {
	dir, outside := t.TempDir(), t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "beds", "large"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "beds", ".node-version"), []byte("22\n"), 0o600))
	require.NoError(t, os.Symlink("beds", filepath.Join(dir, "inside")))
	require.NoError(t, os.Symlink(outside, filepath.Join(dir, "out")))
	require.NoError(t, os.Symlink("../"+filepath.Base(outside), filepath.Join(dir, "up")))
	for i := range 1000 {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "beds", "large", fmt.Sprintf("%s-%04d", strings.Repeat("plant", 20), i)), nil, 0o600))
	}
	tree, err := repo.Open(t.Context(), repo.Location{Path: dir, Kind: repo.Plain}, repo.Reading{})
	require.NoError(t, err)
	defer tree.Close()
	for _, name := range []string{".", "beds", "beds/large", "inside"} {
		want, err := os.ReadDir(filepath.Join(dir, name))
		require.NoError(t, err)
		got, err := fs.ReadDir(tree, name)
		require.NoError(t, err, name)
		require.Len(t, got, len(want), name)
		for i := range want {
			assert.Equal(t, want[i].Name(), got[i].Name(), name)
			assert.Equal(t, want[i].Type(), got[i].Type(), want[i].Name())
			assert.Equal(t, want[i].IsDir(), got[i].IsDir(), want[i].Name())
			info, err := got[i].Info()
			require.NoError(t, err)
			assert.Equal(t, want[i].Name(), info.Name())
		}
	}
	for _, name := range []string{"out", "up", "..", "/", "beds/..", "nothing", "beds/.node-version"} {
		_, err := fs.ReadDir(tree, name)
		assert.Error(t, err, name)
	}
}
