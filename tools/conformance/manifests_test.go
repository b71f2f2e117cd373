package conformance

import (
	"bytes"
	"encoding/json"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/mod/modfile"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/reading"
)

// nodeVersions are asked of every range that a real package.json states.
var nodeVersions = []string{"0.10.48", "0.12.18", "4.0.0", "6.0.0", "6.9.0", "8.0.0", "8.10.0", "10.0.0", "10.12.0", "11.0.0", "12.0.0", "12.20.0", "12.22.12", "13.7.0", "14.0.0", "14.17.0",
	"14.18.0", "14.21.3", "15.0.0", "16.0.0", "16.13.0", "16.20.2", "17.9.1", "18.0.0", "18.12.0", "18.17.0", "18.20.8", "19.0.0", "20.0.0", "20.9.0", "20.19.0", "21.7.3", "22.0.0", "22.12.0", "23.0.0", "24.0.0", "24.15.0", "26.0.0"}

// manifests finds the files whose names end so below folders.
func manifests(t *testing.T, ending string, below ...string) []string {
	t.Helper()
	var out []string
	for _, dir := range below {
		err := filepath.WalkDir(dir, func(file string, e fs.DirEntry, err error) error {
			if err == nil && e.Type().IsRegular() && strings.HasSuffix(e.Name(), ending) {
				out = append(out, file)
			}
			return nil
		})
		require.NoError(t, err)
	}
	return out
}

func readOne(t *testing.T, r *reading.Reader, name, file string) fact.Reading {
	t.Helper()
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	return r.Read(fstest.MapFS{name: {Data: data, Mode: 0o644}})
}

func newReader(t *testing.T) (*reading.Reader, *catalogue.Catalogue) {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	r, err := reading.New(c)
	require.NoError(t, err)
	return r, c
}

// TestRealPackageManifests: every package.json that npm installed for the console, and
// every one of npm's own, gives the range that npm reads from it.
func TestRealPackageManifests(t *testing.T) {
	r, c := newReader(t)
	node, _ := c.Tool("node")
	npm, err := exec.LookPath("npm")
	require.NoError(t, err)
	npm, err = filepath.EvalSymlinks(npm)
	require.NoError(t, err)
	files := manifests(t, "package.json", "../../console/node_modules", filepath.Dir(filepath.Dir(npm)))
	require.Greater(t, len(files), 100)
	for i := range files {
		files[i], err = filepath.Abs(files[i])
		require.NoError(t, err)
	}
	cmd := exec.Command("node", "references/manifests.js", npm, strings.Join(nodeVersions, ","))
	cmd.Stdin = strings.NewReader(strings.Join(files, "\n"))
	out, err := cmd.Output()
	require.NoError(t, err)
	answers := bytes.Split(bytes.TrimSpace(out), []byte{'\n'})
	require.Len(t, answers, len(files))
	stated, refused := 0, 0
	for i, file := range files {
		var want struct{ Raw, Admits, Error string }
		require.NoError(t, json.Unmarshal(answers[i], &want))
		if want.Error != "" { // a test's deliberately broken file
			refused++
			continue
		}
		raw, admits := "", ""
		for _, cl := range readOne(t, r, "package.json", file).Claims {
			if cl.Tool != "node" || cl.Role != claim.Bound {
				continue
			}
			raw = cl.Raw
			if w, err := cl.Want(node); err == nil {
				for _, text := range nodeVersions {
					v, err := node.Scheme().Parse(text)
					require.NoError(t, err)
					admits += map[bool]string{true: "1", false: "0"}[w.Set.Contains(v)]
				}
			}
		}
		if raw != "" {
			stated++
		}
		assert.Equal(t, strings.TrimSpace(want.Raw), raw, file)
		assert.Equal(t, want.Admits, admits, "%s: %s", file, raw)
	}
	t.Logf("%d package.json read, %d state a range of Node.js, %d are refused by npm", len(files), stated, refused)
}

// TestRealModuleFiles: every go.mod in the module cache, unpacked and as it was
// downloaded, gives the go and toolchain lines that x/mod reads.
func TestRealModuleFiles(t *testing.T) {
	r, _ := newReader(t)
	out, err := exec.Command("go", "env", "GOMODCACHE").Output()
	require.NoError(t, err)
	cache := strings.TrimSpace(string(out))
	files := manifests(t, ".mod", cache)
	require.Greater(t, len(files), 50)
	stated := 0
	for _, file := range files {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		wantGo, wantToolchain := "", ""
		f, err := modfile.Parse(file, data, nil)
		if err != nil {
			f, err = modfile.ParseLax(file, data, nil)
		}
		if err == nil && f.Go != nil {
			wantGo = f.Go.Version
			stated++
		}
		if err == nil && f.Toolchain != nil {
			wantToolchain = strings.TrimPrefix(f.Toolchain.Name, "go")
		}
		gotGo, gotToolchain := "", ""
		for _, c := range readOne(t, r, "go.mod", file).Claims {
			switch c.Role {
			case claim.Bound:
				gotGo = c.Raw
			case claim.Pin:
				gotToolchain = c.Raw
			}
		}
		assert.Equal(t, wantGo, gotGo, file)
		assert.Equal(t, wantToolchain, gotToolchain, file)
	}
	t.Logf("%d module files read, %d state a Go version", len(files), stated)
}
