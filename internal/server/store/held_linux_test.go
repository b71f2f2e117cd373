package store_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/server/store"
)

// TestTheOpenFileStaysHeld: as long as the data is open, SQLite's own lock tells other
// programs so. The system drops it when the process closes the file once more, anywhere.
func TestTheOpenFileStaysHeld(t *testing.T) {
	file := filepath.Join(t.TempDir(), "wexo.db")
	s, err := store.Open(t.Context(), file)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Beat(t.Context()))
	info, err := os.Stat(file)
	require.NoError(t, err)
	locks, err := os.ReadFile("/proc/locks")
	require.NoError(t, err)
	held := 0
	for line := range strings.Lines(string(locks)) {
		if strings.Contains(line, fmt.Sprintf(" %d ", os.Getpid())) && strings.Contains(line, fmt.Sprintf(":%d ", info.Sys().(*syscall.Stat_t).Ino)) {
			held++
		}
	}
	assert.Positive(t, held, string(locks))
}
