package probe_test

import (
	"maps"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

// TestWhatKeepsToolsFromFetching: the environment says it before the user's own file, and that one
// before the file that an installation brings.
func TestWhatKeepsToolsFromFetching(t *testing.T) {
	const users, own = "/home/fern/.config/go/env", "/usr/local/go/go.env"
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for name, k := range map[string]struct {
		files, env map[string]string
		off        string // what switches it off, as it is told; empty where nothing does
		itself     bool   // the installation's own file does
	}{
		"nothing":                           {nil, nil, "", false},
		"the environment":                   {nil, map[string]string{"GOTOOLCHAIN": "local"}, "GOTOOLCHAIN=local", false},
		"the user's file":                   {map[string]string{users: "GOTOOLCHAIN=path\n"}, nil, "GOTOOLCHAIN=path in ~/.config/go/env", false},
		"the installation's own file":       {map[string]string{own: "GOPROXY=off\nGOTOOLCHAIN=local\n"}, nil, "", true},
		"the environment against a file":    {map[string]string{users: "GOTOOLCHAIN=local\n"}, map[string]string{"GOTOOLCHAIN": "auto"}, "", false},
		"the user against the installation": {map[string]string{users: "GOTOOLCHAIN=auto\n", own: "GOTOOLCHAIN=local\n"}, nil, "", false},
		"a file that says something else":   {map[string]string{users: "# GOTOOLCHAIN=local\nGOFLAGS=-mod=mod\n"}, nil, "", false},
	} {
		t.Run(name, func(t *testing.T) {
			files := map[string]string{
				"/usr/local/go/bin/go": "exec", "/usr/local/go/VERSION": "go1.26.8\n",
				"/usr/local/go/pkg/tool/linux_amd64/compile": "exec", "/usr/local/go/src/runtime/proc.go": "",
			}
			maps.Copy(files, k.files)
			inv := take(t, probe.Machine{Info: inventory.MachineInfo{Name: "bench", OS: "linux", Arch: "amd64", Home: "/home/fern"},
				Files: disk(t, files), Path: []string{"/usr/local/go/bin"}, Env: k.env, Now: time.Unix(0, 0).UTC()})
			m := inventory.NewMachine(inv, c)
			require.Len(t, m.Installed("go"), 1)
			assert.Equal(t, k.off, m.FetchesNothing("go"))
			assert.Equal(t, k.itself, m.Installed("go")[0].Fetching == "off")
			_, overrides := m.Override("go")
			assert.False(t, overrides, "what only switches fetching off chooses no version")
		})
	}
}
