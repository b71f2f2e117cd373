package assess_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/unseen"
)

// gapsOf are what was not seen of some files, on the bench.
func gapsOf(t *testing.T, files map[string]string, machines ...inventory.Inventory) []unseen.Gap {
	g := newGarden(files, machines...)
	result, _, fleet := g.judge(t)
	return append(result.Gaps(), result.Undecided(fleet)...)
}

// TestGaps: what cannot be understood is a gap of the tools that it may speak of; what counts apart
// is none.
func TestGaps(t *testing.T) {
	for name, c := range map[string]struct {
		files map[string]string
		tools []string
		place string
	}{
		"a manifest":   {map[string]string{"web/package.json": "{"}, []string{"node"}, "bed/web/package.json:1"},
		"a pin":        {map[string]string{".node-version": "fern\n"}, []string{"node"}, "bed/.node-version:1"},
		"a range":      {map[string]string{"package.json": `{"engines": {"node": ">=fern"}}`}, []string{"node"}, "bed/package.json:1"},
		"own rules":    {map[string]string{".wexo.yaml": "fern: 1\n"}, nil, "bed/.wexo.yaml:1"},
		"a pipeline":   {map[string]string{".github/workflows/a.yml": "on: [\n"}, nil, "bed/.github/workflows/a.yml"},
		"counts apart": {map[string]string{"testdata/package.json": "{"}, nil, ""},
	} {
		t.Run(name, func(t *testing.T) {
			got := gapsOf(t, c.files, bench())
			if c.place == "" {
				assert.Empty(t, got)
				return
			}
			require.Len(t, got, 1)
			assert.Equal(t, unseen.Open, got[0].Weight)
			assert.Contains(t, got[0].Place(), c.place)
			if c.tools != nil {
				assert.Subset(t, got[0].Tools, c.tools)
			}
		})
	}
}

// TestNobodyLooksAtIt: a repository that no machine that is looked at builds or holds is compared
// with nothing.
func TestNobodyLooksAtIt(t *testing.T) {
	laptop := bench()
	laptop.Checkouts = []inventory.Checkout{}
	got := gapsOf(t, map[string]string{".node-version": "99\n"}, laptop)
	require.Len(t, got, 1)
	assert.Contains(t, got[0].What, "compared with nothing")
	laptop.Checkouts = []inventory.Checkout{{Path: "/home/fern/work/bed"}}
	assert.Empty(t, gapsOf(t, map[string]string{".node-version": "24\n"}, laptop), "by its folder's name it holds it")
}

// TestInstalledAndNotReached: what is there and on no PATH is not said to be missing.
func TestInstalledAndNotReached(t *testing.T) {
	inv := bench()
	inv.FirstOnPath = nil
	found := of(judge(t, map[string]string{"package.json": `{"engines": {"node": ">=20"}}`}, day, inv), "toolchain-missing")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "it is installed and not reached: 24.21.0 at ")
	assert.Contains(t, found[0].Remedy, "first on PATH there.")
}

// TestWhatRunsAsItIs: where nothing follows version files, what PATH runs is told beside the pin,
// and such a machine is not ready; one that only builds is, where a pipeline sets the tool up.
func TestWhatRunsAsItIs(t *testing.T) {
	ready := func(files map[string]string, inv inventory.Inventory) bool {
		g := newGarden(files, inv)
		result, _, fleet := g.judge(t)
		return !result.Unready(fleet).Has(0)
	}
	inv := bench()
	pinned := map[string]string{".node-version": "22\n"}
	inv.Installations = append(inv.Installations, inventory.Installation{Tool: "node", Version: "22.23.3", Path: "/opt/n22/bin/node", Home: "/opt/n22", Health: "good"})
	require.Equal(t, "24.21.0", inv.FirstOnPath[indexOf(inv, "node")].Version)
	assert.False(t, ready(pinned, inv), "PATH runs 24, and nothing follows the pin")
	assert.True(t, ready(map[string]string{".node-version": "24\n"}, inv))
	agent := inv
	agent.Machine.Kind = "build-agent"
	assert.False(t, ready(pinned, agent))
	pinned[".github/workflows/a.yml"] = "jobs:\n  a:\n    steps:\n      - uses: actions/setup-node@v4\n        with: {node-version: 22}\n"
	assert.True(t, ready(pinned, agent), "its pipeline sets it up")
	assert.False(t, ready(pinned, inv))
}

func indexOf(inv inventory.Inventory, tool string) int {
	for i, p := range inv.FirstOnPath {
		if p.Tool == tool {
			return i
		}
	}
	return -1
}

// TestTally: every finding counts once, and those apart nowhere else.
func TestTally(t *testing.T) {
	class := assess.Classes()[0]
	list := []*assess.Finding{{Class: class, Severity: assess.Error, Repository: &assess.Prepared{Repository: assess.Repository{Name: "bed"}}}, {Class: class, Severity: assess.Note, Apart: true, Repository: &assess.Prepared{}}, {Class: class, Severity: assess.Note, Repository: &assess.Prepared{}}}
	got := assess.TallyOf(list)
	assert.Equal(t, [2]int{2, 1}, [2]int{got.Counted, got.Apart})
	assert.Equal(t, map[assess.Severity]int{assess.Error: 1, assess.Note: 1}, got.BySeverity)
	assert.Equal(t, []assess.Standing{assess.Open, assess.Apart, assess.OfMachine}, []assess.Standing{list[0].Standing(), list[1].Standing(), list[2].Standing()})
}
