package assess_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
)

// TestWhichMachinesMatter: a repository is looked at from where it is built and from where
// somebody works on it.
func TestWhichMachinesMatter(t *testing.T) {
	machine := func(name, kind string, checkouts []inventory.Checkout) inventory.Inventory {
		inv := bench()
		inv.Machine.Name, inv.Machine.Kind, inv.Checkouts = name, kind, checkouts
		inv.Installations = nil
		return inv
	}
	held := []inventory.Checkout{{Path: "/home/fern/bed", Identity: "bed"}}
	all := []inventory.Inventory{
		machine("agent-1", "build-agent", nil), machine("agent-2", "build-agent", nil), machine("kiosk", "image", nil), machine("untold", "laptop", nil),
		machine("holder", "laptop", held), machine("stranger", "laptop", []inventory.Checkout{}), machine("inner", "subsystem", held), machine("plain", "", nil),
	}
	for name, c := range map[string]struct {
		decided policy.Settings
		want    []string
	}{
		"nothing decided": {policy.Settings{}, []string{"agent-1", "agent-2", "holder", "inner", "kiosk", "plain", "untold"}},
		"a group":         {policy.Settings{BuiltBy: []string{"second"}}, []string{"agent-2", "holder", "inner", "untold"}},
		"two groups":      {policy.Settings{BuiltBy: []string{"second", "kiosks"}}, []string{"agent-2", "holder", "inner", "kiosk", "untold"}},
		"an empty group":  {policy.Settings{BuiltBy: []string{"nobody"}}, []string{"holder", "inner", "untold"}},
		"one of laptops":  {policy.Settings{BuiltBy: []string{"strangers"}}, []string{"holder", "inner", "stranger", "untold"}},
	} {
		g := newGarden(map[string]string{".node-version": "20\n"}, all...)
		facts := assess.NewFacts(g.book)
		var machines []*inventory.Machine
		for _, inv := range g.machines {
			machines = append(machines, inventory.NewMachine(inv, g.catalogue))
		}
		decided := policy.Policy{Settings: c.decided, Machines: []policy.Machines{{Name: "agent-2", Tags: []string{"second"}}, {Name: "kiosk", Tags: []string{"kiosks"}}, {Name: "stranger", Tags: []string{"strangers"}}}}
		prepared := facts.Prepare(assess.Repository{Name: "bed", Identity: "bed", Reading: g.reader.Read(tree(g.files))}, decided)
		fleet := resolve.NewFleet(machines, facts.Wants, nil)
		results, err := assess.All(t.Context(), []*assess.Prepared{prepared}, fleet, day, assess.Earlier{})
		require.NoError(t, err)
		assert.Equal(t, c.want, fleet.Names(results[0].Among), name)
		missing := slices.IndexFunc(results[0].Findings, func(f *assess.Finding) bool { return f.Class.Name == "toolchain-missing" })
		require.GreaterOrEqual(t, missing, 0, name)
		assert.Equal(t, c.want, fleet.Names(results[0].Findings[missing].Machines), "%s: what is missing is missing where it matters", name)
	}
}
