package resolve_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/catalogue"
	calendar "wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

// paths are what editors and variables may point at.
var paths = []string{"~", "~/.local/python/3.12.4/bin/python3", "~/.local/python/3.12.4", "/opt/python/3.12.4/bin/python3", "/home/moss/.local/python/3.12.4/bin/python3", "/home/fern", "python3"}

// anyInventory has some installations, for everybody or in somebody's home.
func anyInventory(t *rapid.T) inventory.Inventory {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Kind: "laptop"}}
	for _, v := range rapid.SliceOfDistinct(rapid.SampledFrom([]string{"3.11.2", "3.12.4", "3.13.1"}), func(v string) string { return v }).Draw(t, "versions") {
		at := rapid.SampledFrom([]string{"/opt", "/home/moss/.local", "/home"}).Draw(t, "root") + "/python/" + v
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "python", Version: v, Path: at + "/bin/python3", Home: at, Origin: "versioned-root", Health: "good"})
	}
	if rapid.Bool().Draw(t, "overrides") {
		inv.Overrides = []inventory.Override{{Tool: "python", Variable: "PYTHON", Raw: rapid.SampledFrom(paths).Draw(t, "override")}}
	}
	if rapid.Bool().Draw(t, "defaults") {
		inv.Defaults = []inventory.Default{{Tool: "python", Raw: "3.12", Source: "~/.python-version"}}
	}
	return inv
}

// TestMachinesTogetherComeToWhatEachComesToAlone: a class is machines that nothing tells apart.
func TestMachinesTogetherComeToWhatEachComesToAlone(t *testing.T) {
	all, c := subjects(t, map[string]string{".python-version": "3.12\n", "web/.python-version": "3.11\n", "bed/pyproject.toml": "[project]\nrequires-python = \">=3.12\"\n"})
	tool, _ := c.Tool("python")
	rapid.Check(t, func(t *rapid.T) {
		var machines []*inventory.Machine
		inv := anyInventory(t)
		for i := range rapid.IntRange(1, 5).Draw(t, "machines") {
			if rapid.IntRange(0, 2).Draw(t, "other") == 0 { // most are like the one before, but for whose they are
				inv = anyInventory(t)
			}
			inv.Machine.Name, inv.Machine.Home = fmt.Sprint("bench-", i), rapid.SampledFrom([]string{"", "/home/moss", "/home/fern", "/home/fern/"}).Draw(t, "home")
			machines = append(machines, inventory.NewMachine(inv, c))
		}
		together := resolve.NewFleet(machines, &resolve.Wants{}, nil).Of(tool)
		for i, m := range machines {
			alone := resolve.NewFleet([]*inventory.Machine{m}, &resolve.Wants{}, nil).Of(tool)
			for _, raw := range paths {
				found, there := together.Of[i].LeadsTo(raw)
				want, wanted := alone.Of[0].LeadsTo(raw)
				require.Equal(t, wanted, there, "%s of %s", raw, m.Name())
				if want != nil {
					require.NotNil(t, found)
					require.Equal(t, want.Path, found.Path)
				}
			}
			for at, a := range all {
				got := *together.Resolve(a.Question, calendar.On(day)).Comes(i)
				want := *alone.Resolve(a.Question, calendar.On(day)).Comes(0)
				got.Machines, want.Machines = resolve.Machines{}, resolve.Machines{}
				if got.Path == "" { // they do not share it
					want.Path = ""
				}
				require.Equal(t, want, got, "%s on %s", at, m.Name())
			}
		}
	})
}

// TestWhoseHomeItIsDoesNotMatter unless something of the tool lies in it.
func TestWhoseHomeItIsDoesNotMatter(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	tool, _ := c.Tool("python")
	at := func(name, home, root string) *inventory.Machine {
		return machine(c, func(inv *inventory.Inventory) {
			inv.Machine.Name, inv.Machine.Home = name, home
			inv.Installations = []inventory.Installation{{Tool: "python", Version: "3.12.4", Path: root + "/bin/python3", Home: root, Origin: "versioned-root", Health: "good"}}
		})
	}
	classes := func(machines ...*inventory.Machine) int {
		return len(resolve.NewFleet(machines, &resolve.Wants{}, nil).Of(tool).Classes)
	}
	assert.Equal(t, 1, classes(at("a", "/home/moss", "/opt/python/3.12.4"), at("b", "/home/fern", "/opt/python/3.12.4")))
	assert.Equal(t, 2, classes(at("a", "/home/moss", "/home/moss/python"), at("b", "/home/fern", "/home/moss/python")))
	assert.Equal(t, 2, classes(at("a", "/home/moss", "/home"), at("b", "/home/fern", "/home")))
	assert.Equal(t, 2, classes(at("a", "", "/opt/python/3.12.4"), at("b", "/home/fern", "/opt/python/3.12.4")), "a path that begins with ~ is nothing where no home is known")
}
