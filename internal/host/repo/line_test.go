package repo_test

import (
	"bytes"
	"compress/zlib"
	"crypto/sha1"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"hash/crc32"
	"io/fs"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/repo"
)

// TestAnyNameOfABranch that git allows is followed, loose and packed, and the revisions behind it
// as git follows them.
func TestAnyNameOfABranch(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "beds")
	for i := range 4 {
		commit(t, dir, map[string]string{".node-version": fmt.Sprint(20+i) + "\n"})
	}
	git(t, dir, "checkout", "-qb", "other", "HEAD~2")
	commit(t, dir, map[string]string{"x": "1"})
	git(t, dir, "merge", "-q", "main", "-m", "both")
	git(t, dir, "tag", "-a", "heavy", "-m", "m", "HEAD~1")
	names := []string{"fix/#42", "bots/npm/@types/node", "größe", "x=1", "a(b)!%&'{}$", "日本"}
	for _, name := range names {
		git(t, dir, "branch", name)
	}
	l := repo.Location{Name: "beds", Path: dir, Kind: repo.Git}
	for _, packed := range []bool{false, true} {
		if packed {
			git(t, dir, "pack-refs", "--all")
			git(t, dir, "repack", "-adq")
		}
		head := git(t, dir, "rev-parse", "HEAD")
		asked := []string{"HEAD", "@", "main~1", "main~", "other^2", "other^2~1", "other^", "heavy", "heavy^{}", "heavy^{commit}", "heavy~1", "refs/tags/heavy", head[:9], head[:9] + "~1", "HEAD^0", "HEAD~2^{commit}"}
		for _, name := range append(asked, names...) {
			tree, err := repo.Open(t.Context(), l, repo.Reading{Ref: name})
			if assert.NoError(t, err, name) {
				assert.Equal(t, git(t, dir, "rev-parse", "--verify", name+"^{commit}"), tree.Commit, name)
				require.NoError(t, tree.Close())
			}
		}
		for _, name := range []string{"main~99", "main^3", "none", "HEAD:./x", "@{-1}", ":/x", "main@{1}", "HEAD^{tree}", "main..other", "-x", strings.Repeat("~", 2000), "HEAD~99999999999999999999", "HEAD~20000", "abc"} {
			_, err := repo.Open(t.Context(), l, repo.Reading{Ref: name})
			assert.Error(t, err, name)
		}
	}
	for _, name := range names {
		git(t, dir, "checkout", "-q", name)
		assert.Equal(t, git(t, dir, "rev-parse", "HEAD"), repo.CommitOf(l, repo.Reading{}), name)
	}
}

// TestPartsThatLeadOut: no link below .git leads out of it, whichever part it stands for, and
// nothing of a configuration is asked.
func TestPartsThatLeadOut(t *testing.T) {
	root := t.TempDir()
	vault := filepath.Join(root, "vault")
	secret := commit(t, vault, map[string]string{".node-version": "99.98.97\n"})
	folders, err := filepath.Glob(filepath.Join(vault, ".git/objects/??"))
	require.NoError(t, err)
	var fanOut []string
	for _, at := range folders {
		fanOut = append(fanOut, "objects/"+filepath.Base(at))
	}
	for name, parts := range map[string][]string{"folders of objects": fanOut, "refs": {"refs"}, "heads": {"refs/heads"}, "a head": {"refs/heads/main"}, "packed refs": {"packed-refs"}, "the head": {"HEAD"}, "packs": {"objects/pack"}} {
		t.Run(name, func(t *testing.T) {
			dir := filepath.Join(root, "allowed", strings.ReplaceAll(name, " ", "-"))
			commit(t, dir, map[string]string{".node-version": "22\n"})
			if name == "packs" {
				git(t, vault, "repack", "-aq")
			}
			for _, part := range parts {
				at := filepath.Join(dir, ".git", part)
				require.NoError(t, errors.Join(os.MkdirAll(filepath.Dir(at), 0o755), os.RemoveAll(at), os.Symlink(filepath.Join(vault, ".git", part), at)))
			}
			for _, head := range []string{secret, "ref: refs/heads/main"} {
				if name != "the head" {
					require.NoError(t, os.WriteFile(filepath.Join(dir, ".git/HEAD"), []byte(head+"\n"), 0o644))
				}
				for _, within := range []repo.Within{nil, {filepath.Join(root, "allowed")}} {
					l := repo.Location{Path: dir, Kind: repo.Git}
					tree, err := repo.Open(t.Context(), l, repo.Reading{Within: within})
					if err == nil {
						text, _ := fs.ReadFile(tree, ".node-version")
						assert.NotContains(t, string(text), "99.98.97")
						require.NoError(t, tree.Close())
						continue
					}
					assert.NotContains(t, err.Error(), "99.98.97")
				}
			}
		})
	}
	dir := filepath.Join(root, "including")
	commit(t, dir, map[string]string{"x": "1"})
	word := filepath.Join(root, "word")
	require.NoError(t, os.WriteFile(word, []byte("hunter2\n"), 0o644))
	git(t, dir, "config", "-f", ".git/config", "include.path", word)
	require.NoError(t, os.WriteFile(filepath.Join(dir, ".git/HEAD"), []byte("ref: refs/heads/.invalid\n"), 0o644))
	_, err = repo.Open(t.Context(), repo.Location{Path: dir, Kind: repo.Git}, repo.Reading{})
	require.Error(t, err)
	assert.NotContains(t, err.Error(), "hunter2")
}

// TestModesAreReadAsGitDoes: the kind of an entry is told by a part of its mode alone.
func TestModesAreReadAsGitDoes(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "beds")
	commit(t, dir, map[string]string{"a": "1"})
	blob := object(t, dir, "blob", []byte("22.11.0\n"))
	inner := treeOf(t, dir, [3]string{"100600", ".node-version", blob})
	outer := treeOf(t, dir, [3]string{"100640", ".node-version", blob}, [3]string{"040000", "deep", inner}, [3]string{"160000", "module", blob})
	git(t, dir, "update-ref", "refs/heads/main", object(t, dir, "commit", []byte("tree "+outer+"\nauthor a <a> 1 +0000\ncommitter a <a> 1 +0000\n\nx\n")))
	tree, err := repo.Open(t.Context(), repo.Location{Path: dir, Kind: repo.Git}, repo.Reading{})
	require.NoError(t, err)
	defer tree.Close()
	var seen []string
	require.NoError(t, fs.WalkDir(tree.FS, ".", func(name string, d fs.DirEntry, err error) error {
		seen = append(seen, name)
		return err
	}))
	assert.Equal(t, []string{".", ".node-version", "deep", "deep/.node-version", "module"}, seen)
}

// TestDeltasHaveAnEnd: thousands of deltas of a large file on each other, which take a few bytes
// each, end by what they take, whatever else the machine does.
func TestDeltasHaveAnEnd(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "beds")
	commit(t, dir, map[string]string{".node-version": "22\n"})
	id := deltaBomb(t, filepath.Join(dir, ".git/objects/pack"), 7<<20, 2_000)
	sum := sha1.Sum([]byte("made up 1990"))
	other := hex.EncodeToString(sum[:])
	tree := treeOf(t, dir, [3]string{"100644", "other.json", other}, [3]string{"100644", "package.json", id})
	git(t, dir, "update-ref", "refs/heads/main", object(t, dir, "commit", []byte("tree "+tree+"\nauthor a <a> 1 +0000\ncommitter a <a> 1 +0000\n\nx\n")))
	for range 2 {
		opened, err := repo.Open(t.Context(), repo.Location{Path: dir, Kind: repo.Git}, repo.Reading{})
		require.NoError(t, err)
		_, err = fs.ReadFile(opened, "package.json")
		assert.ErrorContains(t, err, "takes more work")
		work := opened.FS.(interface{ Work() int64 }).Work()
		assert.Greater(t, work, int64(80_000_000))
		assert.Less(t, work, int64(100_000_000))
		_, err = fs.ReadFile(opened, "other.json")
		assert.ErrorContains(t, err, "takes more work")
		assert.Less(t, opened.FS.(interface{ Work() int64 }).Work()-work, int64(10_000_000), "what stands on it is not tried again")
		require.NoError(t, opened.Close())
	}
}

// deltaBomb writes a pack with a blob and deltas that copy all of it, each on the one before.
func deltaBomb(t *testing.T, folder string, size, deltas int) string {
	t.Helper()
	var pack bytes.Buffer
	pack.WriteString("PACK")
	require.NoError(t, binary.Write(&pack, binary.BigEndian, []uint32{2, uint32(deltas + 1)}))
	type entry struct {
		id     []byte
		crc    uint32
		offset int
	}
	var entries []entry
	content := bytes.Repeat([]byte("a"), size)
	add := func(kind int, base []byte, data []byte) {
		at := pack.Len()
		n := len(data)
		first := byte(kind<<4 | n&15)
		n >>= 4
		for n > 0 {
			pack.WriteByte(first | 0x80)
			first = byte(n & 0x7f)
			n >>= 7
		}
		pack.WriteByte(first)
		pack.Write(base)
		z := zlib.NewWriter(&pack)
		_, err := z.Write(data)
		require.NoError(t, errors.Join(err, z.Close()))
		entries = append(entries, entry{nil, crc32.ChecksumIEEE(pack.Bytes()[at:]), at})
	}
	whole := func(b []byte) []byte {
		sum := sha1.Sum(append([]byte(fmt.Sprintf("blob %d\x00", len(b))), b...))
		return sum[:]
	}
	uvarint := func(n int) (out []byte) {
		for ; n > 0x7f; n >>= 7 {
			out = append(out, byte(n)|0x80)
		}
		return append(out, byte(n))
	}
	add(3, nil, content)
	base := whole(content)
	entries[0].id = base
	for i := range deltas {
		delta := append(uvarint(size), uvarint(size)...)
		for at := 0; at < size; at += 0xffffff {
			length := min(0xffffff, size-at)
			delta = append(delta, 0x80|0x0f|0x70, byte(at), byte(at>>8), byte(at>>16), byte(at>>24), byte(length), byte(length>>8), byte(length>>16))
		}
		add(7, base, delta)
		id := sha1.Sum([]byte(fmt.Sprint("made up ", i))) // nobody compares
		base = id[:]
		entries[len(entries)-1].id = base
	}
	last := hex.EncodeToString(base)
	sum := sha1.Sum(pack.Bytes())
	pack.Write(sum[:])
	sort.Slice(entries, func(i, j int) bool { return bytes.Compare(entries[i].id, entries[j].id) < 0 })
	var index bytes.Buffer
	index.WriteString("\xfftOc\x00\x00\x00\x02")
	for b := range 256 {
		n := sort.Search(len(entries), func(i int) bool { return int(entries[i].id[0]) > b })
		require.NoError(t, binary.Write(&index, binary.BigEndian, uint32(n)))
	}
	for _, e := range entries {
		index.Write(e.id)
	}
	for _, e := range entries {
		require.NoError(t, binary.Write(&index, binary.BigEndian, e.crc))
	}
	for _, e := range entries {
		require.NoError(t, binary.Write(&index, binary.BigEndian, uint32(e.offset)))
	}
	index.Write(sum[:])
	check := sha1.Sum(index.Bytes())
	index.Write(check[:])
	require.NoError(t, errors.Join(os.WriteFile(filepath.Join(folder, "pack-bomb.pack"), pack.Bytes(), 0o644), os.WriteFile(filepath.Join(folder, "pack-bomb.idx"), index.Bytes(), 0o644)))
	return last
}
