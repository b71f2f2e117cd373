package probe_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

// TestCheckouts: repositories below the folders that the user names, and what each is: two
// clones of one are the same, whatever they are called.
func TestCheckouts(t *testing.T) {
	work := t.TempDir()
	git := func(dir string, args ...string) {
		require.NoError(t, os.MkdirAll(filepath.Join(work, dir), 0o755))
		c := exec.Command("git", append([]string{"-C", filepath.Join(work, dir)}, args...)...)
		said, err := c.CombinedOutput()
		require.NoError(t, err, "%s", said)
	}
	for _, dir := range []string{"kiosk", "deep/below/kiosk-again", "deep/ledger", "../" + filepath.Base(work) + "-other/rota"} {
		git(dir, "init", "-q")
	}
	git("kiosk", "remote", "add", "origin", "https://git.trust.invalid/kiosk.git")
	git("deep/below/kiosk-again", "remote", "add", "origin", "git@git.trust.invalid:kiosk.git")
	require.NoError(t, os.MkdirAll(filepath.Join(work, "notes"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(work, "notes", "package.json"), []byte("{}"), 0o644)) // no repository
	m := probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: "linux"}, Files: t.TempDir(), Path: []string{}, Now: time.Unix(0, 0)}
	assert.Empty(t, take(t, m).Checkouts, "nobody is listed who did not ask for it")

	m.Checkouts = []string{work, filepath.Join(work, "gone")}
	inv := take(t, m)
	require.NoError(t, inv.Check())
	var paths []string
	is := map[string]string{}
	for _, c := range inv.Checkouts {
		rest, err := filepath.Rel(work, c.Path)
		require.NoError(t, err)
		paths = append(paths, rest)
		is[rest] = c.Identity
	}
	assert.Equal(t, []string{"deep/below/kiosk-again", "deep/ledger", "kiosk"}, paths, "sorted, and none beside the folder")
	assert.Equal(t, is["kiosk"], is["deep/below/kiosk-again"], "one repository, cloned in two ways")
	assert.NotEqual(t, is["kiosk"], is["deep/ledger"])
}
