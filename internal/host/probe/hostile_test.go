package probe_test

import (
	"errors"
	"fmt"
	"net"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

// TestNothingOfAHostileTreeIsStarted puts executables that must not be run into every folder
// that is searched, each in several ways, and looks whether one of them has run.
func TestNothingOfAHostileTreeIsStarted(t *testing.T) {
	root := t.TempDir()
	witness := filepath.Join(t.TempDir(), "witness")
	trap := []byte("#!/usr/bin/perl\nopen F, '>>', '" + witness + "'; print F \"$0\\n\"; close F; print \"v9.9.9\\n\";")
	put := func(at string, mode os.FileMode) {
		file := filepath.Join(root, at)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, trap, 0o755))
		require.NoError(t, os.Chmod(file, mode))
	}
	folders := searched(t)
	put("/evil/bin/node", 0o755)
	traps := 0
	for i, dir := range folders {
		at := func(kind string) string { return path.Join(dir, fmt.Sprintf("%s-1.%d/bin/node", kind, i)) }
		put(at("tree"), 0o755)
		require.NoError(t, os.MkdirAll(filepath.Join(root, path.Dir(path.Dir(at("tree"))), ".git"), 0o755))
		put(at("bare"), 0o755)
		for _, name := range []string{"HEAD", "objects", "refs"} {
			require.NoError(t, os.MkdirAll(filepath.Join(root, path.Dir(at("bare")), name), 0o755))
		}
		put(at("written"), 0o757)
		put(at("grouped"), 0o775)
		require.NoError(t, os.Chown(filepath.Join(root, at("grouped")), -1, otherGroup()))
		put(at("open"), 0o755)
		require.NoError(t, os.Chmod(filepath.Join(root, path.Dir(at("open"))), 0o777))
		put(at("foreign"), 0o755)
		if os.Geteuid() == 0 { // nobody else can give a file away
			require.NoError(t, os.Chown(filepath.Join(root, at("foreign")), 4711, -1))
		} else {
			require.NoError(t, os.Chmod(filepath.Join(root, at("foreign")), 0o757))
		}
		put(at("surveyed"), 0o755)
		link := filepath.Join(root, at("link"))
		require.NoError(t, os.MkdirAll(filepath.Dir(link), 0o755))
		require.NoError(t, os.Symlink("/evil/bin/node", link))
		traps += 8
	}
	require.Greater(t, traps, 100)
	require.NoError(t, os.MkdirAll(filepath.Join(root, "/opt/honest-2.1/bin"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(root, "/opt/honest-2.1/bin/node"), []byte("#!/usr/bin/perl\nprint \"v20.1.0\\n\";"), 0o755))

	m := probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: "linux", Home: "/home/fern"}, Files: root, Run: true, Now: time.Unix(0, 0),
		Path: []string{"/usr/bin", "/home/fern/tree-1.0/bin"}}
	for i, dir := range folders {
		m.Avoid = append(m.Avoid, path.Join(dir, fmt.Sprintf("surveyed-1.%d", i)))
	}
	found := map[string]string{}
	inv := take(t, m)
	for _, in := range inv.Installations {
		found[in.Path] = in.Version
		assert.NotEqual(t, "9.9.9", in.Version, in.Path)
	}
	assert.Equal(t, "20.1.0", found["/opt/honest-2.1/bin/node"], "what may be run is run")
	assert.Greater(t, len(found), 80, "and what may not is found all the same")
	passed := 0
	for _, over := range inv.PassedOver {
		assert.NotContains(t, found, over.Path)
		assert.NotEmpty(t, over.Why)
		passed++
	}
	assert.GreaterOrEqual(t, passed, 2*len(folders), "what lies in a bare repository or is surveyed is none of the machine's")
	ran, err := os.ReadFile(witness)
	assert.ErrorIs(t, err, os.ErrNotExist, "started: %s", ran)

	m.Run = false
	for _, in := range take(t, m).Installations {
		assert.NotEqual(t, "20.1.0", in.Version, "nothing is run")
	}
}

// TestNothingThatIsPointedAtIsStarted: variables and editors may name any folder, and what lies
// there is run only where it could be elsewhere.
func TestNothingThatIsPointedAtIsStarted(t *testing.T) {
	for kind, spoil := range map[string]func(home, executable string) error{
		"honest":   func(_, _ string) error { return nil },
		"tree":     func(home, _ string) error { return os.Mkdir(filepath.Join(home, ".git"), 0o755) },
		"above":    func(home, _ string) error { return os.MkdirAll(filepath.Join(filepath.Dir(home), ".git"), 0o755) },
		"written":  func(_, executable string) error { return os.Chmod(executable, 0o757) },
		"open":     func(home, _ string) error { return os.Chmod(home, 0o777) },
		"surveyed": func(_, _ string) error { return nil },
		"link": func(home, executable string) error {
			away := filepath.Join(filepath.Dir(filepath.Dir(home)), "away-"+filepath.Base(executable))
			return errors.Join(os.Rename(executable, away), os.Symlink("/data/"+filepath.Base(away), executable))
		},
	} {
		t.Run(kind, func(t *testing.T) {
			root := t.TempDir()
			witness := filepath.Join(t.TempDir(), "witness")
			says := map[string]string{"java": `version \"9.9.9\"`, "go": "go version go9.9.9 linux/amd64", "python3": "Python 3.9.9"}
			for name, home := range map[string]string{"java": "/data/kits/java", "go": "/data/kits/go", "python3": "/data/kits/python"} {
				executable := filepath.Join(root, home, "bin", name)
				layFile(t, executable, []byte("#!/usr/bin/perl\nopen F, '>>', '"+witness+"'; close F; print \""+says[name]+"\\n\";"))
				require.NoError(t, spoil(filepath.Join(root, home), executable))
			}
			layFile(t, filepath.Join(root, "home/fern/.config/Code/User/settings.json"), []byte(`{"python.defaultInterpreterPath": "/data/kits/python/bin/python3"}`))
			m := probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: "linux", Home: "/home/fern"}, Files: root, Run: true, Now: time.Unix(0, 0), Path: []string{},
				Env: map[string]string{"JAVA_HOME": "/data/kits/java", "GOROOT": "/data/kits/go"}}
			if kind == "surveyed" {
				m.Avoid = []string{"/data/kits"}
			}
			told := 0
			for _, in := range take(t, m).Installations {
				if strings.HasSuffix(in.Version, ".9.9") {
					told++
				}
			}
			_, err := os.Stat(witness)
			if kind == "honest" {
				assert.NoError(t, err)
				assert.Equal(t, 3, told, "what may be run is run")
				return
			}
			assert.ErrorIs(t, err, os.ErrNotExist)
			assert.Zero(t, told)
		})
	}
}

// searched are the folders in which installations are looked for on Linux.
func searched(t *testing.T) []string {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	places := c.Places().Machines
	out := []string{"/home/fern/.shed", "/home/fern/.local/share/kept", "/home/fern/tools"}
	for _, r := range places.Home {
		if r.OS == "" {
			out = append(out, path.Join("/home/fern", r.Path))
		}
	}
	for _, r := range places.Roots {
		if r.OS == "" {
			out = append(out, r.Path)
		}
	}
	return out
}

// otherGroup is a group that the user is not alone in.
func otherGroup() int {
	if os.Geteuid() == 0 {
		return 4711
	}
	return -1
}

// TestAskingHasLimits: what is asked has no network, a clean place, a time and a size, and
// what it starts ends with it.
func TestAskingHasLimits(t *testing.T) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer listener.Close()
	port := listener.Addr().(*net.TCPAddr).Port
	dir := t.TempDir()
	late := filepath.Join(dir, "late")
	home := filepath.Join(dir, "home")
	for name, script := range map[string]string{
		"network": fmt.Sprintf("use IO::Socket::INET; print IO::Socket::INET->new(PeerAddr => '127.0.0.1:%d', Timeout => 1) ? \"v6.6.6\\n\" : \"v20.0.1\\n\"", port),
		"child":   "if (fork() == 0) { sleep 4; open F, '>', '" + late + "'; exit } sleep 60",
		"place":   "opendir D, '.'; my @f = grep { !/^\\./ } readdir D; print @f || $ENV{HOME} eq '" + home + "' ? \"v6.6.6\\n\" : \"v20.0.2\\n\"",
		"flood":   "print 'x' x 65536 while 1",
	} {
		at := filepath.Join(home, ".shed", "nodes", name, "bin", "node")
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte("#!/usr/bin/perl\n"+script), 0o755))
	}
	m := probe.Local(time.Now())
	m.Info.Home, m.Path = home, []string{}
	begun := time.Now()
	got := map[string]string{}
	for _, in := range take(t, m).Installations {
		if in.Tool == "node" && strings.HasPrefix(in.Home, home) {
			got[filepath.Base(in.Home)] = in.Version + " " + in.Health
		}
	}
	assert.Equal(t, map[string]string{"network": "20.0.1 good", "child": " broken", "place": "20.0.2 good", "flood": " unknown"}, got)
	require.Eventually(t, func() bool { return time.Since(begun) > 5*time.Second }, 10*time.Second, 50*time.Millisecond)
	assert.NoFileExists(t, late, "what it started has ended with it")
}

// TestWhatWasSaidIsRemembered: an executable is asked once, and again when it is another one.
func TestWhatWasSaidIsRemembered(t *testing.T) {
	home, count := t.TempDir(), filepath.Join(t.TempDir(), "count")
	at := filepath.Join(home, ".shed", "nodes", "a", "bin", "node")
	require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
	write := func(version string) {
		require.NoError(t, os.WriteFile(at, []byte("#!/usr/bin/perl\nopen F, '>>', '"+count+"'; print F 'x'; print \"v"+version+"\\n\""), 0o755))
	}
	write("20.0.1")
	memory := filepath.Join(t.TempDir(), "deep", "said.json")
	ask := func() string {
		m := probe.Local(time.Now())
		m.Info.Home, m.Path, m.Tools, m.Said = home, []string{}, []string{"node"}, probe.OpenSaid(memory)
		version := ""
		for _, in := range take(t, m).Installations {
			if in.Path == at {
				version = in.Version
			}
		}
		require.NoError(t, m.Said.Close())
		return version
	}
	times := func() int {
		data, err := os.ReadFile(count)
		require.NoError(t, err)
		return len(data)
	}
	assert.Equal(t, "20.0.1", ask())
	assert.Equal(t, "20.0.1", ask())
	assert.Equal(t, 1, times(), "it is asked once")
	info, err := os.Stat(memory)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	write("22.11.0")
	assert.Equal(t, "22.11.0", ask(), "another executable is asked anew")
	assert.Equal(t, 2, times())
	require.NoError(t, os.WriteFile(memory, []byte("{"), 0o600))
	assert.Equal(t, "22.11.0", ask(), "what cannot be understood remembers nothing")
}
