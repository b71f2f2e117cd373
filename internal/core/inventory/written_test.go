package inventory_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// TestWrittenByHand: tools by any of their names, editors however they are spelled, and what comes
// with a tool; what is not known is told, and what was given stays as it is.
func TestWrittenByHand(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	inv := inventory.Inventory{
		Installations: []inventory.Installation{
			{Tool: "nodejs", Version: "24.21.0", Path: "/opt/node/bin/node", Home: "/opt/node", Components: map[string]string{"npm": "11.6.0"}},
			{Tool: "ruby", Version: "3.4.1", Path: "/opt/ruby/bin/ruby", Home: "/opt/ruby"},
			{Tool: "pyton", Version: "3.13.1", Path: "/opt/python/bin/python3"},
		},
		FirstOnPath: []inventory.OnPath{{Tool: "nodejs", Path: "/opt/node/bin/node"}},
		Editors:     []inventory.Wiring{{Tool: "java", Kind: inventory.WiredName, Editor: c.Places().Machines.Tables[0].Editor + " ", Name: "temurin"}, {Tool: "java", Kind: inventory.WiredName, Editor: "fern-editor"}},
	}
	m := inventory.NewMachine(inv, c)
	require.Len(t, m.Installed("node"), 1)
	first, there := m.FirstOnPath("node")
	assert.True(t, there)
	assert.Equal(t, "/opt/node/bin/node", first.Path)
	assert.Equal(t, "nodejs", inv.Installations[0].Tool, "what was given is as it was")
	assert.True(t, m.Is(inv))

	require.Len(t, m.Installed("npm"), 1, "it comes with Node.js, although nobody lists it")
	npm := m.Installed("npm")[0]
	assert.True(t, npm.Implied)
	assert.Equal(t, "11.6.0", npm.Version)
	first, there = m.FirstOnPath("npm")
	assert.True(t, there)
	assert.Equal(t, npm.Path, first.Path)
	require.Len(t, m.Installed("bundler"), 1)
	assert.True(t, m.Installed("bundler")[0].Number.IsZero(), "which one is not told")

	_, found, knows := m.Named(c.Places().Machines.Tables[0].Editor, "java", "temurin")
	assert.True(t, found && knows, "a name is the same however it is spelled")
	require.Len(t, m.Unmatched, 2)
	assert.Equal(t, `installations[2] is of the tool "pyton", which is not known; did you mean "python"?`, m.Unmatched[0])
	assert.Contains(t, m.Unmatched[1], `editors[1] is of "fern-editor"`)

	probed := inv
	probed.SearchPath = []inventory.PathFolder{{Folder: "/opt/node/bin", There: true}}
	assert.Empty(t, inventory.NewMachine(probed, c).Installed("npm"), "where somebody looked, there is what was found")
}

func TestCheckoutsByName(t *testing.T) {
	assert.Equal(t, "20c4d09b", inventory.Checkout{Path: "/home/fern/shop", Identity: "20c4d09b"}.Names())
	assert.Equal(t, "shop", inventory.Checkout{Path: `C:\work\shop`}.Names())
}
