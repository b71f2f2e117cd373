package assess_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
)

// TestWhatIsFetchedRuns: where a tool's own programs fetch what is asked for, an older one on the
// machine is what starts, and a note; where anything keeps them from it, it is an error.
func TestWhatIsFetchedRuns(t *testing.T) {
	has := func(tool, version string, more ...func(*inventory.Inventory)) inventory.Inventory {
		inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench", OS: "linux"},
			Installations: []inventory.Installation{{Tool: tool, Version: version, Path: "/opt/it/bin/it", Home: "/opt/it", Health: "good"}},
			FirstOnPath:   []inventory.OnPath{{Tool: tool, Path: "/opt/it/bin/it", Version: version}}}
		for _, change := range more {
			change(&inv)
		}
		return inv
	}
	set := func(tool, variable, raw string) func(*inventory.Inventory) {
		return func(inv *inventory.Inventory) {
			inv.Overrides = append(inv.Overrides, inventory.Override{Tool: tool, Variable: variable, Raw: raw})
		}
	}
	goMod := map[string]string{"go.mod": "module beds\n\ngo 1.26\n"}
	toolchain := map[string]string{"go.mod": "module beds\n\ngo 1.21\n\ntoolchain go1.26.3\n"}
	pnpm := map[string]string{"package.json": `{"packageManager": "pnpm@11.8.0"}`}
	for name, c := range map[string]struct {
		files    map[string]string
		machine  inventory.Inventory
		severity string
		says     string
	}{
		"a language version is fetched as its first release": {goMod, has("go", "1.23.3"), "note", "Go 1.23.3 starts on bench, fetches Go 1.26.0"},
		"a toolchain line":                       {toolchain, has("go", "1.23.3"), "note", "fetches Go 1.26.3, which go.mod:5 asks for"},
		"the variable asks for more":             {goMod, has("go", "1.23.3", set("go", "GOTOOLCHAIN", "go1.24.2+auto")), "note", "fetches Go 1.26.0"},
		"too old to fetch":                       {goMod, has("go", "1.20.5"), "error", "1.20.5 on bench would run"},
		"switched off by the variable":           {goMod, has("go", "1.23.3", set("go", "GOTOOLCHAIN", "local")), "error", "GOTOOLCHAIN=local keeps it from fetching another"},
		"only looked for on PATH":                {goMod, has("go", "1.23.3", set("go", "GOTOOLCHAIN", "path")), "error", "GOTOOLCHAIN=path keeps it"},
		"switched off by a file of its own":      {goMod, has("go", "1.23.3", func(inv *inventory.Inventory) { inv.Installations[0].Fetching = "off" }), "error", "1.23.3 on bench would run"},
		"no such release":                        {map[string]string{"go.mod": "module beds\n\ngo 1.26.99\n"}, has("go", "1.23.3"), "error", "1.23.3 on bench would run"},
		"pnpm fetches what packageManager names": {pnpm, has("pnpm", "10.30.0"), "note", "fetches pnpm 11.8.0, which package.json:1 asks for"},
		"an older pnpm does not":                 {pnpm, has("pnpm", "9.12.0"), "error", "bench has no such installation"},
		"pnpm is told not to": {map[string]string{"package.json": `{"packageManager": "pnpm@11.8.0"}`, ".npmrc": "manage-package-manager-versions=false\n"},
			has("pnpm", "10.30.0"), "error", "bench has no such installation"},
		"pnpm is told not to for another folder": {map[string]string{"package.json": `{"packageManager": "pnpm@11.8.0"}`, "web/.npmrc": "manage-package-manager-versions=false\n"},
			has("pnpm", "10.30.0"), "note", "fetches pnpm 11.8.0"},
		"what engines bound is not fetched": {map[string]string{"package.json": `{"engines": {"pnpm": ">=11"}, "packageManager": "npm@11.0.0"}`}, has("pnpm", "10.30.0"), "error", "10.30.0 on bench would run"},
		"a proxy fetches what is pinned": {map[string]string{"rust-toolchain": "1.90.0\n"}, has("rust", "1.85.0", func(inv *inventory.Inventory) { inv.FirstOnPath[0].Shim = true }),
			"note", "A proxy starts on bench, fetches Rust 1.90.0"},
		"what is no proxy does not": {map[string]string{"rust-toolchain": "1.90.0\n"}, has("rust", "1.85.0"), "error", "bench has no such installation"},
	} {
		t.Run(name, func(t *testing.T) {
			tool := c.machine.Installations[0].Tool
			found := 0
			for _, f := range judge(t, c.files, day, c.machine).Findings {
				if f.Tool != tool || f.Class != "toolchain-missing" && f.Class != "bound-violated" {
					continue
				}
				found++
				assert.Equal(t, c.severity, string(f.Severity), f.Message)
				assert.Contains(t, f.Message, c.says)
			}
			assert.Equal(t, 1, found)
		})
	}
}

// TestWhatIsFetchedIsJudged: rules and support are judged of what runs, not of what starts it.
func TestWhatIsFetchedIsJudged(t *testing.T) {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench"},
		Installations: []inventory.Installation{{Tool: "go", Version: "1.23.3", Path: "/opt/go/bin/go", Home: "/opt/go", Health: "good"}},
		FirstOnPath:   []inventory.OnPath{{Tool: "go", Path: "/opt/go/bin/go", Version: "1.23.3"}}}
	a := judge(t, map[string]string{"go.mod": "module beds\n\ngo 1.27.1\n"}, day, inv)
	assert.Equal(t, []string{"toolchain-missing"}, classes(a), "Go 1.23, which has ended, does not run")
	require.Len(t, a.Subjects, 1)
	assert.Equal(t, "1.27.1", a.Subjects[0].Resolutions[0].Version)
}

// TestToolsOfOneSystem: what exists for one system is missing on its machines alone.
func TestToolsOfOneSystem(t *testing.T) {
	files := map[string]string{"A.csproj": "<Project><PropertyGroup><TargetFrameworkVersion>v4.8</TargetFrameworkVersion></PropertyGroup></Project>"}
	on := func(name, os string) inventory.Inventory {
		return inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name, OS: os}}
	}
	a := judge(t, files, day, on("shed", "linux"), on("office", "windows"))
	require.Len(t, a.Findings, 1)
	assert.Equal(t, []string{"office"}, a.Findings[0].Machines)
	assert.Equal(t, "error", string(a.Findings[0].Severity))
	a = judge(t, files, day, on("shed", "linux"), on("lap", "darwin"))
	require.Len(t, a.Findings, 1)
	assert.Equal(t, "note", string(a.Findings[0].Severity))
	assert.Contains(t, a.Findings[0].Message, "exists for Windows alone, and no machine that is looked at is of such a system")
}
