package resolve_test

import (
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	calendar "wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/resolve"
)

var day = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

func subjects(t *testing.T, files map[string]string) (map[string]asking, *catalogue.Catalogue) {
	t.Helper()
	return subjectsOn(t, files, day)
}

// asking is a subject with its question.
type asking struct {
	*resolve.Subject
	*resolve.Question
	pins []int
}

// resolved is what would run on one machine, with its ladder.
type resolved struct {
	resolve.Outcome
	Ladder []resolve.Rung
}

func (a asking) on(m *inventory.Machine, on time.Time) resolved {
	c := resolve.NewFleet([]*inventory.Machine{m}, &resolve.Wants{}, nil).Of(a.Subject.Tool)
	o := c.Resolve(a.Question, calendar.On(on)).Outcomes[0]
	return resolved{o, resolve.Ladder(a.Subject, a.Question, a.pins, c.Classes[0], calendar.On(on))}
}

func subjectsOn(t *testing.T, files map[string]string, _ time.Time) (map[string]asking, *catalogue.Catalogue) {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(c)
	require.NoError(t, err)
	tree := fstest.MapFS{}
	for name, content := range files {
		tree[name] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
	}
	out := map[string]asking{}
	var questions resolve.Questions
	reading := reader.Read(tree)
	for _, v := range resolve.Views(&reading.Reading, c, &resolve.Wants{}) {
		for _, s := range v.Subjects {
			q, pins, _ := questions.Of(s)
			out[s.Folder+":"+s.Tool.Name] = asking{s, q, pins}
		}
	}
	return out, c
}

func machine(c *catalogue.Catalogue, change func(*inventory.Inventory)) *inventory.Machine {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench", Kind: "laptop"}}
	for _, v := range []string{"3.11.2", "3.12.4", "3.12.7", "3.13.1"} {
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "python", Version: v, Path: "/opt/python/" + v + "/bin/python3", Home: "/opt/python/" + v, Origin: "versioned-root", Health: "good"})
	}
	if change != nil {
		change(&inv)
	}
	return inventory.NewMachine(inv, c)
}

func TestLadder(t *testing.T) {
	onPath := func(inv *inventory.Inventory) {
		inv.FirstOnPath = []inventory.OnPath{{Tool: "python", Path: "/opt/python/3.11.2/bin/python3", Version: "3.11.2"}}
	}
	withDefault := func(inv *inventory.Inventory) {
		onPath(inv)
		inv.Defaults = []inventory.Default{{Tool: "python", Raw: "3.13", Source: "~/.python-version"}}
	}
	overridden := func(inv *inventory.Inventory) {
		withDefault(inv)
		inv.Overrides = []inventory.Override{{Tool: "python", Variable: "GARDEN_VERSION", Raw: "3.12.4"}}
	}
	none := func(inv *inventory.Inventory) { inv.Installations = nil }
	for name, c := range map[string]struct {
		files   map[string]string
		machine func(*inventory.Inventory)
		at      string
		state   resolve.State
		by      string
		version string
	}{
		"pin, newest inside it":               {map[string]string{".python-version": "3.12\n"}, withDefault, ":python", resolve.Met, resolve.ByPin, "3.12.7"},
		"inherited pin":                       {map[string]string{".python-version": "3.12\n", "api/setup.py": ""}, withDefault, "api:python", resolve.Met, resolve.ByInherited, "3.12.7"},
		"nearer pin":                          {map[string]string{".python-version": "3.12\n", "api/.python-version": "3.13\n"}, onPath, "api:python", resolve.Met, resolve.ByPin, "3.13.1"},
		"default":                             {map[string]string{"setup.py": ""}, withDefault, ":python", resolve.Unpinned, resolve.ByDefault, "3.13.1"},
		"first on PATH":                       {map[string]string{"setup.py": ""}, onPath, ":python", resolve.Unpinned, resolve.ByPath, "3.11.2"},
		"override":                            {map[string]string{".python-version": "3.13\n"}, overridden, ":python", resolve.Met, resolve.ByOverride, "3.12.4"},
		"missing":                             {map[string]string{".python-version": "3.10\n"}, withDefault, ":python", resolve.Missing, resolve.ByPin, ""},
		"absent":                              {map[string]string{"setup.py": ""}, none, ":python", resolve.Absent, "", ""},
		"conflict, what would run still told": {map[string]string{".python-version": "3.12\n", "pyproject.toml": "[project]\nrequires-python = \">=3.13\"\n"}, onPath, ":python", resolve.Conflict, resolve.ByPin, "3.12.7"},
		"unknown":                             {map[string]string{".python-version": "garden-3.12\n"}, onPath, ":python", resolve.Unknown, resolve.ByPin, ""},
		"two pins that share versions":        {map[string]string{".python-version": "3.12\n", ".pins": "python 3.12.4\n"}, onPath, ":python", resolve.Met, resolve.ByPin, "3.12.4"},
		"the system's own":                    {map[string]string{".python-version": "system\n"}, onPath, ":python", resolve.Met, resolve.ByPin, "3.11.2"},
	} {
		t.Run(name, func(t *testing.T) {
			all, cat := subjects(t, c.files)
			require.Contains(t, all, c.at)
			r := all[c.at].on(machine(cat, c.machine), day)
			assert.Equal(t, c.state, r.State)
			assert.Equal(t, c.by, r.DecidedBy)
			assert.Equal(t, c.version, r.Version)
			var sources []string
			deciding := 0
			for _, rung := range r.Ladder {
				if len(sources) == 0 || sources[len(sources)-1] != rung.Source {
					sources = append(sources, rung.Source)
				}
				if rung.Decides {
					deciding++
				}
			}
			assert.Equal(t, []string{"override", "pin", "inherited-pin", "baseline", "default", "path"}, sources, "every rung is shown, strongest first")
			assert.LessOrEqual(t, deciding, 1)
		})
	}
}

func TestSmallestConflict(t *testing.T) {
	all, _ := subjects(t, map[string]string{
		".node-version": "22\n",
		"package.json":  `{"engines": {"node": ">=20 <26"}, "devEngines": {"runtime": {"name": "node", "version": "^24"}}}`,
	})
	answer := all[":node"].On(calendar.On(day))
	assert.True(t, answer.Feasible.IsEmpty())
	var raw []string
	for _, i := range answer.Contradiction() {
		raw = append(raw, answer.At(i).Raw)
	}
	assert.Equal(t, []string{"22", "^24"}, raw, "the bound that fits both is left out")
}

func TestFeasibleRange(t *testing.T) {
	all, _ := subjects(t, map[string]string{".python-version": "3.12\n", "pyproject.toml": "[project]\nrequires-python = \">=3.12.3\"\n"})
	answer := all[":python"].On(calendar.On(day))
	assert.Equal(t, ">=3.12.3 <3.13.0", answer.Feasible.String())
	assert.Nil(t, answer.Contradiction())
}
