package main

import (
	"bytes"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "wexo/internal/cli" // is what is attacked: a result of before its change is not this one's
)

// TestAttacks runs the short form of every attack on the real binary.
func TestAttacks(t *testing.T) {
	wexo := filepath.Join(t.TempDir(), "wexo")
	build := exec.Command("go", "build", "-o", wexo, "../../cmd/wexo")
	said, err := build.CombinedOutput()
	require.NoError(t, err, string(said))
	var out bytes.Buffer
	held, err := run(t.Context(), options{wexo: wexo, short: true, seed: 1}, &out)
	require.NoError(t, err)
	t.Log("\n" + out.String())
	assert.True(t, held, out.String())
}
