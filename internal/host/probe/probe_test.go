package probe_test

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/host/probe"
)

func take(t *testing.T, m probe.Machine) inventory.Inventory {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	r, err := reading.New(c)
	require.NoError(t, err)
	return probe.Take(context.Background(), c, r, m)
}

// disk lays out files below a folder: "-> x" makes a link, "exec" an executable, "#!…" a script.
func disk(t *testing.T, files map[string]string) string {
	t.Helper()
	root := t.TempDir()
	for name, content := range files {
		at := filepath.Join(root, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		target, link := strings.CutPrefix(content, "-> ")
		switch {
		case link:
			require.NoError(t, os.Symlink(target, at))
		case content == "exec" || strings.HasPrefix(content, "#!"):
			require.NoError(t, os.WriteFile(at, []byte(content), 0o755))
		default:
			require.NoError(t, os.WriteFile(at, []byte(content), 0o644))
		}
	}
	return root
}

func python(files map[string]string, home, version string) {
	line := version[:strings.LastIndexByte(version, '.')]
	files[home+"/bin/python"+line] = "exec"
	files[home+"/bin/python3"] = "-> python" + line
	files[home+"/bin/python"] = "-> python" + line
	files[home+"/lib/python"+line+"/os.py"] = ""
	files[home+"/include/python"+line+"/patchlevel.h"] = "#define PY_VERSION \"" + version + "\"\n"
}

func TestShapes(t *testing.T) {
	files := map[string]string{
		"/usr/bin/java":                                         "-> /etc/alternatives/java",
		"/etc/alternatives/java":                                "-> /usr/lib/jvm/temurin-21-jdk-amd64/bin/java",
		"/usr/lib/jvm/default":                                  "-> temurin-21-jdk-amd64",
		"/usr/lib/jvm/temurin-21-jdk-amd64/bin/java":            "exec",
		"/usr/lib/jvm/temurin-21-jdk-amd64/bin/javac":           "exec",
		"/usr/lib/jvm/temurin-21-jdk-amd64/release":             "IMPLEMENTOR=\"Eclipse Adoptium\"\nJAVA_VERSION=\"21.0.8\"\nJAVA_RUNTIME_VERSION=\"21.0.8+9-LTS\"\n",
		"/usr/lib/jvm/temurin-21-jdk-amd64/lib/modules":         "",
		"/usr/lib/jvm/java-8/lib/rt.jar":                        "",
		"/usr/local/go/pkg/tool/linux_amd64/compile":            "exec",
		"/usr/local/go/src/runtime/proc.go":                     "",
		"/usr/lib/jvm/java-8/bin/java":                          "exec",
		"/usr/lib/jvm/java-8/release":                           "JAVA_VERSION=\"1.8.0_292\"\n",
		"/usr/local/go/bin/go":                                  "exec",
		"/usr/local/go/VERSION":                                 "go1.26.8\ntime x\n",
		"/opt/node/20.11.1/bin/node":                            "exec",
		"/opt/node/20.11.1/include/node/node_version.h":         "#define NODE_MAJOR_VERSION 20\n#define NODE_MINOR_VERSION 11\n#define NODE_PATCH_VERSION 1\n",
		"/opt/node/20.11.1/bin/npm":                             "-> ../lib/node_modules/npm/bin/npm-cli.js",
		"/opt/node/20.11.1/lib/node_modules/npm/bin/npm-cli.js": "exec",
		"/opt/node/20.11.1/lib/node_modules/npm/package.json":   "{\"version\": \"10.2.4\"}",
		"/opt/node/18.0.0/bin/node":                             "-> gone",
		"/home/fern/.shed/version":                              "3.12.7\n",
		"/home/fern/.shed/shims/python3":                        "#!/usr/bin/env bash\nexec shed\n",
		"/home/fern/.shed/shims/node":                           "#!/bin/sh\nexec shed\n",
		"/home/fern/.node-version":                              "20\n",
		"/home/fern/.venvs/beds/bin/python3":                    "-> /home/fern/.shed/versions/3.12.7/bin/python3",
		"/home/fern/.venvs/beds/pyvenv.cfg":                     "version = 3.12.7\n",
		"/home/fern/.cache/python/bin/python3":                  "exec",
	}
	python(files, "/home/fern/.shed/versions/3.12.7", "3.12.7")
	python(files, "/home/fern/.shed/versions/3.13.1", "3.13.1")
	python(files, "/usr", "3.11.2")
	inv := take(t, probe.Machine{
		Info:  inventory.MachineInfo{Name: "bench", OS: "linux", Arch: "amd64", Home: "/home/fern"},
		Files: disk(t, files), Path: []string{"/home/fern/.shed/shims", "/usr/local/go/bin", "/usr/bin"},
		Env: map[string]string{"JAVA_HOME": "/usr/lib/jvm/java-8", "GOTOOLCHAIN": "auto", "SHED_VERSION": "3.13.1"}, Now: time.Unix(0, 0).UTC(),
	})
	got := map[string]inventory.Installation{}
	for _, in := range inv.Installations {
		assert.NotContains(t, got, in.Path, "listed twice")
		got[in.Path] = in
	}
	for path, want := range map[string][4]string{ // version, origin, health, vendor
		"/home/fern/.shed/versions/3.12.7/bin/python3.12":       {"3.12.7", "versioned-root", "good", ""},
		"/home/fern/.shed/versions/3.13.1/bin/python3.13":       {"3.13.1", "versioned-root", "good", ""},
		"/usr/bin/python3.11":                                   {"3.11.2", "system", "good", ""},
		"/usr/lib/jvm/temurin-21-jdk-amd64/bin/java":            {"21.0.8+9", "versioned-root", "good", "temurin"},
		"/usr/lib/jvm/java-8/bin/java":                          {"1.8.0_292", "versioned-root", "good", ""},
		"/usr/local/go/bin/go":                                  {"1.26.8", "standalone", "good", ""},
		"/opt/node/20.11.1/bin/node":                            {"20.11.1", "versioned-root", "good", ""},
		"/opt/node/20.11.1/lib/node_modules/npm/bin/npm-cli.js": {"10.2.4", "bundled", "good", ""},
		"/opt/node/18.0.0/bin/node":                             {"18.0.0", "versioned-root", "broken", ""},
	} {
		in, found := got[path]
		require.True(t, found, "%s is not found", path)
		assert.Equal(t, want, [4]string{in.Version, in.Origin, in.Health, in.Vendor}, path)
		delete(got, path)
	}
	assert.Empty(t, got, "nothing else is an installation")

	temurin := inv.Installations[1]
	for _, in := range inv.Installations {
		if in.Vendor == "temurin" {
			temurin = in
		}
		if in.Version == "20.11.1" {
			assert.Equal(t, map[string]string{"npm": "10.2.4"}, in.Components)
		}
	}
	assert.Equal(t, "kit", temurin.Package)
	assert.ElementsMatch(t, []inventory.OnPath{
		{Tool: "python", Path: "/home/fern/.shed/shims/python3", Version: "3.13.1", Shim: true},
		{Tool: "node", Path: "/home/fern/.shed/shims/node", Version: "20.11.1", Shim: true},
		{Tool: "go", Path: "/usr/local/go/bin/go", Version: "1.26.8"},
		{Tool: "java", Path: "/usr/bin/java", Version: "21.0.8+9"},
	}, inv.FirstOnPath)
	assert.Contains(t, inv.Defaults, inventory.Default{Tool: "python", Raw: "3.12.7", Source: "~/.shed/version"})
	assert.Contains(t, inv.Defaults, inventory.Default{Tool: "node", Raw: "20", Source: "~/.node-version"})
	assert.ElementsMatch(t, []inventory.Override{{Tool: "java", Variable: "JAVA_HOME", Raw: "/usr/lib/jvm/java-8"}, {Tool: "python", Variable: "SHED_VERSION", Raw: "3.13.1"}}, inv.Overrides)
}

// TestThisMachine: what the machine's own tools say of themselves is what is found.
// TestToolsThatAreScripts: a shell script beside the tool's own files is the tool, one
// without them passes the call on.
func TestToolsThatAreScripts(t *testing.T) {
	got := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench", Home: "/home/fern"}, Path: []string{"/usr/bin", "/home/fern/.shed/shims"}, Files: disk(t, map[string]string{
		"/usr/bin/elixir":                            "-> ../lib/elixir/bin/elixir",
		"/usr/lib/elixir/bin/elixir":                 "#!/bin/sh\n",
		"/usr/lib/elixir/lib/elixir/ebin/elixir.app": "{application,elixir,[{vsn,\"1.17.3\"}]}.\n",
		"/opt/erlang/27.1/bin/erl":                   "#!/bin/sh\n",
		"/opt/erlang/27.1/releases/27/OTP_VERSION":   "27.1.2\n",
		"/home/fern/.shed/shims/erl":                 "#!/bin/sh\nexec shed\n",
		"/opt/gradle/8.10/bin/gradle":                "#!/bin/sh\n",
		"/opt/gradle/8.10/lib/gradle-core-8.10.jar":  "jar",
	})})
	var found []string
	for _, in := range got.Installations {
		found = append(found, in.Tool+" "+in.Version+" "+in.Path)
	}
	assert.ElementsMatch(t, []string{
		"elixir 1.17.3 /usr/lib/elixir/bin/elixir", "erlang 27.1.2 /opt/erlang/27.1/bin/erl", "gradle 8.10 /opt/gradle/8.10/bin/gradle",
	}, found)
	assert.ElementsMatch(t, []inventory.OnPath{
		{Tool: "elixir", Path: "/usr/bin/elixir", Version: "1.17.3"},
		{Tool: "erlang", Path: "/home/fern/.shed/shims/erl", Shim: true},
	}, got.FirstOnPath)
}

func TestThisMachine(t *testing.T) {
	inv := take(t, probe.Local(time.Now()))
	goPath, err := exec.LookPath("go")
	require.NoError(t, err)
	out, err := exec.Command(goPath, "env", "GOVERSION").Output()
	require.NoError(t, err)
	nodeOut, err := exec.Command("node", "--version").Output()
	require.NoError(t, err, "node is needed, as the README says")
	versions := map[string][]string{}
	paths := map[string]bool{}
	for _, in := range inv.Installations {
		versions[in.Tool] = append(versions[in.Tool], in.Version)
		real, err := filepath.EvalSymlinks(in.Path)
		if in.Health != "broken" {
			require.NoError(t, err)
			assert.Equal(t, real, in.Path, "links are followed")
		}
		assert.False(t, paths[in.Tool+in.Path], "%s is listed twice", in.Path)
		paths[in.Tool+in.Path] = true
	}
	assert.Contains(t, versions["node"], strings.TrimPrefix(strings.TrimSpace(string(nodeOut)), "v"))
	if !strings.Contains(string(out), "toolchain") {
		assert.NotEmpty(t, versions["go"])
	}
}

// TestNothingInARepositoryIsRun: an executable on PATH that lies in a repository is not asked.
func TestNothingInARepositoryIsRun(t *testing.T) {
	dir := t.TempDir()
	trap := filepath.Join(dir, "ran")
	tools := filepath.Join(dir, "repository", "bin")
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "repository", ".git"), 0o755))
	require.NoError(t, os.MkdirAll(tools, 0o755))
	for _, name := range []string{"node", "python3"} {
		require.NoError(t, os.WriteFile(filepath.Join(tools, name), []byte("#!/usr/bin/perl\nopen F, '>', '"+trap+"'; print 'v9.9.9'"), 0o755))
	}
	m := probe.Local(time.Now())
	m.Info.Home, m.Path = dir, []string{tools}
	take(t, m)
	assert.NoFileExists(t, trap)
}
