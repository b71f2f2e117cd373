package repo

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestRefsInTables: what git 2.47 wrote is read as that git reads it, in both lengths of names.
func TestRefsInTables(t *testing.T) {
	for _, format := range []string{"sha1", "sha256"} {
		at := layout{git: t.TempDir()}
		at.common = at.git
		require.NoError(t, os.CopyFS(filepath.Join(at.git, "reftable"), os.DirFS(filepath.Join("testdata/tables", format))))
		config := "[core]\n\trepositoryformatversion = 1\n[extensions]\n\tobjectformat = " + format + "\n\trefstorage = reftable\n"
		require.NoError(t, os.WriteFile(filepath.Join(at.git, "config"), []byte(config), 0o644))
		require.NoError(t, os.WriteFile(filepath.Join(at.git, "HEAD"), []byte("ref: refs/heads/.invalid\n"), 0o644))
		said, err := os.ReadFile(filepath.Join("testdata/tables", format+".refs"))
		require.NoError(t, err)
		n := 0
		for line := range strings.Lines(string(said)) {
			name, id, _ := strings.Cut(strings.TrimSpace(line), " ")
			got, err := at.ref(name)
			assert.NoError(t, err, name)
			assert.Equal(t, id, got, name)
			n++
		}
		assert.Greater(t, n, 60)
		_, err = at.ref("refs/heads/fix/#1-größe")
		assert.ErrorIs(t, err, errNoRef, "it was removed in a newer table")
		id, err := at.find("fix/#2-größe")
		assert.NoError(t, err)
		assert.Len(t, id, at.nameSize()*2)
		_, err = at.ref("refs/heads/none")
		assert.ErrorIs(t, err, errNoRef)
	}
}

// FuzzTables: whatever a table holds, looking something up ends.
func FuzzTables(f *testing.F) {
	for _, file := range []string{"sha1/0x000000000001-0x00000000000e-ef63b79a.ref", "sha1/0x00000000000f-0x000000000011-2e599a09.ref"} {
		data, err := os.ReadFile(filepath.Join("testdata/tables", file))
		require.NoError(f, err)
		f.Add(data, "refs/heads/main")
	}
	f.Fuzz(func(t *testing.T, data []byte, name string) {
		one, there, err := lookUp(data, name)
		if err != nil || !there {
			assert.Equal(t, tabled{}, one)
		}
	})
}

func TestNamesOfRefs(t *testing.T) {
	for name, want := range map[string]bool{
		"HEAD": true, "FETCH_HEAD": true, "refs/heads/main": true, "refs/heads/fix/#42": true, "refs/heads/bots/npm/@types/node": true, "refs/heads/größe": true, "refs/heads/x=1": true, "refs/heads/日本": true,
		"refs/heads/a(b),!%&'{}$": true, "refs/heads/@": true, "main": false, "refs/heads/../x": false, "refs/heads/.x": false, "refs/heads/x.lock": false, "refs/heads//x": false, "refs/heads/": false,
		"refs/heads/a b": false, "refs/heads/a~1": false, "refs/heads/a\\b": false, "refs/heads/a\x01": false, "refs/heads/a@{1}": false, "refs/heads/x.": false, "refs/heads/\xff": false, "": false, "../HEAD": false, "config": false,
	} {
		assert.Equal(t, want, isRef(name), name)
	}
}
