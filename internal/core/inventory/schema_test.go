package inventory_test

import (
	"encoding/json"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/inventory"
)

func schema(t *testing.T) func(data []byte) error {
	t.Helper()
	const file = "../../../docs/schemas/inventory.schema.json"
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(text)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	require.NoError(t, c.AddResource(file, doc))
	s, err := c.Compile(file)
	require.NoError(t, err)
	return func(data []byte) error {
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(data)))
		if err != nil {
			return err
		}
		return s.Validate(doc)
	}
}

// full has every list and field of an inventory.
func full() inventory.Inventory {
	inv := whole()
	inv.Machine.Parent, inv.Machine.Home, inv.ReportEvery = "orchid-desk", "/home/fern", (6 * time.Hour).String()
	inv.Installations[0].Parts, inv.Installations[0].SystemPackage = map[string]bool{"headers": true}, "node 22.11.0-1"
	inv.Proxies = []inventory.Proxy{{Tool: "node", Path: "/home/fern/shed/node", Folders: []inventory.FolderChoice{{Folder: "/home/fern/beds", Raw: "22"}}}}
	inv.SearchPath = []inventory.PathFolder{{Folder: "/usr/bin", There: true, Tools: []inventory.PathedTool{{Tool: "node", Name: "node", Wins: true}}}}
	inv.Startup = []inventory.StartupLine{{File: "/home/fern/.profile", Line: 3, Variable: "PATH", Raw: "~/bin", Value: "/home/fern/bin"}}
	inv.Editors = []inventory.Wiring{{Tool: "java", Kind: inventory.WiredName, Editor: "an editor", Name: "21", Path: "/opt/java"}}
	inv.Checkouts = []inventory.Checkout{{Path: "/home/fern/beds", Identity: "beds"}}
	return inv
}

// TestThePublishedSchema: it takes what is shipped and written, and refuses what the reader does.
func TestThePublishedSchema(t *testing.T) {
	check := schema(t)
	for want, change := range refused() {
		inv := whole()
		change(&inv)
		data, err := json.Marshal(inv)
		require.NoError(t, err)
		assert.Error(t, check(data), want)
	}
	data, err := json.Marshal(full())
	require.NoError(t, err)
	assert.NoError(t, check(data))
	shipped, err := filepath.Glob("../../../demo/inventories/*.json")
	require.NoError(t, err)
	for _, file := range shipped {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.NoError(t, check(data), file)
	}
}

// TestTheSchemaAndTheReaderAgree: what the schema takes is read, and what was read is
// written so that the schema takes it.
func TestTheSchemaAndTheReaderAgree(t *testing.T) {
	check := schema(t)
	good, err := json.Marshal(full())
	require.NoError(t, err)
	odd := func() []any { // anew each time, for they are changed too
		return []any{nil, "", "tulip", " ", "a\tb", "a\u202eb", strings.Repeat("é", 150), strings.Repeat("x", 201), strings.Repeat("x", 4097), 0, -1, 7, true, []any{}, map[string]any{},
			[]any{"x"}, map[string]any{"x": "y"}, "6h", "0s", "laptop", "wexo.inventory/1", "2026-11-16T08:00:00Z", "today"}
	}
	rapid.Check(t, func(t *rapid.T) {
		var doc any
		require.NoError(t, json.Unmarshal(good, &doc))
		for range rapid.IntRange(1, 3).Draw(t, "changes") {
			doc = changed(t, doc, odd)
		}
		data, err := json.Marshal(doc)
		require.NoError(t, err)
		inv, err := inventory.Parse(data)
		if said := check(data); said == nil {
			require.NoError(t, err, "%s", data)
		}
		if err == nil {
			again, err := json.Marshal(inv)
			require.NoError(t, err)
			require.NoError(t, check(again), "%s", again)
		}
	})
}

// changed is a document with one of its values put in place of another, or taken out.
func changed(t *rapid.T, doc any, odd func() []any) any {
	switch doc := doc.(type) {
	case map[string]any:
		if len(doc) > 0 && rapid.IntRange(0, 9).Draw(t, "deeper") > 0 {
			key := rapid.SampledFrom(slices.Sorted(maps.Keys(doc))).Draw(t, "key")
			if rapid.IntRange(0, 9).Draw(t, "gone") == 0 {
				delete(doc, key)
			} else {
				doc[key] = changed(t, doc[key], odd)
			}
			return doc
		}
	case []any:
		if len(doc) > 0 && rapid.IntRange(0, 9).Draw(t, "deeper") > 0 {
			i := rapid.IntRange(0, len(doc)-1).Draw(t, "index")
			doc[i] = changed(t, doc[i], odd)
			return doc
		}
	}
	return rapid.SampledFrom(odd()).Draw(t, "odd")
}
