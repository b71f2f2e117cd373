package probe_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

// TestLayouts: the ways in which toolchains lie about on machines, one at a time.
func TestLayouts(t *testing.T) {
	release := func(maker, version string) string {
		return "IMPLEMENTOR=\"" + maker + "\"\nJAVA_VERSION=\"" + version + "\"\n"
	}
	header := "#define NODE_MAJOR_VERSION 18\n#define NODE_MINOR_VERSION 20\n#define NODE_PATCH_VERSION 8\n"
	for name, c := range map[string]struct {
		files map[string]string
		want  []string // tool version origin path
	}{
		"Go from a distribution": {
			map[string]string{"/usr/lib/go-1.19/bin/go": "exec", "/usr/lib/go-1.19/VERSION": "go1.19.8", "/usr/bin/go": "-> ../lib/go-1.19/bin/go"},
			[]string{"go 1.19.8 versioned-root /usr/lib/go-1.19/bin/go"},
		},
		"Go kits in the home folder": {
			map[string]string{"/home/fern/sdk/go1.22.3/bin/go": "exec", "/home/fern/sdk/go1.22.3/VERSION": "go1.22.3\ntime x\n", "/home/fern/sdk/go1.23.0/bin/go": "exec", "/home/fern/sdk/go1.23.0/VERSION": "go1.23.0"},
			[]string{"go 1.22.3 versioned-root /home/fern/sdk/go1.22.3/bin/go", "go 1.23.0 versioned-root /home/fern/sdk/go1.23.0/bin/go"},
		},
		"Java in an application bundle": {
			map[string]string{"/Users/fern/Library/a": "", "/Library/Java/JavaVirtualMachines/zulu-17.jdk/Contents/Home/bin/java": "exec", "/Library/Java/JavaVirtualMachines/zulu-17.jdk/Contents/Home/release": release("Azul Systems, Inc.", "17.0.9")},
			[]string{"java 17.0.9 versioned-root /Library/Java/JavaVirtualMachines/zulu-17.jdk/Contents/Home/bin/java"},
		},
		"Java of an unknown maker": {
			map[string]string{"/opt/garden-jdk-21/bin/java": "exec", "/opt/garden-jdk-21/release": release("Garden Trust", "21.0.2")},
			[]string{"java 21.0.2 versioned-root /opt/garden-jdk-21/bin/java"},
		},
		"a runtime without a compiler": {
			map[string]string{"/usr/lib/jvm/jre-11/bin/java": "exec", "/usr/lib/jvm/jre-11/release": release("Debian", "11.0.20")},
			[]string{"java 11.0.20 versioned-root /usr/lib/jvm/jre-11/bin/java"},
		},
		"deep below a dot-folder": {
			map[string]string{"/home/fern/.shed/tools/node/versions/v18.20.8/bin/node": "exec", "/home/fern/.shed/tools/node/versions/v18.20.8/include/node/node_version.h": header},
			[]string{"node 18.20.8 versioned-root /home/fern/.shed/tools/node/versions/v18.20.8/bin/node"},
		},
		"a name that says less than the files": {
			map[string]string{"/opt/node/18/bin/node": "exec", "/opt/node/18/include/node/node_version.h": header},
			[]string{"node 18.20.8 versioned-root /opt/node/18/bin/node"},
		},
		"only the folder's name tells": {
			map[string]string{"/opt/node/node-v18.20.8-linux-x64/bin/node": "exec"},
			[]string{"node 18.20.8 versioned-root /opt/node/node-v18.20.8-linux-x64/bin/node"},
		},
		"two Pythons in one system folder": {
			map[string]string{"/usr/bin/python3.9": "exec", "/usr/bin/python3.11": "exec", "/usr/bin/python3": "-> python3.11", "/usr/bin/python3.11-config": "exec",
				"/usr/include/python3.9/patchlevel.h": "#define PY_VERSION \"3.9.2\"", "/usr/include/python3.11/patchlevel.h": "#define PY_VERSION \"3.11.2\""},
			[]string{"python 3.9.2 system /usr/bin/python3.9", "python 3.11.2 system /usr/bin/python3.11"},
		},
		"one installation through many links": {
			map[string]string{"/opt/python/3.12.4/bin/python3.12": "exec", "/opt/python/3.12.4/bin/python3": "-> python3.12", "/opt/python/3.12.4/bin/python": "-> /opt/python/3.12.4/bin/python3",
				"/opt/python/3.12": "-> 3.12.4", "/opt/python/default": "-> /opt/python/3.12", "/usr/bin/python3": "-> /opt/python/default/bin/python3", "/usr/local/bin/python3.12": "-> /usr/bin/python3",
				"/opt/python/3.12.4/include/python3.12/patchlevel.h": "#define PY_VERSION \"3.12.4\""},
			[]string{"python 3.12.4 versioned-root /opt/python/3.12.4/bin/python3.12"},
		},
		"links in a circle": {
			map[string]string{"/opt/a": "-> b", "/opt/b": "-> a", "/opt/node/20.1.0/bin/node": "-> node"},
			[]string{"node 20.1.0 versioned-root /opt/node/20.1.0/bin/node"},
		},
		"borrowed environments and shims are no installations": {
			map[string]string{"/home/fern/.environments/beds/bin/python3": "-> /usr/bin/python3.11", "/home/fern/.environments/beds/pyvenv.cfg": "home = /usr/bin", "/home/fern/.shed/shims/java": "#!/bin/bash\nexec x",
				"/usr/bin/python3.11": "exec", "/usr/include/python3.11/patchlevel.h": "#define PY_VERSION \"3.11.2\""},
			[]string{"python 3.11.2 system /usr/bin/python3.11"},
		},
		"folders that only look like it": {
			map[string]string{"/opt/backups/3.12.4/readme.txt": "x", "/opt/python/3.12.4/share/python3": "exec", "/opt/node_modules/node/20.1.0/bin/node": "exec", "/home/fern/notes/3.12.4/bin/python3.12": "exec", "/home/fern/notes/.git/HEAD": "ref: refs/heads/main\n"},
			nil,
		},
	} {
		t.Run(name, func(t *testing.T) {
			inv := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: system(c.files), Arch: "amd64", Home: "/home/fern"}, Files: disk(t, c.files), Path: []string{"/usr/local/bin", "/usr/bin"}, Now: time.Unix(0, 0).UTC()})
			var got []string
			for _, in := range inv.Installations {
				got = append(got, in.Tool+" "+in.Version+" "+in.Origin+" "+in.Path)
			}
			assert.ElementsMatch(t, c.want, got)
		})
	}
}

func TestVendorsAndKinds(t *testing.T) {
	files := map[string]string{}
	for name, maker := range map[string]string{"a-17": "Eclipse Adoptium", "b-17": "Debian", "c-17": "Garden Trust", "d-17": ""} {
		files["/usr/lib/jvm/"+name+"/bin/java"] = "exec"
		files["/usr/lib/jvm/"+name+"/release"] = "JAVA_VERSION=\"17.0.9\"\n"
		if maker != "" {
			files["/usr/lib/jvm/"+name+"/release"] += "IMPLEMENTOR=\"" + maker + "\"\n"
		}
	}
	files["/usr/lib/jvm/a-17/bin/javac"] = "exec"
	inv := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench"}, Files: disk(t, files), Now: time.Unix(0, 0)})
	got := map[string]string{}
	for _, in := range inv.Installations {
		got[filepath.Base(in.Home)] = in.Vendor + "/" + in.Package
	}
	assert.Equal(t, map[string]string{"a-17": "temurin/kit", "b-17": "debian/runtime", "c-17": "Garden Trust/runtime", "d-17": "/runtime"}, got)
}

func TestDefaultsBesideVersionedRoots(t *testing.T) {
	for name, c := range map[string]struct {
		file, content string
		want          []inventory.Default
	}{
		"a file above the root": {"/home/fern/.shed/version", "3.12.4\n", []inventory.Default{{Tool: "python", Raw: "3.12.4", Source: "~/.shed/version"}}},
		"a link in the root":    {"/home/fern/.shed/versions/default", "-> 3.12.4", []inventory.Default{{Tool: "python", Raw: "3.12.4", Source: "~/.shed/versions/default"}}},
		"a link above the root": {"/home/fern/.shed/current", "-> versions/3.12.4", []inventory.Default{{Tool: "python", Raw: "3.12.4", Source: "~/.shed/current"}}},
		"a version file":        {"/home/fern/.python-version", "3.12\n", []inventory.Default{{Tool: "python", Raw: "3.12", Source: "~/.python-version"}}},
		"lines of tools":        {"/home/fern/.pins", "python 3.12\nnode lts\n", []inventory.Default{{Tool: "python", Raw: "3.12", Source: "~/.pins"}, {Tool: "node", Raw: "lts", Source: "~/.pins"}}},
		"something else":        {"/home/fern/.shed/version", "shed 2 (garden edition)\n", []inventory.Default{}},
	} {
		t.Run(name, func(t *testing.T) {
			files := map[string]string{c.file: c.content}
			python(files, "/home/fern/.shed/versions/3.12.4", "3.12.4")
			inv := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench", Home: "/home/fern"}, Files: disk(t, files), Now: time.Unix(0, 0)})
			assert.Equal(t, c.want, inv.Defaults)
		})
	}
}

// TestAskingAnExecutable: where no file tells, the executable is asked, with a clean
// environment and a limit.
func TestAskingAnExecutable(t *testing.T) {
	home := t.TempDir()
	root := filepath.Join(home, ".shed", "nodes")
	for name, script := range map[string]string{
		"a": "#!/usr/bin/perl\nprint \"v18.20.8\\n\"",
		"b": "#!/usr/bin/perl\nprint exists $ENV{SECRET} ? \"v6.6.6\\n\" : \"v20.1.0\\n\"",
		"c": "#!/usr/bin/perl\nsleep 60",
		"d": "#!/usr/bin/perl\nexit 1",
		"e": "#!/usr/bin/perl\nprint \"x\" x 1000000",
	} {
		at := filepath.Join(root, name, "bin", "node")
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(script), 0o755))
	}
	t.Setenv("SECRET", "seeds")
	m := probe.Local(time.Now())
	m.Info.Home, m.Path = home, nil
	start := time.Now()
	inv := take(t, m)
	assert.Less(t, time.Since(start), 30*time.Second, "an executable that hangs is given up")
	got := map[string]string{}
	for _, in := range inv.Installations {
		if in.Tool == "node" && filepath.Dir(in.Home) == root {
			got[filepath.Base(in.Home)] = in.Version + "/" + in.Health
		}
	}
	assert.Equal(t, map[string]string{"a": "18.20.8/good", "b": "20.1.0/good", "c": "/broken", "d": "/broken", "e": "/unknown"}, got)
}

// system is the one that files are of.
func system(files map[string]string) string {
	for name := range files {
		if strings.HasPrefix(name, "/Library/") {
			return "darwin"
		}
	}
	return "linux"
}
