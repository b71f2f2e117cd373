package probe

import (
	"io/fs"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFilesOfAnotherMachine: its links lead where they would on it, and never to this one's files.
func TestFilesOfAnotherMachine(t *testing.T) {
	host := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(host, "choice"), []byte("hunter2"), 0o644))
	root := t.TempDir()
	put := func(name, text string) {
		at := filepath.Join(root, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	put("home/fern/own", "its own")
	put("etc/choice", "22")
	for link, to := range map[string]string{
		"home/fern/inside": "/etc/choice", "home/fern/climbing": "../../../../../../etc/choice", "home/fern/out": filepath.Join(host, "choice"),
		"home/fern/folder": "/etc", "home/fern/circle": "circle", "home/fern/away": host,
	} {
		require.NoError(t, os.Symlink(to, filepath.Join(root, link)))
	}
	d := disk{root: root}.opened()
	defer d.close()
	files := d.files("/home/fern")
	for name, want := range map[string]string{"own": "its own", "inside": "22", "climbing": "22", "folder/choice": "22"} {
		got, err := fs.ReadFile(files, name)
		assert.NoError(t, err, name)
		assert.Equal(t, want, string(got), name)
		info, err := fs.Stat(files, name)
		assert.NoError(t, err, name)
		assert.True(t, info.Mode().IsRegular(), name)
	}
	for _, name := range []string{"out", "circle", "away/choice", "../../etc/choice", "none"} {
		_, err := fs.ReadFile(files, name)
		assert.Error(t, err, name)
		_, err = fs.Stat(files, name)
		assert.Error(t, err, name)
	}
	info, err := fs.Lstat(files, "out")
	require.NoError(t, err)
	assert.NotZero(t, info.Mode()&fs.ModeSymlink)
	to, err := fs.ReadLink(files, "inside")
	require.NoError(t, err)
	assert.Equal(t, "/etc/choice", to)
	_, err = d.open("/home/fern/out")
	assert.Error(t, err, "nor by a path that was not followed first")
	entries, err := fs.ReadDir(files, "folder")
	require.NoError(t, err)
	assert.Len(t, entries, 1)
	assert.Nil(t, disk{root: filepath.Join(root, "none")}.opened().list("/"), "what cannot be opened holds nothing")
}
