package resolve_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

// TestWhichClaimsHold: claims hold for all below until a nearer one of the same kind says otherwise.
func TestWhichClaimsHold(t *testing.T) {
	files := map[string]string{
		".node-version":                  "22\n",
		"package.json":                   `{"engines": {"node": ">=20"}}`,
		".vscode/settings.json":          `{"eslint.runtime": "/opt/node/bin/node"}`,
		"web/package.json":               `{"engines": {"node": ">=22.12"}}`,
		"web/kiosk/package.json":         `{"name": "kiosk"}`,
		"web/kiosk/deep/.node-version":   "24\n",
		"api/.node-version":              "24\n",
		"api/.pins":                      "node 24.1.0\n",
		"api/inner/package.json":         `{"engines": {"node": "^24"}}`,
		"docs/pyproject.toml":            "[project]\nrequires-python = \">=3.12\"\n",
		"docs/examples/.python-version":  "3.13\n",
		"docs/examples/more/setup.py":    "",
		"unrelated/folder/.java-version": "21\n",
	}
	all, _ := subjects(t, files)
	for at, want := range map[string][]string{
		":node":                     {"pin 22", "bound >=20", "wiring /opt/node/bin/node"},
		"web:node":                  {"bound >=22.12", "pin 22"},
		"web/kiosk:node":            {"bound >=22.12", "pin 22"},
		"web/kiosk/deep:node":       {"pin 24", "bound >=22.12"},
		"api:node":                  {"pin 24", "pin 24.1.0", "bound >=20"},
		"api/inner:node":            {"bound ^24", "pin 24", "pin 24.1.0"},
		"docs:python":               {"bound >=3.12"},
		"docs/examples:python":      {"pin 3.13", "bound >=3.12"},
		"docs/examples/more:python": {"pin 3.13", "bound >=3.12"},
		"unrelated/folder:java":     {"pin 21"},
	} {
		require.Contains(t, all, at)
		var got []string
		for _, a := range all[at].Claims {
			got = append(got, string(a.Role)+" "+a.Raw)
		}
		assert.ElementsMatch(t, want, got, at)
	}
	assert.Len(t, all, 10, "folders that say nothing of a tool are not asked about it")
	assert.Equal(t, "api", all["api/inner:node"].PinFolder)
	assert.True(t, all["api:node"].Subject.Own(all["api:node"].Claims[0]))
	assert.False(t, all["web:node"].Subject.Own(all["web:node"].With(claim.Pin)[0]))
}

// TestWhatIsChosen: the newest working installation in the range, of the vendor that is asked for.
func TestWhatIsChosen(t *testing.T) {
	java := func(version, vendor, health string) inventory.Installation {
		path := "/opt/java/" + version + "-" + vendor
		return inventory.Installation{Tool: "java", Version: version, Vendor: vendor, Path: path + "/bin/java", Home: path, Origin: "versioned-root", Health: health}
	}
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench"}, Installations: []inventory.Installation{
		java("17.0.2+8", "temurin", "good"), java("17.0.15+6", "debian", "good"), java("17.0.16+8", "zulu", "broken"), java("21.0.8+9", "temurin", "good"), java("1.8.0_292-b10", "zulu", "good"), java("", "mystery", "unknown"),
	}}
	inv.Installations[0].Package, inv.Installations[0].Arch = "runtime", "arm64"
	inv.Installations[3].Variant = "mulch-2"
	for pin, want := range map[string]string{
		"17":                "17.0.15+6",
		"temurin-17":        "17.0.2+8",
		"temurin-17-jre":    "17.0.2+8",
		"temurin-17-jdk":    "", // it is a runtime only
		"temurin-17-arm64":  "17.0.2+8",
		"temurin-17-x64":    "",
		"17-jdk-x64":        "17.0.15+6", // of which nothing else is known
		"21-mulch-2":        "21.0.8+9",
		"21-mulch-3":        "",
		"17.0.2-tem":        "17.0.2+8",
		"zulu-17":           "", // the only one is broken
		"corretto-17":       "",
		"17.0.15+6":         "17.0.15+6",
		"17.0.15+7":         "",
		"17.0":              "17.0.15+6",
		"8":                 "1.8.0_292-b10",
		"1.8":               "1.8.0_292-b10",
		"1.8.0_292":         "1.8.0_292-b10",
		"8u292":             "1.8.0_292-b10",
		"lts":               "", // 25 on the day
		"openjdk-21":        "21.0.8+9",
		"java-21":           "21.0.8+9",
		"21.0.8+9":          "21.0.8+9",
		"temurin-21.0.8+9":  "21.0.8+9",
		"21.0.8-temurin":    "21.0.8+9",
		"adoptopenjdk-21":   "21.0.8+9",
		"eclipse-temurin-8": "",
	} {
		all, c := subjects(t, map[string]string{".java-version": pin + "\n"})
		r := all[":java"].on(inventory.NewMachine(inv, c), day)
		assert.Equal(t, want, r.Version, pin)
		if want == "" {
			assert.Equal(t, resolve.Missing, r.State, pin)
		} else {
			assert.Equal(t, resolve.Met, r.State, pin)
		}
	}
}

// TestNamesFollowTheDay: what a name in a pin stands for is looked up on the day.
func TestNamesFollowTheDay(t *testing.T) {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench"}}
	for _, v := range []string{"20.20.2", "22.23.3", "24.21.0", "26.1.0"} {
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "node", Version: v, Path: "/opt/node/" + v + "/bin/node", Home: "/opt/node/" + v, Health: "good"})
	}
	for _, c := range []struct{ pin, day, want string }{
		{"lts", "2024-10-01", "20.20.2"}, {"lts", "2025-01-01", "22.23.3"}, {"lts", "2026-10-27", "24.21.0"}, {"lts", "2026-10-28", "26.1.0"},
		{"latest", "2026-06-01", "26.1.0"}, {"lts/jod", "2020-01-01", "22.23.3"}, {"iron", "2030-01-01", "20.20.2"},
	} {
		on, err := time.Parse(time.DateOnly, c.day)
		require.NoError(t, err)
		all, cat := subjectsOn(t, map[string]string{".node-version": c.pin + "\n"}, on)
		assert.Equal(t, c.want, all[":node"].on(inventory.NewMachine(inv, cat), on).Version, "%s on %s", c.pin, c.day)
	}
}

func TestOverridesOfEveryKind(t *testing.T) {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench", Home: "/home/fern"}, Installations: []inventory.Installation{
		{Tool: "go", Version: "1.26.8", Path: "/home/fern/sdk/go1.26.8/bin/go", Home: "/home/fern/sdk/go1.26.8", Health: "good"},
		{Tool: "go", Version: "1.27.4", Path: "/usr/local/go/bin/go", Home: "/usr/local/go", Health: "good"},
	}}
	for raw, want := range map[string]string{"go1.26.8": "1.26.8", "1.27": "1.27.4", "/usr/local/go": "1.27.4", "~/sdk/go1.26.8": "1.26.8", "1.20.1": "1.20.1", "/nowhere": ""} {
		inv.Overrides = []inventory.Override{{Tool: "go", Variable: "GOTOOLCHAIN", Raw: raw}}
		all, c := subjects(t, map[string]string{"go.mod": "module x\n\ngo 1.26.0\n"})
		r := all[":go"].on(inventory.NewMachine(inv, c), day)
		assert.Equal(t, resolve.ByOverride, r.DecidedBy, raw)
		assert.Equal(t, want, r.Version, raw)
		assert.Equal(t, "GOTOOLCHAIN", r.Ladder[0].Where)
	}
}
