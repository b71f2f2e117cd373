package cli_test

import (
	"encoding/json"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
	"wexo/internal/report"
)

// inventoryFile writes an inventory of a machine with some versions of Node.js.
func inventoryFile(t *testing.T, name string, versions ...string) string {
	t.Helper()
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name, OS: "linux", Arch: "amd64", Kind: "build-agent"}, Installations: []inventory.Installation{}}
	for _, v := range versions {
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "node", Version: v, Path: "/opt/node/" + v + "/bin/node", Home: "/opt/node/" + v, Origin: "versioned-root", Health: "good", SizeBytes: 200_000_000,
			Packages: map[string]string{"tulip": "1.0"}})
	}
	data, err := json.Marshal(inv)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), name+".json")
	require.NoError(t, os.WriteFile(file, data, 0o644))
	return file
}

func TestNeeds(t *testing.T) {
	dir := lay(t, map[string]string{"ferns/.node-version": "24\n", "ferns/package.json": "{}", "mosses/.node-version": "24.11.1\n", "mosses/package.json": "{}", "ferns/.wexo.yaml": "tags: [a]\n"})
	file := inventoryFile(t, "agent", "22.11.0")
	args := []string{"needs", "--as-of", "2026-11-16", "--inventory", file}
	status, out, errors := wexo(t, append(args, dir)...)
	assert.Equal(t, 0, status, errors)
	assert.Contains(t, out, "agent needs 1 toolchain\n")
	assert.Contains(t, out, "+ Node.js 24.11.1  supported until 30 Apr 2028")
	assert.Contains(t, out, "Serves none of these repositories: 1 installation, 200 MB")
	assert.Contains(t, out, "- Node.js 22.11.0 at /opt/node/22.11.0, 200 MB")
	assert.Contains(t, out, "with it would go tulip 1.0")

	_, out, _ = wexo(t, append(args, "--output", "list", "agent", dir)...)
	assert.Equal(t, "node\t24.11.1\t-\t-\n", out, "for a program to read")
	_, out, _ = wexo(t, append(args, "--output", "markdown", dir)...)
	assert.Contains(t, out, "# What agent needs\n\n- [ ] Node.js 24.11.1, supported until 30 Apr 2028: for ")
	_, out, _ = wexo(t, append(args, "--output", "json", dir)...)
	var n report.Needs
	require.NoError(t, json.Unmarshal([]byte(out), &n))
	assert.Equal(t, "wexo.needs/1", n.Format)
	assert.Len(t, n.Install[0].AskedBy, 2)
	assert.Equal(t, int64(200_000_000), n.Spare[0].SizeBytes)

	for _, bad := range [][]string{{"--output", "xml", dir}, {"gardener", dir}, {"--inventory", inventoryFile(t, "other"), dir}} {
		status, _, errors := wexo(t, append(args, bad...)...)
		assert.Equal(t, 2, status, errors)
		assert.NotEmpty(t, errors)
	}
}

// TestWith: a command runs with what the folder asks for first on PATH, and not at all where
// nothing fits. The toolchains are stand-ins below a home of their own.
func TestWith(t *testing.T) {
	home := t.TempDir()
	for _, v := range []string{"22.11.0", "24.21.0"} {
		node := filepath.Join(home, ".shed", "versions", v, "bin", "node")
		require.NoError(t, os.MkdirAll(filepath.Dir(node), 0o755))
		require.NoError(t, os.WriteFile(node, []byte("#!/usr/bin/perl\nprint \"I am "+v+" with @ARGV\\n\"; exit(($ARGV[0]//'') eq 'fail' ? 7 : 0)"), 0o755))
	}
	t.Setenv("HOME", home)
	t.Setenv("PATH", "/usr/bin:/bin")
	java := filepath.Join(t.TempDir(), "jdk")
	for name, text := range map[string]string{"bin/java": "\x7fELF", "release": "JAVA_VERSION=\"21.0.5\"\n", "lib/modules": ""} {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(java, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(java, name), []byte(text), 0o755))
	}
	repo := lay(t, map[string]string{"both/.node-version": "24\n", "both/.deno-version": "2.1.4\n", "java/.java-version": "21.0.5\n", "old/.node-version": "22.11.0\n", "new/.node-version": "24\n", "gone/.node-version": "26\n", "quoted's/.node-version": "24\n", "new/node": "#!/bin/sh\necho never\n"})
	require.NoError(t, os.Chmod(filepath.Join(repo, "new", "node"), 0o755))
	for _, name := range []string{"old", "new", "gone", "quoted's", "both", "java"} {
		out, err := exec.Command("git", "init", "-q", filepath.Join(repo, name)).CombinedOutput()
		require.NoError(t, err, string(out))
	}
	at := func(name string) string { return filepath.Join(repo, name) }

	status, out, errors := wexo(t, "with", at("old"), "--", "node", "a", "--flag")
	assert.Equal(t, 0, status, errors)
	assert.Equal(t, "I am 22.11.0 with a --flag\n", out)
	assert.Contains(t, errors, "wexo: Node.js 22.11.0 at "+filepath.Join(home, ".shed/versions/22.11.0"))
	_, out, _ = wexo(t, "with", at("new"), "--", "node")
	assert.Equal(t, "I am 24.21.0 with \n", out, "two projects side by side, and nothing of the repository is run")
	status, _, _ = wexo(t, "with", at("new"), "--", "node", "fail")
	assert.Equal(t, 7, status, "the command's own status")
	status, _, errors = wexo(t, "with", at("gone"), "--", "node")
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "Node.js: nothing installed is >=26.0.0 <27.0.0; install it")
	status, out, errors = wexo(t, "with", at("gone"), "--nearest", "--", "node")
	assert.Equal(t, 0, status, errors)
	assert.Equal(t, "I am 24.21.0 with \n", out)
	assert.Contains(t, errors, "which is the nearest and not what is asked for")
	status, _, errors = wexo(t, "with", at("both"), "--", "node")
	assert.Equal(t, 3, status, errors)
	assert.Contains(t, errors, "Deno: nothing installed is 2.1.4; install it (wexo needs "+at("both")+" tells what), or give --nearest")
	status, out, errors = wexo(t, "with", at("both"), "--nearest", "--", "node")
	assert.Equal(t, 0, status, errors)
	assert.Equal(t, "I am 24.21.0 with \n", out)
	assert.Contains(t, errors, "wexo: without Deno: nothing installed is 2.1.4", "where there is none at all, the rest is had")
	t.Setenv("JAVA_HOME", java) // lies where nobody would look, and chooses nothing here
	status, _, errors = wexo(t, "with", at("java"), "--", "true")
	assert.Equal(t, 0, status, errors)
	assert.Equal(t, "wexo: Java 21.0.5 at "+java+"/bin/java (installed: no repository tracks it, no source lies around it)\n", errors)
	for shell, want := range map[string]string{
		"sh":         "export JAVA_HOME='" + java + "'\nexport PATH='" + java + "/bin:'\"$PATH\"\n",
		"fish":       "set -gx JAVA_HOME '" + java + "'\nset -gx PATH '" + java + "/bin' $PATH\n",
		"powershell": "$env:JAVA_HOME = '" + java + "'\n$env:PATH = '" + java + "/bin:' + $env:PATH\n",
	} {
		_, out, _ := wexo(t, "with", at("java"), "--shell", shell)
		assert.Equal(t, want, out)
	}
	t.Setenv("JAVA_HOME", "/opt/other")
	t.Setenv("PATH", java+"/bin:/usr/bin:/bin")
	_, out, errors = wexo(t, "with", at("java"), "--", "sh", "-c", "echo $JAVA_HOME")
	assert.Equal(t, java+"\n", out)
	assert.Equal(t, "wexo: Java 21.0.5 at "+java+"/bin/java, instead of JAVA_HOME=/opt/other (installed: no repository tracks it, no source lies around it)\n", errors, "what it changes is said")
	status, _, errors = wexo(t, "with", at("new"), "--", "no-such-command")
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "no such command on PATH")
	status, _, _ = wexo(t, "with")
	assert.Equal(t, 2, status)
	status, _, _ = wexo(t, "with", at("new"), "--shell", "csh")
	assert.Equal(t, 2, status)

	bin := filepath.Join(home, ".shed/versions/24.21.0/bin")
	for shell, want := range map[string]string{
		"sh": "export PATH='" + bin + ":'\"$PATH\"\n", "fish": "set -gx PATH '" + bin + "' $PATH\n", "powershell": "$env:PATH = '" + bin + ":' + $env:PATH\n",
	} {
		_, out, _ := wexo(t, "with", at("quoted's"), "--shell", shell)
		assert.Equal(t, want, out)
	}
	_, lines, _ := wexo(t, "with", at("quoted's"))
	sh := exec.Command("/bin/sh", "-c", lines+"node from-the-shell")
	said, err := sh.CombinedOutput()
	require.NoError(t, err, string(said))
	assert.Equal(t, "I am 24.21.0 with from-the-shell\n", string(said), "a shell can take the lines over")
}

// TestNothingIsRunWhereThatIsForbidden: with --no-run a version that no file tells stays unknown.
func TestNothingIsRunWhereThatIsForbidden(t *testing.T) {
	home := t.TempDir()
	node := filepath.Join(home, ".shed", "nodes", "a", "bin", "node")
	require.NoError(t, os.MkdirAll(filepath.Dir(node), 0o755))
	witness := filepath.Join(home, "witness")
	require.NoError(t, os.WriteFile(node, []byte("#!/usr/bin/perl\nopen F, '>', '"+witness+"'; print \"v22.11.0\\n\""), 0o755))
	t.Setenv("HOME", home)
	t.Setenv("PATH", "/usr/bin:/bin")
	_, out, _ := wexo(t, "inventory", "--no-run")
	assert.Contains(t, out, "no file tells its version, and nothing is run")
	assert.NoFileExists(t, witness)
	repo := lay(t, map[string]string{".node-version": "22\n"})
	_, _, _ = wexo(t, "survey", "--no-run", "--fail-on", "never", repo)
	assert.NoFileExists(t, witness)
	inside := lay(t, map[string]string{"nodes/b/bin/node": "#!/usr/bin/perl\nopen F, '>', '" + witness + "'; print \"v22.11.0\\n\"", ".node-version": "22\n"})
	require.NoError(t, os.Chmod(filepath.Join(inside, "nodes/b/bin/node"), 0o755))
	t.Setenv("PATH", filepath.Join(inside, "nodes/b/bin")+":/usr/bin:/bin")
	require.NoError(t, os.RemoveAll(filepath.Join(home, ".shed")))
	_, _, _ = wexo(t, "survey", "--fail-on", "never", inside)
	assert.NoFileExists(t, witness, "nothing of a folder that is surveyed is run, also where PATH leads into it")
	_, out, _ = wexo(t, "inventory")
	assert.Contains(t, out, "Node.js")
}

// TestUnits: what systemd is given names the service and reads the token from a file.
func TestUnits(t *testing.T) {
	status, out, errors := wexo(t, "machines", "unit", "--server", "https://wexo.trust.invalid", "--every", "90m", "--name", "seed agent", "--checkouts", "/srv/work")
	assert.Equal(t, 0, status, errors)
	for _, line := range []string{"# wexo-inventory.service", "Environment=WEXO_SERVER=https://wexo.trust.invalid", "EnvironmentFile=/etc/wexo/token",
		`machines send --kind build-agent --reported-every 1h30m0s --name "seed agent" --checkouts /srv/work`, "# wexo-inventory.timer", "OnUnitActiveSec=5400s", "RandomizedDelaySec=540s"} {
		assert.Contains(t, out, line+"\n")
	}
	dir := t.TempDir()
	status, _, errors = wexo(t, "machines", "unit", "--server", "https://wexo.trust.invalid", "--dir", dir)
	assert.Equal(t, 0, status, errors)
	assert.FileExists(t, filepath.Join(dir, "wexo-inventory.service"))
	assert.FileExists(t, filepath.Join(dir, "wexo-inventory.timer"))
	for _, bad := range [][]string{{}, {"--server", "https://x\nEvil=1"}, {"--server", "https://x", "--every", "1s"}} {
		status, _, errors := wexo(t, append([]string{"machines", "unit"}, bad...)...)
		assert.Equal(t, 2, status, errors)
	}
}

// TestTraceShowsTheMachine: what is installed, why one of it wins, and what PATH would run.
func TestTraceShowsTheMachine(t *testing.T) {
	dir := lay(t, map[string]string{".node-version": "22\n"})
	data, err := os.ReadFile(inventoryFile(t, "agent", "22.11.0", "22.12.0", "24.21.0"))
	require.NoError(t, err)
	var inv inventory.Inventory
	require.NoError(t, json.Unmarshal(data, &inv))
	inv.Installations[1].Health, inv.Installations[1].HealthReason = "broken", "its executable is an empty file"
	inv.FirstOnPath = []inventory.OnPath{{Tool: "node", Path: "/home/fern/.shed/shims/node", Version: "24.21.0", Shim: true}}
	inv.Proxies = []inventory.Proxy{{Tool: "node", Path: "/home/fern/.shed/shims/node", Root: "/home/fern/.shed/versions", Leads: "/home/fern/.shed/shims/node", Picks: "/opt/node/24.21.0", Version: "24.21.0", Because: "24, ~/.shed/version",
		Folders: []inventory.FolderChoice{{Folder: "/home/fern/beds", Raw: "22", Version: "22.11.0", Source: "~/.shed/settings.toml:4"}}}}
	inv.SearchPath = []inventory.PathFolder{{Folder: "/home/fern/.shed/shims", There: true, Tools: []inventory.PathedTool{{Tool: "node", Name: "node", Leads: "/home/fern/.shed/shims/node", Version: "24.21.0", Proxy: true, Wins: true}}},
		{Folder: "/usr/bin", There: true, Tools: []inventory.PathedTool{{Tool: "node", Name: "node", Leads: "/opt/node/22.11.0/bin/node", Version: "22.11.0"}}}}
	inv.Editors = []inventory.Wiring{{Tool: "node", Kind: inventory.WiredSetting, Editor: "VS Code", Path: "/opt/node/24.21.0/bin/node", Version: "24.21.0", Source: "~/settings.json", Line: 2}}
	file := filepath.Join(t.TempDir(), "agent.json")
	data, err = json.Marshal(inv)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(file, data, 0o644))
	status, out, errors := wexo(t, "trace", "--as-of", "2026-11-16", "--inventory", file, dir, "node")
	assert.Equal(t, 0, status, errors)
	for _, line := range []string{"What agent has", "▶ 22.11.0  at /opt/node/22.11.0/bin/node", "in >=22.0.0 <23.0.0, and the newest that the pin admits", "broken: its executable is an empty file", "not in >=22.0.0 <23.0.0",
		"PATH runs a proxy, /home/fern/.shed/shims/node: 24.21.0 where no version file decides (24, ~/.shed/version)", "behind it 22.11.0 by /usr/bin/node → /opt/node/22.11.0/bin/node",
		"VS Code knows a setting: 24.21.0 at /opt/node/24.21.0/bin/node  ~/settings.json:2", "in /home/fern/beds a proxy runs 22.11.0, whatever the repository says  ~/.shed/settings.toml:4"} {
		assert.Contains(t, out, line)
	}
	_, out, _ = wexo(t, "trace", "--as-of", "2026-11-16", "--inventory", file, "--output", "json", dir, "node")
	var trace report.Trace
	require.NoError(t, json.Unmarshal([]byte(out), &trace))
	require.Len(t, trace.Machines, 1)
	assert.Len(t, trace.Machines[0].Candidates, 3)
}

// TestInventoryOfADesk: what editors know, what is broken and what PATH runs, as people read it.
func TestInventoryOfADesk(t *testing.T) {
	node := func(version string) map[string]string {
		n := strings.Split(version, ".")
		home := "opt/node/" + version
		return map[string]string{home + "/bin/node": "x", home + "/include/node/node_version.h": "#define NODE_MAJOR_VERSION " + n[0] + "\n#define NODE_MINOR_VERSION " + n[1] + "\n#define NODE_PATCH_VERSION " + n[2] + "\n"}
	}
	files := map[string]string{
		"home/fern/.bashrc": "export PATH=/opt/node/22.11.0/bin:/opt/gone/bin:$PATH\n",
		"home/fern/.config/JetBrains/IdeaIC2026.1/options/jdk.table.xml": `<application><component name="ProjectJdkTable">` +
			`<jdk version="2"><name value="shed-21" /><type value="JavaSDK" /><homePath value="/srv/kits/jdk-21" /></jdk></component></application>`,
		"home/fern/.config/Code/User/settings.json": `{"java.configuration.runtimes": [{"name": "JavaSE-17", "path": "/opt/jdk-17", "default": true}]}`,
		"opt/jdk-17/release":                        "JAVA_VERSION=\"17.0.13\"\n", "opt/jdk-17/bin/java": "x", "opt/jdk-17/lib/modules": "x",
		"srv/kits/jdk-21/release": "JAVA_VERSION=\"21.0.5\"\n", "srv/kits/jdk-21/bin/java": "x", "srv/kits/jdk-21/lib/modules": "x",
		"opt/jdk-11/release": "JAVA_VERSION=\"11.0.25\"\n", "opt/jdk-11/bin/java": "x",
	}
	for _, version := range []string{"22.11.0", "24.11.1"} {
		maps.Copy(files, node(version))
	}
	root := lay(t, files)
	for file := range files {
		if strings.Contains(file, "/bin/") {
			require.NoError(t, os.Chmod(filepath.Join(root, file), 0o755))
		}
	}
	status, out, errors := wexo(t, "inventory", "--root", root, "--name", "desk", "--home", "/home/fern")
	require.Equal(t, 0, status, errors)
	for _, says := range []string{
		"desk: 5 installations of 2 tools",
		"● 21.0.5   /srv/kits/jdk-21/bin/java", "● 17.0.13  /opt/jdk-17/bin/java", "✕ 11.0.25  /opt/jdk-11/bin/java",
		"broken: half an installation: its class library (lib/modules) is missing",
		"PATH runs 22.11.0 at /opt/node/22.11.0/bin/node",
		"/opt/node/22.11.0/bin  from ~/.bashrc:1\n    node 22.11.0", "/opt/gone/bin  from ~/.bashrc:1\n    is not there",
		"JetBrains IDE, Java: shed-21 → 21.0.5 at /srv/kits/jdk-21", "VS Code, Java: JavaSE-17 → 17.0.13 at /opt/jdk-17, for new projects",
		"○ VS Code gives new projects Java 17.0.13 (~/.config/Code/User/settings.json:1), and 21.0.5 is installed.",
	} {
		assert.Contains(t, out, says)
	}
	_, out, _ = wexo(t, "inventory", "--root", root, "--name", "desk", "--home", "/home/fern", "--path", "/opt/node/24.11.1/bin:/opt/node/22.11.0/bin")
	assert.Contains(t, out, "PATH runs 24.11.1 at /opt/node/24.11.1/bin/node", "PATH as it is given beats what start-up files say")
}

// TestInventoryOfAnImage: a container image is read as it is kept.
func TestInventoryOfAnImage(t *testing.T) {
	root := lay(t, map[string]string{"opt/node/22.11.0/bin/node": "x", "opt/node/22.11.0/include/node/node_version.h": "#define NODE_MAJOR_VERSION 22\n#define NODE_MINOR_VERSION 11\n#define NODE_PATCH_VERSION 0\n",
		"etc/passwd": "root:x:0:0::/root:/bin/sh\n", "usr/bin/x": "x"})
	require.NoError(t, os.Chmod(filepath.Join(root, "opt/node/22.11.0/bin/node"), 0o755))
	tar := filepath.Join(t.TempDir(), "kiosk.tar")
	said, err := exec.Command("tar", "-C", root, "-cf", tar, ".").CombinedOutput()
	require.NoError(t, err, string(said))
	for _, from := range []string{tar, root} {
		status, out, errors := wexo(t, "inventory", "--root", from, "--name", "kiosk", "--kind", "image", "--output", "json")
		require.Equal(t, 0, status, errors)
		inv, err := inventory.Parse([]byte(out))
		require.NoError(t, err)
		assert.Equal(t, "kiosk", inv.Machine.Name)
		assert.Equal(t, "/root", inv.Machine.Home)
		require.Len(t, inv.Installations, 1)
		assert.Equal(t, "22.11.0 /opt/node/22.11.0/bin/node", inv.Installations[0].Version+" "+inv.Installations[0].Path)
	}
	bad := filepath.Join(t.TempDir(), "seeds.txt")
	require.NoError(t, os.WriteFile(bad, []byte(strings.Repeat("a list of seeds\n", 100)), 0o644))
	status, _, errors := wexo(t, "inventory", "--root", bad)
	assert.Equal(t, 3, status)
	assert.Contains(t, errors, "it is no container image")
	status, _, errors = wexo(t, "inventory", "--kind", "laptoop")
	assert.Equal(t, 2, status)
	assert.Contains(t, errors, `--kind is "laptoop", which is none that is known; did you mean "laptop"?`)
}
