package image_test

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/host/image"
)

// member is one entry of an archive: a file, or with a target a link.
type member struct {
	name, content string
	kind          byte
	mode          int64
}

func file(name, content string) member { return member{name, content, tar.TypeReg, 0o644} }
func program(name string) member       { return member{name, "run", tar.TypeReg, 0o755} }
func link(name, target string) member  { return member{name, target, tar.TypeSymlink, 0o777} }
func dir(name string) member           { return member{name, "", tar.TypeDir, 0o755} }

var then = time.Date(2025, 3, 1, 0, 0, 0, 0, time.UTC)

func archive(t *testing.T, members ...member) []byte {
	t.Helper()
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, m := range members {
		h := &tar.Header{Name: m.name, Typeflag: m.kind, Mode: m.mode, ModTime: then}
		if m.kind == tar.TypeReg {
			h.Size = int64(len(m.content))
		} else {
			h.Linkname = m.content
		}
		require.NoError(t, w.WriteHeader(h))
		if m.kind == tar.TypeReg {
			_, err := w.Write([]byte(m.content))
			require.NoError(t, err)
		}
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func zipped(t *testing.T, data []byte) []byte {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := z.Write(data)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

// zstandard lets the program itself compress.
func zstandard(t *testing.T, data []byte) []byte {
	c := exec.Command("zstd", "-q", "-c", "-19")
	c.Stdin = bytes.NewReader(data)
	out, err := c.Output()
	require.NoError(t, err)
	return out
}

func text(t *testing.T, value any) string {
	data, err := json.Marshal(value)
	require.NoError(t, err)
	return string(data)
}

var settings = map[string]any{"architecture": "arm64", "os": "linux", "config": map[string]any{"Env": []string{"PATH=/opt/a/bin:/usr/bin", "SHED=x=y"}, "User": "moss"}}

// layers are two of one image: the second takes things of the first away.
func layers(t *testing.T) [][]byte {
	return [][]byte{
		archive(t, dir("usr"), dir("usr/lib"), link("lib", "usr/lib"), file("usr/lib/old", "1"), program("usr/bin/node"), dir("opt/kept"), file("opt/kept/a", "1"), file("opt/gone/b", "1"),
			file("etc/conf/one", "1"), file("etc/conf/two", "1"), link("var/run", "/run"), member{"usr/bin/nodejs", "usr/bin/node", tar.TypeLink, 0o755}),
		archive(t, file("lib/new", "2"), file("usr/lib/.wh.old", ""), file("opt/.wh.gone", ""), file("etc/conf/.wh..wh..opq", ""), file("etc/conf/three", "3"), file("var/run/pid", "4")),
	}
}

type compression func(*testing.T, []byte) []byte

func plain(_ *testing.T, data []byte) []byte { return data }

func saved(t *testing.T, compress compression) []member {
	members := []member{
		file("manifest.json", text(t, []map[string]any{{"Config": "c.json", "RepoTags": []string{"garden/kiosk:4"}, "Layers": []string{"a/layer.tar", "b/layer.tar"}}})),
		file("c.json", text(t, settings)),
	}
	for i, data := range layers(t) {
		data = compress(t, data)
		members = append(members, file([]string{"a/layer.tar", "b/layer.tar"}[i], string(data)))
	}
	return members
}

func openLayout(t *testing.T, compress compression) []member {
	members := []member{file("oci-layout", `{"imageLayoutVersion": "1.0.0"}`)}
	blob := func(data []byte) map[string]any {
		sum := sha256.Sum256(data)
		name := hex.EncodeToString(sum[:])
		members = append(members, file("blobs/sha256/"+name, string(data)))
		return map[string]any{"digest": "sha256:" + name, "size": len(data)}
	}
	var list []any
	for _, data := range layers(t) {
		list = append(list, blob(compress(t, data)))
	}
	inner := blob([]byte(text(t, map[string]any{"config": blob([]byte(text(t, settings))), "layers": list})))
	inner["annotations"] = map[string]string{"org.opencontainers.image.ref.name": "garden/kiosk:4"}
	return append(members, file("index.json", text(t, map[string]any{"manifests": []any{inner}})))
}

// lay writes members as files below a folder.
func lay(t *testing.T, members []member) string {
	root := t.TempDir()
	for _, m := range members {
		at := filepath.Join(root, m.name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(m.content), 0o644))
	}
	return root
}

func write(t *testing.T, data []byte) string {
	at := filepath.Join(t.TempDir(), "image.tar")
	require.NoError(t, os.WriteFile(at, data, 0o644))
	return at
}

func TestFormsOfImages(t *testing.T) {
	for name, at := range map[string]string{
		"saved":                           write(t, archive(t, saved(t, plain)...)),
		"saved, layers compressed":        write(t, archive(t, saved(t, zipped)...)),
		"saved, compressed":               write(t, zipped(t, archive(t, saved(t, plain)...))),
		"saved, compressed with zstd":     write(t, zstandard(t, archive(t, saved(t, plain)...))),
		"saved, unpacked":                 lay(t, saved(t, zipped)),
		"the open layout":                 lay(t, openLayout(t, zipped)),
		"the open layout, layers by zstd": lay(t, openLayout(t, zstandard)),
		"the open layout, archived":       write(t, archive(t, openLayout(t, zipped)...)),
	} {
		t.Run(name, func(t *testing.T) {
			assert.True(t, image.Is(at))
			into := t.TempDir()
			got, err := image.Unpack(t.Context(), at, into)
			require.NoError(t, err)
			assert.Equal(t, image.Image{Name: "garden/kiosk:4", OS: "linux", Arch: "arm64", User: "moss", Path: []string{"/opt/a/bin", "/usr/bin"},
				Env: map[string]string{"PATH": "/opt/a/bin:/usr/bin", "SHED": "x=y"}}, got)
			assert.Equal(t, []string{"etc/conf/three", "opt/kept/a", "run/pid", "usr/bin/node", "usr/bin/nodejs", "usr/lib/new"}, listed(t, into))
			info, err := os.Stat(filepath.Join(into, "usr/bin/node"))
			require.NoError(t, err)
			assert.NotZero(t, info.Mode()&0o100, "what may be run there may be run here")
			assert.Equal(t, then, info.ModTime().UTC())
		})
	}
}

func listed(t *testing.T, root string) []string {
	var out []string
	require.NoError(t, filepath.WalkDir(root, func(at string, d os.DirEntry, err error) error {
		require.NoError(t, err)
		if d.Type().IsRegular() {
			rest, err := filepath.Rel(root, at)
			require.NoError(t, err)
			out = append(out, filepath.ToSlash(rest))
		}
		return nil
	}))
	slices.Sort(out)
	return out
}

// TestWhatIsKeptOfLargeFiles: only the beginning of a large file is, but all of executables and
// of a system's packages.
func TestWhatIsKeptOfLargeFiles(t *testing.T) {
	large := strings.Repeat("moss", 5<<20)
	into := t.TempDir()
	_, err := image.Unpack(t.Context(), write(t, archive(t, dir("usr"), file("usr/lib/large", large), member{"usr/bin/bun", large, tar.TypeReg, 0o755}, file("var/lib/rpm/rpmdb.sqlite", large))), into)
	require.NoError(t, err)
	for name, end := range map[string]string{"usr/lib/large": "\x00\x00", "usr/bin/bun": "ss", "var/lib/rpm/rpmdb.sqlite": "ss"} {
		data, err := os.ReadFile(filepath.Join(into, name))
		require.NoError(t, err)
		assert.Len(t, data, len(large))
		assert.Equal(t, end, string(data[len(data)-2:]), name)
	}
}

// TestNothingLeavesTheFolder: names and links that lead out lead nowhere.
func TestNothingLeavesTheFolder(t *testing.T) {
	outside := t.TempDir()
	victim := filepath.Join(outside, "victim")
	require.NoError(t, os.WriteFile(victim, []byte("mine"), 0o644))
	root := archive(t, dir("usr"), dir("etc"), file("../../escaped", "x"), file("/abs", "x"), link("out", outside), file("out/planted", "x"), link("up", "../../../.."), file("up/planted", "x"),
		link("usr/self", "self"), file("usr/self/x", "x"), member{"etc/hard", victim, tar.TypeLink, 0o644}, file("etc/hard", "overwritten"),
		member{"dev/null", "", tar.TypeChar, 0o666}, member{"dev/pipe", "", tar.TypeFifo, 0o666}, file("usr", "no folder any more"), file("usr/y", "x"))
	into := t.TempDir()
	_, err := image.Unpack(t.Context(), write(t, root), into)
	require.NoError(t, err)
	content, err := os.ReadFile(victim)
	require.NoError(t, err)
	assert.Equal(t, "mine", string(content))
	entries, err := os.ReadDir(outside)
	require.NoError(t, err)
	assert.Len(t, entries, 1, "nothing was planted")
	assert.NoFileExists(t, filepath.Join(filepath.Dir(into), "escaped"))
	assert.FileExists(t, filepath.Join(into, "escaped"))
	assert.FileExists(t, filepath.Join(into, "abs"))
	_, err = os.Lstat(filepath.Join(into, "dev/pipe"))
	assert.ErrorIs(t, err, os.ErrNotExist, "only files, folders and links are made")
}

func TestNoImages(t *testing.T) {
	two := []map[string]any{{"Config": "c.json", "Layers": []string{}}, {"Config": "c.json", "Layers": []string{}}}
	for name, c := range map[string]struct {
		data []byte
		want string
	}{
		"no archive":               {[]byte("a list of seeds, and nothing else at all"), "no container image"},
		"an empty file":            {nil, "no container image"},
		"an archive":               {archive(t, file("seeds.txt", "x")), "no container image"},
		"cut off":                  {archive(t, saved(t, plain)...)[:2000], ""},
		"a missing layer":          {archive(t, file("manifest.json", text(t, []map[string]any{{"Config": "c.json", "Layers": []string{"gone"}}})), file("c.json", "{}")), "gone is missing"},
		"several images":           {archive(t, file("manifest.json", text(t, two)), file("c.json", "{}")), "2 images"},
		"no JSON":                  {archive(t, file("manifest.json", "[")), "manifest.json cannot be understood"},
		"a layer by zstd, cut off": {archive(t, file("manifest.json", text(t, []map[string]any{{"Config": "c.json", "Layers": []string{"l"}}})), file("c.json", "{}"), file("l", string(zstandard(t, layers(t)[0])[:40]))), "layer l"},
		"a damaged layer":          {archive(t, file("manifest.json", text(t, []map[string]any{{"Config": "c.json", "Layers": []string{"l"}}})), file("c.json", "{}"), file("l", "not a layer")), "layer l"},
		"a digest of a path":       {archive(t, file("oci-layout", "{}"), file("index.json", `{"manifests": [{"digest": "sha256:../../etc/passwd"}]}`)), "no digest"},
	} {
		_, err := image.Unpack(t.Context(), write(t, c.data), t.TempDir())
		require.Error(t, err, name)
		assert.ErrorContains(t, err, c.want, name)
	}
}
