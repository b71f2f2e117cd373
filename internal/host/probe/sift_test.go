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

// TestAHomeThatIsALink: what lies in the home itself says nothing of the toolchains in it, also
// where the home, or a folder for many, lies elsewhere.
func TestAHomeThatIsALink(t *testing.T) {
	root := t.TempDir()
	for file, text := range map[string]string{
		"data/fern/.node-version": "22\n", "data/fern/package.json": `{"engines":{"node":">=20"}}`, "data/fern/.nodes/22.1.0/bin/node": "exec",
		"data/opt/package.json": `{"engines":{"node":">=20"}}`, "data/opt/node-20.1.0/bin/node": "exec",
	} {
		layFile(t, filepath.Join(root, file), []byte(text))
		require.NoError(t, os.Chmod(filepath.Join(root, file), 0o755))
	}
	require.NoError(t, os.Mkdir(filepath.Join(root, "home"), 0o755))
	require.NoError(t, os.Symlink("/data/fern", filepath.Join(root, "home/fern")))
	require.NoError(t, os.Symlink("data/opt", filepath.Join(root, "opt")))
	inv := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: "linux", Home: "/home/fern"}, Files: root, Now: time.Unix(0, 0), Path: []string{}})
	var found []string
	for _, in := range inv.Installations {
		found = append(found, in.Path)
	}
	assert.ElementsMatch(t, []string{"/data/fern/.nodes/22.1.0/bin/node", "/data/opt/node-20.1.0/bin/node"}, found)
	assert.Empty(t, inv.PassedOver)
}

// TestAClonesToolchain is passed over wherever the clone lies, and what git does not track in a
// clone is found.
func TestAClonesToolchain(t *testing.T) {
	root := t.TempDir()
	for _, place := range []string{"home/fern/.worktrees/proj", "opt/evil", "srv/evil", "usr/local/evil"} {
		dir := filepath.Join(root, place)
		layFile(t, filepath.Join(dir, "node/24.5.0/bin/node"), []byte("exec"))
		layFile(t, filepath.Join(dir, ".node-version"), []byte("24.5.0\n"))
		for _, args := range [][]string{{"init", "-q"}, {"add", "-A"}} {
			out, err := exec.Command("git", append([]string{"-C", dir}, args...)...).CombinedOutput()
			require.NoError(t, err, "%s", out)
		}
		require.NoError(t, os.Chmod(filepath.Join(dir, "node/24.5.0/bin/node"), 0o755))
	}
	kept := filepath.Join(root, "home/fern/.manager")
	layFile(t, filepath.Join(kept, "package.json"), []byte(`{"engines":{"node":">=20"}}`))
	for _, args := range [][]string{{"init", "-q"}, {"add", "-A"}} {
		out, err := exec.Command("git", append([]string{"-C", kept}, args...)...).CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	layFile(t, filepath.Join(kept, "versions/node/22.1.0/bin/node"), []byte("exec"))
	require.NoError(t, os.Chmod(filepath.Join(kept, "versions/node/22.1.0/bin/node"), 0o755))
	inv := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: "linux", Home: "/home/fern"}, Files: root, Now: time.Unix(0, 0), Path: []string{"/opt/evil/node/24.5.0/bin"}})
	if assert.Len(t, inv.Installations, 1) {
		assert.Equal(t, "/home/fern/.manager/versions/node/22.1.0/bin/node", inv.Installations[0].Path)
	}
	assert.Len(t, inv.PassedOver, 4)
	for _, over := range inv.PassedOver {
		assert.Contains(t, over.Why, "tracks it")
	}
}
