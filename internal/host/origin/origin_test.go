package origin_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/host/origin"
)

func git(t *testing.T, dir string, args ...string) string {
	t.Helper()
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=fern", "-c", "user.email=fern@trust.invalid", "-c", "protocol.file.allow=always"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%v: %s", args, out)
	return strings.TrimSpace(string(out))
}

func lay(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for name, text := range files {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o755))
	}
}

// machine is one whose home is a folder of the test's.
func machine(t *testing.T, home string) *origin.Machine {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(c)
	require.NoError(t, err)
	shared := c.Places().Machines.SharedBy([]string{home})
	return origin.On(origin.Disk(home), reader, func(dir string) bool { return shared(dir) || dir == filepath.Dir(home) })
}

// node is an installation of Node.js whose home is a folder.
func node(home string) origin.File {
	return origin.File{Path: home + "/bin/node", Home: home, Tool: "node"}
}

// TestWhatGitTracks is told in every form in which git keeps its index, as git tells it.
func TestWhatGitTracks(t *testing.T) {
	for form, prepare := range map[string][][]string{
		"version 2":       {{"update-index", "--index-version", "2"}},
		"version 3":       {{"update-index", "--index-version", "3"}, {"add", "-N", "later"}},
		"version 4":       {{"update-index", "--index-version", "4"}},
		"split":           {{"update-index", "--split-index"}, {"add", "later"}},
		"sparse":          {{"sparse-checkout", "set", "--cone", "--sparse-index", "kept"}},
		"packed":          {{"gc", "-q"}},
		"untracked cache": {{"update-index", "--force-untracked-cache"}, {"status"}},
	} {
		t.Run(form, func(t *testing.T) {
			home := t.TempDir()
			dir := filepath.Join(home, ".beds")
			lay(t, dir, map[string]string{"node/24.5.0/bin/node": "x", "kept/a/b/c": "x", "kept/aa": "x", "größe/x": "x", "z": "x", strings.Repeat("long/", 60) + "x": "x"})
			git(t, dir, "init", "-q", "-b", "main")
			git(t, dir, "add", "-A")
			git(t, dir, "commit", "-qm", "1")
			lay(t, dir, map[string]string{"later": "x"})
			for _, args := range prepare {
				git(t, dir, args...)
			}
			lay(t, dir, map[string]string{"kept/versions/22.1.0/bin/node": "x", "node/24.5.0/bin/node": "x", "kept/b": "x"})
			m := machine(t, home)
			for _, file := range []string{"node/24.5.0/bin/node", "kept/a/b/c", "kept/aa", "z", strings.Repeat("long/", 60) + "x"} {
				at := filepath.Join(dir, file)
				assert.Contains(t, m.Source(origin.File{Path: at, Home: filepath.Dir(at), Tool: "node"}), "tracks it", file)
			}
			for _, file := range []string{"kept/versions/22.1.0/bin/node", "kept/b"} {
				at := filepath.Join(dir, file)
				assert.Empty(t, m.Source(origin.File{Path: at, Home: filepath.Dir(at), Tool: "node"}), file)
			}
		})
	}
}

// TestAnIndexThatCannotBeRead: in doubt all is tracked.
func TestAnIndexThatCannotBeRead(t *testing.T) {
	for _, text := range []string{"junk", "DIRC\x00\x00\x00\x09" + strings.Repeat("x", 100), "DIRC\x00\x00\x00\x02\xff\xff\xff\xff" + strings.Repeat("x", 100)} {
		home := t.TempDir()
		lay(t, home, map[string]string{".beds/.git/index": text, ".beds/.git/HEAD": "ref: refs/heads/main\n", ".beds/22.1.0/bin/node": "x"})
		assert.Contains(t, machine(t, home).Source(node(filepath.Join(home, ".beds/22.1.0"))), "what that tracks cannot be told")
	}
}

// TestWhereFilesComeFrom: what a clone or an archive brings is somebody's; what a person installs
// in the same places is not.
func TestWhereFilesComeFrom(t *testing.T) {
	home := t.TempDir()
	at := func(name string) string { return filepath.Join(home, name) }
	lay(t, home, map[string]string{
		".node-version": "22\n", "package.json": "{}", // the user's own, in the home
		".nodes/versions/22.1.0/bin/node":                    "x",
		".arch/.node-version":                                "24.5.0\n",
		".arch/node/24.5.0/bin/node":                         "x",
		"work/shop/package.json":                             `{"engines":{"node":">=22"}}`,
		"work/shop/tools/node/bin/node":                      "x",
		".rules/.wexo.yaml":                                  "tags: [a]\n",
		".rules/node/24.5.0/bin/node":                        "x",
		"Downloads/package.json":                             `{"engines":{"node":">=22"}}`,
		"Downloads/node-v22.1.0/bin/node":                    "x",
		"Downloads/node-v22.1.0/lib/node_modules/npm/x.json": "{}",
		".yarns/1.22.0/package.json":                         `{"name": "yarn", "version": "1.22.0", "engines": {"node": ">=4"}}`,
		".yarns/1.22.0/bin/yarn":                             "x",
		".manager/versions/node/22.1.0/bin/node":             "x",
		".manager/package.json":                              `{"engines":{"node":">=16"}}`,
		".manager/.gitignore":                                "versions/\n",
		".pinned/versions/node/24.5.0/bin/node":              "x",
		".pinned/.node-version":                              "24.5.0\n",
		".bare/HEAD":                                         "ref: refs/heads/main\n", ".bare/objects/x": "", ".bare/refs/x": "", ".bare/24.5.0/bin/node": "x",
		"flutter/bin/flutter": "x", "flutter/pubspec.yaml": "name: flutter\nenvironment: {sdk: '>=3'}\n",
	})
	for dir, tracked := range map[string][]string{".manager": {".gitignore", "package.json"}, ".pinned": {".node-version"}, "flutter": {"bin", "pubspec.yaml"}} {
		git(t, at(dir), "init", "-q")
		git(t, at(dir), append([]string{"add"}, tracked...)...)
	}
	lay(t, home, map[string]string{"flutter/bin/cache/flutter.version.json": "{}"})
	git(t, at(".manager"), "commit", "-qm", "x")
	git(t, at(".manager"), "worktree", "add", "-q", "--detach", at(".linked"))
	lay(t, home, map[string]string{".linked/node/24.5.0/bin/node": "x"})
	m := machine(t, home)
	for dir, why := range map[string]string{
		".nodes/versions/22.1.0": "", "Downloads/node-v22.1.0": "", ".manager/versions/node/22.1.0": "", ".linked/node/24.5.0": "",
		".arch/node/24.5.0": "somebody's source", "work/shop/tools/node": "somebody's source", ".rules/node/24.5.0": "somebody's source", ".pinned/versions/node/24.5.0": "asks for it", ".bare/24.5.0": "git repository",
	} {
		got := m.Source(node(at(dir)))
		if why == "" {
			assert.Empty(t, got, dir)
		} else {
			assert.Contains(t, got, why, dir)
		}
	}
	assert.Empty(t, m.Source(origin.File{Path: at(".yarns/1.22.0/bin/yarn"), Home: at(".yarns/1.22.0"), Tool: "yarn", Own: []string{"package.json"}}))
	flutter := origin.File{Path: at("flutter/bin/flutter"), Home: at("flutter"), Tool: "flutter", Own: []string{"pubspec.yaml"}}
	assert.Contains(t, m.Source(flutter), "tracks it", "a clone is none yet")
	flutter.Kept = []string{"bin/cache/flutter.version.json"}
	assert.Empty(t, m.Source(flutter), "one that was made an installation is")
	assert.Equal(t, at(".manager"), m.Clone(at(".manager/versions/node/22.1.0/bin/node")))
	assert.Contains(t, m.Folder(at(".manager/versions")), "git repository")
	assert.Contains(t, m.Folder(at("work/shop/tools")), "somebody's source")
	assert.Empty(t, m.Folder(at(".nodes")))
}

// FuzzIndex: whatever an index holds, asking it ends.
func FuzzIndex(f *testing.F) {
	f.Add([]byte("DIRC\x00\x00\x00\x02\x00\x00\x00\x00" + strings.Repeat("x", 20)))
	f.Add([]byte("DIRC\x00\x00\x00\x04\x00\x00\x00\x01" + strings.Repeat("\x00", 90)))
	c, err := catalogue.Embedded()
	require.NoError(f, err)
	reader, err := reading.New(c)
	require.NoError(f, err)
	f.Fuzz(func(t *testing.T, data []byte) {
		home := fstest.MapFS{"home/.git/index": {Data: data}, "home/.git/HEAD": {Data: []byte("ref: refs/heads/main\n")}, "home/22.1.0/bin/node": {Data: []byte("x"), Mode: 0o755}}
		_ = origin.On(home, reader, func(string) bool { return false }).Source(node("/home/22.1.0"))
	})
}
