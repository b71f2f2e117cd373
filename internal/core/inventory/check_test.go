package inventory_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/inventory"
)

func whole() inventory.Inventory {
	return inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "potting-bench", OS: "linux", Kind: "laptop"}, TakenAt: time.Date(2026, 11, 16, 8, 0, 0, 0, time.UTC),
		Installations: []inventory.Installation{{Tool: "node", Version: "22.11.0", Path: "/opt/node/bin/node", Components: map[string]string{"npm": "10.9"}, Packages: map[string]string{"tulip": "2.3"}}},
		FirstOnPath:   []inventory.OnPath{{Tool: "node", Path: "/usr/bin/node"}}, Defaults: []inventory.Default{{Tool: "node", Raw: "22"}}, Overrides: []inventory.Override{{Tool: "node", Variable: "BED"}}}
}

func TestReadIsParse(t *testing.T) {
	data, err := json.Marshal(whole())
	require.NoError(t, err)
	read, err := inventory.Read(strings.NewReader(string(data)))
	require.NoError(t, err)
	parsed, err := inventory.Parse(data)
	require.NoError(t, err)
	assert.Equal(t, parsed, read)
	assert.Equal(t, whole(), read)
}

// refused are changes to a good inventory after which it is none, with what is said of them.
func refused() map[string]func(*inventory.Inventory) {
	return map[string]func(*inventory.Inventory){
		"machine.name is missing":                       func(i *inventory.Inventory) { i.Machine.Name = " " },
		"machine.name has 201 characters":               func(i *inventory.Inventory) { i.Machine.Name = strings.Repeat("a", 201) },
		"machine.name holds a control character":        func(i *inventory.Inventory) { i.Machine.Name = "a\nb" },
		"machine.name begins or ends with a space":      func(i *inventory.Inventory) { i.Machine.Name = "a " },
		"machine.os holds a control character":          func(i *inventory.Inventory) { i.Machine.OS = "\x1b[31m" },
		"machine.home holds a control character":        func(i *inventory.Inventory) { i.Machine.Home = "/home/\u202egardener" },
		"machine.kind should be one of laptop, build":   func(i *inventory.Inventory) { i.Machine.Kind = "greenhouse" },
		"installations[0].version holds a control":      func(i *inventory.Inventory) { i.Installations[0].Version = "1\x00" },
		"installations[0].path has 5000 characters":     func(i *inventory.Inventory) { i.Installations[0].Path = strings.Repeat("a", 5000) },
		"installations[0] needs tool and path":          func(i *inventory.Inventory) { i.Installations[0].Tool = "" },
		"installations[0].sizeBytes is negative":        func(i *inventory.Inventory) { i.Installations[0].SizeBytes = -1 },
		"installations[0].packages: a name holds":       func(i *inventory.Inventory) { i.Installations[0].Packages["a\tb"] = "1" },
		`installations[0].components["npm"] holds`:      func(i *inventory.Inventory) { i.Installations[0].Components["npm"] = "\r" },
		"installations[0].packages has 20001 entries":   func(i *inventory.Inventory) { i.Installations[0].Packages = many(20_001) },
		"installations has more than 5000 entries":      func(i *inventory.Inventory) { i.Installations = make([]inventory.Installation, 5_001) },
		"firstOnPath has more than 1000 entries":        func(i *inventory.Inventory) { i.FirstOnPath = make([]inventory.OnPath, 1_001) },
		"defaults[0].raw has 300 characters":            func(i *inventory.Inventory) { i.Defaults[0].Raw = strings.Repeat("a", 300) },
		"overrides[0].variable holds a control":         func(i *inventory.Inventory) { i.Overrides[0].Variable = "A\u0085" },
		`format is "wexo.inventory/2"; "wexo.inventory`: func(i *inventory.Inventory) { i.Format = "wexo.inventory/2" },
	}
}

// TestWhatIsRefused: errors name the field, and no words of the language this is written in.
func TestWhatIsRefused(t *testing.T) {
	for want, change := range refused() {
		inv := whole()
		change(&inv)
		data, err := json.Marshal(inv)
		require.NoError(t, err)
		_, err = inventory.Read(strings.NewReader(string(data)))
		assert.ErrorContains(t, err, want)
	}
	for text, want := range map[string]string{
		"":                                     "it ends before its end",
		"[]":                                   "it should be a JSON object",
		"{":                                    "it ends before its end",
		`{"format": 3}`:                        "format should be a text",
		`{"machine": {"name": []}}`:            "machine.name should be a text",
		`{"machine": "a"}`:                     "machine should be an object",
		`{"takenAt": "yesterday"}`:             "takenAt should be a time",
		`{"takenAt": 3}`:                       "takenAt should be a time",
		`{"installations": {}}`:                "installations should be a list",
		`{"installations": [{"version": 3}]}`:  "installations[0].version should be a text",
		`{"installations": [1]}`:               "installations[0] should be an object",
		`{"installations": [{"packages": 1}]}`: "installations[0].packages should be an object",
		`{"defaults": [}`:                      "it is no JSON at byte",
		`{"a": {}} {}`:                         "something stands behind",
		`{"a": nope}`:                          "it is no JSON at byte",
	} {
		_, err := inventory.Read(strings.NewReader(text))
		if assert.ErrorContains(t, err, want, text) {
			for _, word := range []string{"json:", "Go ", "struct", "unmarshal"} {
				assert.NotContains(t, err.Error(), word, text)
			}
		}
	}
}

func many(n int) map[string]string {
	out := make(map[string]string, n)
	for i := range n {
		out[fmt.Sprint("plant", i)] = "1"
	}
	return out
}
