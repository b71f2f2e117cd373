package probe

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestPathsOfWindows(t *testing.T) {
	for _, c := range []struct{ windows, kept, again string }{
		{`C:\Program Files\nodejs`, "/Program Files/nodejs", ""},
		{`c:\tools\`, "/tools", `C:\tools`},
		{`C:\`, "/", ""},
		{`C:/mixed\strokes`, "/mixed/strokes", `C:\mixed\strokes`},
		{`D:\jdks\21`, "/d:/jdks/21", ""},
		{`d:`, "/d:", `D:\`},
		{`\tools`, "/tools", `C:\tools`},
		{`\\shed\share\jdk`, "/unc:/shed/share/jdk", ""},
		{`\\?\C:\long`, "/long", `C:\long`},
		{`C:\a\..\..\b`, "/b", `C:\b`},
	} {
		assert.Equal(t, c.kept, fromWindows(c.windows, "C:"), c.windows)
		if c.again == "" {
			c.again = c.windows
		}
		assert.Equal(t, c.again, toWindows(c.kept, "C:"), c.kept)
	}
	assert.Equal(t, "/c:/Users", fromWindows(`C:\Users`, "E:"))
	assert.Equal(t, `C:\Users`, toWindows("/c:/Users", "E:"))
	assert.Equal(t, `E:\Windows`, toWindows("/Windows", "E:"))
	assert.Empty(t, fromWindows("", "C:"))
}

// TestPathsOfWindowsComeBack: what is kept is written as it was, on whatever drive.
func TestPathsOfWindowsComeBack(t *testing.T) {
	part := rapid.StringMatching(`[A-Za-z0-9_.() -]{0,6}[A-Za-z0-9_]`)
	rapid.Check(t, func(t *rapid.T) {
		system := rapid.SampledFrom([]string{"C:", "E:"}).Draw(t, "system")
		begin := rapid.SampledFrom([]string{`C:\`, `D:\`, `E:\`, `\\shed\`}).Draw(t, "begin")
		at := begin + strings.Join(rapid.SliceOfN(part, 1, 5).Draw(t, "parts"), `\`)
		kept := fromWindows(at, system)
		require.True(t, strings.HasPrefix(kept, "/"), kept)
		require.NotContains(t, kept, `\`)
		require.Equal(t, at, toWindows(kept, system))
		require.Equal(t, kept, fromWindows(strings.ReplaceAll(at, `\`, "/"), system), "with slashes, too")
		require.Equal(t, kept, fromWindows(strings.ToLower(at[:2])+at[2:], system), "a drive in either case")
	})
}

// TestCasesDoNotCount: what is asked for in other letters is found as it is called.
func TestCasesDoNotCount(t *testing.T) {
	root := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(root, "Program Files", "Go", "bin"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(root, "Program Files", "Go", "bin", "go.exe"), []byte("MZ"), 0o644))
	require.NoError(t, os.Symlink(`C:\Program Files\Go`, filepath.Join(root, "current")))
	require.NoError(t, os.Symlink(`Program Files\go\BIN`, filepath.Join(root, "here")))
	d := disk{root: root, drive: "C:", names: &names{}}
	for _, at := range []string{"/program files/GO/bin/go.EXE", "/current/bin/go.exe", "/Here/go.exe"} {
		real, err := d.real(at)
		require.NoError(t, err, at)
		assert.Equal(t, "/Program Files/Go/bin/go.exe", real)
		assert.True(t, d.exists(at), at)
	}
	_, err := d.real("/program files/rust")
	assert.ErrorIs(t, err, os.ErrNotExist)
	_, err = d.real("/d:/jdks")
	assert.ErrorIs(t, err, os.ErrNotExist)
	require.NoError(t, os.Symlink("circle", filepath.Join(root, "circle")))
	_, err = d.real("/circle/x")
	assert.ErrorContains(t, err, "circle")
}
