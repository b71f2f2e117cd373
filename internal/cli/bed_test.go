package cli_test

import (
	"encoding/hex"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
)

// bedOf is a repository in which all is well on the bench.
func bedOf(t *testing.T) string {
	t.Helper()
	dir := lay(t, map[string]string{".node-version": "24.21.0\n", "package.json": `{"engines": {"node": ">=24"}}`, "web/package.json": `{"engines": {"node": "^24"}}`})
	git(t, dir, "init", "-q", "-b", "main")
	git(t, dir, "add", "-A")
	git(t, dir, "commit", "-qm", "bed")
	require.NoError(t, os.RemoveAll(filepath.Join(dir, ".git", "hooks")))
	return dir
}

func gitOut(t testing.TB, dir string, args ...string) string {
	t.Helper()
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=t", "-c", "user.email=t@trust.invalid"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
	out, err := cmd.Output()
	require.NoError(t, err)
	return string(out)
}

// treeWith writes a tree object as it is given, which no ordinary git would.
func treeWith(t testing.TB, dir string, entries ...[3]string) string {
	t.Helper()
	var b strings.Builder
	for _, e := range entries {
		id, err := hex.DecodeString(e[2])
		require.NoError(t, err)
		b.WriteString(e[0] + " " + e[1] + "\x00" + string(id))
	}
	cmd := exec.Command("git", "-C", dir, "hash-object", "-t", "tree", "-w", "--literally", "--stdin")
	cmd.Stdin = strings.NewReader(b.String())
	out, err := cmd.Output()
	require.NoError(t, err)
	return strings.TrimSpace(string(out))
}

func mkfifo(at string) error { return syscall.Mkfifo(at, 0o644) }
