package image

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAnImageThatIsATrap: a few hundred kilobytes that unpack to gigabytes are refused long before.
func TestAnImageThatIsATrap(t *testing.T) {
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	archive := tar.NewWriter(z)
	zeros := make([]byte, 16<<20)
	for i := range 6 { // programs are kept whole
		name := filepath.Join("usr/bin", string(rune('a'+i)))
		require.NoError(t, archive.WriteHeader(&tar.Header{Name: name, Mode: 0o755, Size: int64(len(zeros)), Typeflag: tar.TypeReg}))
		_, err := archive.Write(zeros)
		require.NoError(t, err)
	}
	require.NoError(t, archive.Close())
	require.NoError(t, z.Close())
	require.Less(t, packed.Len(), 1<<20)
	at, into := filepath.Join(t.TempDir(), "trap.tar.gz"), t.TempDir()
	require.NoError(t, os.WriteFile(at, packed.Bytes(), 0o600))
	temp := t.TempDir()
	t.Setenv("TMPDIR", temp)
	_, err := Unpack(t.Context(), at, into)
	assert.ErrorContains(t, err, "it takes more than 50 times its size unpacked")
	left, err := os.ReadDir(temp)
	require.NoError(t, err)
	assert.Empty(t, left, "nothing is left behind")
}

func TestAllowance(t *testing.T) {
	room := func(free uint64) *allowance {
		return &allowance{packed: 1 << 30, free: func(string) (uint64, bool) { return free, true }}
	}
	for name, c := range map[string]struct {
		room  *allowance
		spend []int
		says  string
	}{
		"what people build":        {room(100 << 30), []int{1 << 30, 1 << 30}, ""},
		"four gigabytes":           {room(100 << 30), []int{3 << 30, 1<<30 + 1}, "it takes more than 4 GB unpacked"},
		"a full disk":              {room(1 << 29), []int{lookEvery}, "the disk has less than 1 GB left"},
		"a full disk, and a mouse": {room(1 << 29), []int{1 << 20}, ""},
		"a folder has no size":     {&allowance{packed: -1, free: freeOn}, []int{plainUnpacked + 1}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			if name == "a folder has no size" {
				c.room.free = func(string) (uint64, bool) { return 0, false }
			}
			var err error
			for _, n := range c.spend {
				if err = c.room.spend(n); err != nil {
					break
				}
			}
			if c.says == "" {
				assert.NoError(t, err)
				return
			}
			assert.ErrorContains(t, err, c.says)
		})
	}
	_, err := room(0).writer(io.Discard).Write(make([]byte, 10))
	assert.NoError(t, err)
}
