package rpmdb

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/binary"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// spec makes two packages: one of a toolchain with so many files that what is kept of it
// does not fit on a page, and one without any.
const spec = `
Name: trowel
Version: 3.12.7
Release: 2
Summary: A trowel
License: none
BuildArch: noarch
%description
For digging.
%package -n seed-ledger
Summary: A ledger
Version: 4.0~rc1
%description -n seed-ledger
For counting.
%install
mkdir -p %{buildroot}/usr/bin %{buildroot}/opt/trowel/bin %{buildroot}/usr/share/trowel
printf dig > %{buildroot}/usr/bin/trowel3.12
ln -s trowel3.12 %{buildroot}/usr/bin/trowel
printf deep > %{buildroot}/opt/trowel/bin/trowel-deep
for i in $(seq 400); do printf leaf > %{buildroot}/usr/share/trowel/leaf-$i; done
%files
/usr/bin/trowel*
/opt/trowel
/usr/share/trowel
%files -n seed-ledger
`

var want = []Package{
	{Name: "seed-ledger", Version: "4.0~rc1", Release: "2"},
	{Name: "trowel", Version: "3.12.7", Release: "2", Size: 3 + 4 + 400*4 + int64(len("trowel3.12")), Files: []string{"/opt/trowel/bin/trowel-deep", "/usr/bin/trowel", "/usr/bin/trowel3.12"}},
}

func inBin(folder string) bool { return strings.HasSuffix(folder, "bin/") }

func run(t *testing.T, stdin string, name string, args ...string) {
	t.Helper()
	c := exec.Command(name, args...)
	c.Stdin = strings.NewReader(stdin)
	said, err := c.CombinedOutput()
	require.NoError(t, err, "%s", said)
}

// installed is the database that RPM itself makes of the packages.
func installed(t *testing.T) string {
	dir := t.TempDir()
	at := filepath.Join(dir, "trowel.spec")
	require.NoError(t, os.WriteFile(at, []byte(spec), 0o600))
	run(t, "", "rpmbuild", "-bb", "--quiet", "-D", "_topdir "+dir, at)
	files, err := filepath.Glob(dir + "/RPMS/noarch/*.rpm")
	require.NoError(t, err)
	require.Len(t, files, 2)
	kept := t.TempDir()
	run(t, "", "rpm", append([]string{"--dbpath", kept, "-i", "--justdb", "--nodeps", "--ignoreos"}, files...)...)
	return filepath.Join(kept, "rpmdb.sqlite")
}

// headers are what a database keeps, as it is kept.
func headers(t *testing.T, file string) (out [][]byte) {
	db, err := sql.Open("sqlite", file)
	require.NoError(t, err)
	defer db.Close()
	rows, err := db.Query(`SELECT blob FROM Packages`)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var one []byte
		require.NoError(t, rows.Scan(&one))
		out = append(out, one)
	}
	return out
}

// asHash lets Berkeley DB's own loader write the packages, as older systems keep them.
func asHash(t *testing.T, headers [][]byte) string {
	var text strings.Builder
	text.WriteString("VERSION=3\nformat=bytevalue\ntype=hash\ndb_pagesize=4096\nHEADER=END\n 00000000\n 02000000\n")
	for i, h := range headers {
		fmt.Fprintf(&text, " %02x000000\n %x\n", i+1, h)
	}
	text.WriteString("DATA=END\n")
	file := filepath.Join(t.TempDir(), "Packages")
	run(t, text.String(), "db5.3_load", file)
	return file
}

// asSlots writes the packages into a table of slots; the first slots are free.
func asSlots(t *testing.T, headers [][]byte) string {
	little := binary.LittleEndian
	file := make([]byte, slotPage)
	copy(file, "RpmP")
	little.PutUint32(file[12:], 1)
	for at := 2 * slotSize; at < slotPage; at += slotSize {
		copy(file[at:], "Slot")
	}
	for i, h := range headers {
		slot := file[(4+i)*slotSize:]
		little.PutUint32(slot[4:], uint32(i+1))
		little.PutUint32(slot[8:], uint32(len(file)/slotSize))
		blob := make([]byte, slotSize)
		copy(blob, "BlbS")
		little.PutUint32(blob[4:], uint32(i+1))
		little.PutUint32(blob[12:], uint32(len(h)))
		file = append(append(file, blob...), h...)
		file = append(file, make([]byte, slotSize-len(file)%slotSize)...)
	}
	at := filepath.Join(t.TempDir(), "Packages.db")
	require.NoError(t, os.WriteFile(at, file, 0o600))
	return at
}

func TestEveryKindOfDatabase(t *testing.T) {
	asTable := installed(t)
	kept := headers(t, asTable)
	require.Len(t, kept, 2)
	for kind, file := range map[string]string{"SQLite": asTable, "a hash": asHash(t, kept), "slots": asSlots(t, kept)} {
		t.Run(kind, func(t *testing.T) {
			before, err := os.ReadDir(filepath.Dir(file))
			require.NoError(t, err)
			got, err := Read(t.Context(), file, inBin)
			require.NoError(t, err)
			slices.SortFunc(got, func(a, b Package) int { return strings.Compare(a.Name, b.Name) })
			for _, one := range got {
				slices.Sort(one.Files)
			}
			assert.Equal(t, want, got)
			after, err := os.ReadDir(filepath.Dir(file))
			require.NoError(t, err)
			assert.Len(t, after, len(before), "nothing is written beside it")

			whole, err := os.ReadFile(file)
			require.NoError(t, err)
			for _, share := range []int{0, 1, 10, 50, 90, 99} { // a file that was not copied wholly
				require.NoError(t, os.WriteFile(file, whole[:len(whole)*share/100], 0o600))
				got, err := Read(t.Context(), file, inBin)
				assert.True(t, err != nil || len(got) <= 2, "%d %%", share)
			}
		})
	}
}

func TestWhatIsNoDatabase(t *testing.T) {
	dir := t.TempDir()
	_, err := Read(t.Context(), filepath.Join(dir, "none"), inBin)
	assert.ErrorIs(t, err, os.ErrNotExist)
	for name, data := range map[string][]byte{"empty": nil, "text": bytes.Repeat([]byte("moss "), 100), "slots without any": []byte("RpmP" + strings.Repeat("\x00", 60))} {
		at := filepath.Join(dir, "file")
		require.NoError(t, os.WriteFile(at, data, 0o600))
		got, err := Read(t.Context(), at, inBin)
		assert.Empty(t, got, name)
		assert.True(t, err != nil || name == "slots without any", name)
	}
	pipe := filepath.Join(dir, "pipe") // nobody writes into it
	require.NoError(t, syscall.Mkfifo(pipe, 0o600))
	_, err = Read(t.Context(), pipe, inBin)
	assert.ErrorIs(t, err, ErrUnknown)
	at := filepath.Join(dir, "view.sqlite") // what is computed without an end is not asked for
	db, err := sql.Open("sqlite", at)
	require.NoError(t, err)
	_, err = db.Exec(`CREATE VIEW Packages AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT zeroblob(8) AS blob FROM n`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = Read(t.Context(), at, inBin)
	assert.ErrorIs(t, err, ErrUnknown)
}

// FuzzRead reads what nobody wrote: nothing is believed that leads out of the file.
func FuzzRead(f *testing.F) {
	f.Add([]byte("RpmP\x00\x00\x00\x00\x00\x00\x00\x00\x01\x00\x00\x00"))
	hash := make([]byte, 3*512)
	binary.LittleEndian.PutUint32(hash[atMagic:], hashMagic)
	binary.LittleEndian.PutUint32(hash[atPageSize:], 512)
	hash[512+atKind], hash[512+atCount] = pageHash, 2
	hash[1024+atKind] = pageOn
	f.Add(hash)
	f.Fuzz(func(t *testing.T, data []byte) {
		take := func(header []byte) error {
			if one, ok := parse(header, inBin); ok {
				assert.NotEmpty(t, one.Name)
			}
			return context.Cause(t.Context())
		}
		take(data)
		_ = readSlots(contentOf(bytes.NewReader(data), int64(len(data))), take)
		_ = readHash(contentOf(bytes.NewReader(data), int64(len(data))), take)
	})
}
