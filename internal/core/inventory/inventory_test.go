package inventory_test

import (
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
