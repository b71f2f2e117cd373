package inventory_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

const written = `{ "format": "wexo.inventory/1",
  "machine": {"name": "potting-bench", "os": "linux", "arch": "amd64", "kind": "laptop", "home": "/home/fern"},
  "takenAt": "2026-11-16T08:00:00Z",
  "installations": [
    {"tool": "python", "version": "3.12.4", "path": "/opt/python/3.12.4/bin/python3.12", "home": "/opt/python/3.12.4", "origin": "versioned-root", "health": "good"},
    {"tool": "python", "version": "3.10.1", "path": "/home/fern/py/3.10.1/bin/python3.10", "home": "/home/fern/py/3.10.1", "origin": "versioned-root", "health": "good"},
    {"tool": "python", "version": "3.13.0", "path": "/opt/python/3.13.0/bin/python3.13", "home": "/opt/python/3.13.0", "origin": "versioned-root", "health": "broken"},
    {"tool": "python", "version": "3.11.2", "path": "/usr/bin/python3.11", "home": "/usr", "origin": "system", "health": "good"}],
  "firstOnPath": [], "defaults": [], "overrides": [], "addedLater": true }`

func machine(t *testing.T) *inventory.Machine {
	t.Helper()
	inv, err := inventory.Parse([]byte(written))
	require.NoError(t, err)
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	return inventory.NewMachine(inv, c)
}

func TestPathsToInstallations(t *testing.T) {
	for path, want := range map[string]string{
		"/opt/python/3.12.4/bin/python3.12":   "3.12.4",
		"/opt/python/3.12.4/bin/python":       "3.12.4",
		"/opt/python/3.12.4":                  "3.12.4",
		"/opt/python/3.12.4/bin/../bin/pip":   "3.12.4",
		"~/py/3.10.1/bin/python":              "3.10.1",
		"/usr/bin/python3":                    "3.11.2",
		"/usr/bin/python3.11":                 "3.11.2",
		"/usr/bin/python3.9":                  "",
		"/usr/local/bin/python3":              "",
		"/opt/python/3.9.9/bin/python":        "",
		"/opt/python/3.12.40/bin/python":      "",
		`\opt\python\3.12.4\bin\python`:       "3.12.4",
		"/home/someone/else/py/3.10.1/python": "",
	} {
		found, there := machine(t).At("python", path)
		if want == "" {
			assert.False(t, there, path)
			assert.Nil(t, found, path)
			continue
		}
		if assert.NotNil(t, found, path) {
			assert.Equal(t, want, found.Version, path)
		}
	}
}

func TestFollowedPaths(t *testing.T) {
	m := machine(t)
	m.Followed = map[string]string{"/work/.venv/bin/python": "/opt/python/3.12.4/bin/python3.12", "/work/odd": "/bin/odd", "/work/gone": ""}
	found, there := m.At("python", "/work/.venv/bin/python")
	assert.True(t, there)
	assert.Equal(t, "3.12.4", found.Version)
	found, there = m.At("python", "/work/odd")
	assert.True(t, there, "something is there")
	assert.Nil(t, found, "but no installation")
	_, there = m.At("python", "/work/gone")
	assert.False(t, there)
}

func TestNewestAndNearest(t *testing.T) {
	m := machine(t)
	any := version.Releases(version.PEP440)
	assert.Equal(t, "3.12.4", m.Newest("python", any, inventory.Build{}).Version, "a broken installation is not chosen")
	set, err := version.ParseRange("plain", version.PEP440, "3.11.9")
	require.NoError(t, err)
	assert.Nil(t, m.Newest("python", set, inventory.Build{}))
	var near []string
	for _, in := range m.Nearest("python", set) {
		near = append(near, in.Version)
	}
	assert.Equal(t, []string{"3.11.2", "3.12.4"}, near)
}

func TestBadInventories(t *testing.T) {
	for name, c := range map[string][2]string{
		"broken":       {"{\n\"format\": ,\n}", "line 2"},
		"wrong kind":   {"{\"format\": \"wexo.inventory/1\",\n\"machine\": {\"name\": 3}}", "line 2"},
		"other format": {`{"format": "wexo.inventory/9"}`, "wexo.inventory/1"},
		"no name":      {`{"format": "wexo.inventory/1", "machine": {}}`, "machine.name"},
		"no list":      {`{"format": "wexo.inventory/1", "machine": {"name": "bench"}}`, "installations is missing; where there are none, give an empty list"},
		"misspelt":     {`{"format": "wexo.inventory/1", "machine": {"name": "bench"}, "instalations": []}`, `installations is missing, and "instalations" is no part of an inventory`},
		"no path":      {`{"format": "wexo.inventory/1", "machine": {"name": "x"}, "installations": [{"tool": "go"}]}`, "installations[0]"},
	} {
		_, err := inventory.Parse([]byte(c[0]))
		assert.ErrorContains(t, err, c[1], name)
	}
}

// TestPathsOfWindows: backslashes, drives, cases, variables and the home mean what they mean
// there.
func TestPathsOfWindows(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	m := inventory.NewMachine(inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "desk", OS: "windows", Home: `C:\Users\fern`}, Installations: []inventory.Installation{
		{Tool: "python", Version: "3.12.4", Path: `C:\Users\fern\AppData\Local\Programs\Python\Python312\python.exe`, Home: `C:\Users\fern\AppData\Local\Programs\Python\Python312`, Origin: "versioned-root", Health: "good"},
		{Tool: "java", Version: "21.0.5", Path: `C:\Program Files\Java\jdk-21\bin\java.exe`, Home: `C:\Program Files\Java\jdk-21`, Origin: "versioned-root", Health: "good"},
	}}, c)
	for path, want := range map[string]string{
		`C:\Users\fern\AppData\Local\Programs\Python\Python312\python.exe`: "3.12.4",
		`c:/users/FERN/appdata/local/programs/python/python312/Python.exe`: "3.12.4",
		`%LOCALAPPDATA%\Programs\Python\Python312\python.exe`:              "3.12.4",
		`%UserProfile%\AppData\Local\Programs\Python\Python312`:            "3.12.4",
		`~\AppData\Local\Programs\Python\Python312\pythonw.exe`:            "3.12.4",
		`C:\Users\fern\AppData\Local\Programs\Python\Python313\python.exe`: "",
		`/usr/bin/python3`: "",
	} {
		assert.True(t, inventory.IsPath(path), path)
		found, _ := m.At("python", path)
		if want == "" {
			assert.Nil(t, found, path)
		} else if assert.NotNil(t, found, path) {
			assert.Equal(t, want, found.Version, path)
		}
	}
	found, _ := m.At("java", `%ProgramFiles%\Java\jdk-21`)
	assert.NotNil(t, found)
	assert.True(t, m.InHome(`C:\Users\fern\x`))
	assert.True(t, m.InHome(`D:\Users\moss\x`), "somebody else's home")
	assert.False(t, m.InHome(`C:\Program Files\Java`))
	assert.True(t, m.AtHome("python"))
	assert.False(t, m.AtHome("java"))
	for _, no := range []string{"", "python3", "C:", "C:python", "%PATH%", "%LOCALAPPDATA%x", "${workspaceFolder}/x", "a:b"} {
		assert.False(t, inventory.IsPath(no), no)
	}
	assert.True(t, inventory.IsPath(`\\share\tools\python.exe`))
}

func TestChanges(t *testing.T) {
	at := func(version, health string) inventory.Installation {
		return inventory.Installation{Tool: "node", Version: version, Path: "/opt/node/bin/node", Health: health}
	}
	before := inventory.Inventory{Installations: []inventory.Installation{at("22.11.0", "good"), {Tool: "go", Version: "1.26.8", Path: "/opt/go/bin/go", Health: "good"}},
		Overrides: []inventory.Override{{Tool: "go", Variable: "GOROOT", Raw: "/opt/go"}}}
	now := inventory.Inventory{Installations: []inventory.Installation{at("24.21.0", "broken"), {Tool: "java", Version: "21", Vendor: "zulu", Path: "/opt/java/bin/java", Health: "broken"}},
		Proxies: []inventory.Proxy{{Tool: "node", Path: "/x/node", Picks: "/opt/node", Version: "24.21.0"}}}
	assert.Empty(t, inventory.Changes(now, now))
	var told []string
	for _, c := range inventory.Changes(before, now) {
		told = append(told, strings.Join([]string{c.What, c.Tool, c.Path, c.Before, c.Now}, "|"))
		assert.False(t, c.Came() && c.Went())
	}
	assert.Equal(t, []string{
		"installation|go|/opt/go/bin/go|1.26.8|", "override|go|GOROOT|/opt/go|",
		"installation|java|/opt/java/bin/java||21 zulu",
		"health|node|/opt/node/bin/node|good|broken", "installation|node|/opt/node/bin/node|22.11.0|24.21.0", "proxy|node|/x/node||24.21.0 at /opt/node",
	}, told)
}
