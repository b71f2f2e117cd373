package report_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/report"
)

// trace prints one tool of the first folder of a repository with the files.
func trace(t *testing.T, files map[string]string, machines ...string) string {
	t.Helper()
	r, c := build(t, map[string]map[string]string{"moss-index": files}, machines...)
	var out bytes.Buffer
	require.NoError(t, report.TraceText(&out, r.NewTrace(r.Reads[0].Result, 0, r.Day), c, report.Style{Width: 100}))
	return out.String()
}

func TestTraceOfAPin(t *testing.T) {
	assert.Equal(t, `Python in moss-index

What the repository says
  pin    .python-version:1:1  3.12  means >=3.12.0 <3.13.0
  bound  pyproject.toml:2:20  >=3.11  means >=3.11.0
  together they allow: >=3.12.0 <3.13.0

What runs on bench  (the first line that names a version decides)
  1 Override       no variable on this machine overrides it
  ▶ Pin            3.12 (.python-version:1) → 3.12.4 at /opt/python/3.12.4/bin/python3
  3 Inherited pin  none in the folders above
  4 Baseline       the repository adopts none
  5 Default        the user has none
  6 First on PATH  not on PATH
  The pin decides: Python 3.12.4 runs.

What bench has
  ▶ 3.12.4  at /opt/python/3.12.4/bin/python3
      in >=3.12.0 <3.13.0, and the newest that the pin admits
    3.8.18  at /opt/python/3.8.18/bin/python3
      not in >=3.12.0 <3.13.0
`, trace(t, map[string]string{".python-version": "3.12\n", "pyproject.toml": "[project]\nrequires-python = \">=3.11\"\n"}, "bench"))
}

func TestTraceTellsWhatIsNotThere(t *testing.T) {
	out := trace(t, map[string]string{".python-version": "3.11\n"}, "bench")
	assert.Contains(t, out, "3.11 (.python-version:1) → not installed")
	assert.Contains(t, out, "The pin decides, but nothing installed here fits it.")
	assert.Contains(t, out, "What is wrong")

	out = trace(t, map[string]string{"setup.py": ""}, "bench")
	assert.Contains(t, out, "nothing: no file states a version")
	assert.Contains(t, out, "Nothing decides, and there is no Python here.")

	out = trace(t, map[string]string{".gardenrc": "3.12\n", "setup.py": ""}, "bench")
	assert.Contains(t, out, "medium certainty: the file names no tool; Python is the only one beside it")

	out = trace(t, map[string]string{".python-version": "3.12\n", "pyproject.toml": "[project]\nrequires-python = \">=3.13\"\n"}, "bench")
	assert.Contains(t, out, "These cannot hold together:\n    .python-version:1:1  3.12\n    pyproject.toml:2:20  >=3.13")
	assert.Contains(t, out, "No version can satisfy the claims; by the pin, Python 3.12.4 runs.")

	out = trace(t, map[string]string{".python-version": "garden-3.12\n"}, "bench")
	assert.Contains(t, out, `the label "garden" is unknown`)
	assert.Contains(t, out, "The version that would run cannot be told.")
}

func TestTraceOfSeveralMachines(t *testing.T) {
	out := trace(t, map[string]string{".python-version": "3.12\n"}, "bench", "desk")
	assert.Contains(t, out, "What runs on bench, desk  ")
	assert.Equal(t, 1, strings.Count(out, "Override"), "machines with the same ladder are shown together")
	assert.Contains(t, trace(t, map[string]string{".python-version": "3.11\n"}, "bench", "desk"), "nothing installed on them fits it")
}

// TestTraceTellsTheWorstFirst, as the survey does.
func TestTraceTellsTheWorstFirst(t *testing.T) {
	_, wrong, _ := strings.Cut(trace(t, map[string]string{".python-version": "latest\n"}, "bench"), "What is wrong")
	assert.Regexp(t, `(?s)◆ Python · toolchain missing.*▲ Python · pin floating`, wrong)
}

// TestTraceOfMachinesThatDiffer in what does not decide: one ladder, with what each says.
func TestTraceOfMachinesThatDiffer(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	var machines []*inventory.Machine
	for i := range 12 {
		home := fmt.Sprintf("/home/gardener%02d", i)
		inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: fmt.Sprintf("desk-%02d", i), Kind: "laptop", Home: home},
			FirstOnPath: []inventory.OnPath{{Tool: "python", Path: home + "/bin/python3", Version: fmt.Sprintf("3.%d.1", 8+i%6)}}}
		inv.Installations = []inventory.Installation{{Tool: "python", Version: "3.12.4", Path: home + "/python/bin/python3", Home: home + "/python", Origin: "versioned-root", Health: "good"}}
		machines = append(machines, inventory.NewMachine(inv, c))
	}
	r := buildOn(t, c, map[string]map[string]string{"moss-index": {".python-version": "3.12\n"}}, machines)
	traced := r.NewTrace(r.Reads[0].Result, 0, r.Day)
	var out bytes.Buffer
	require.NoError(t, report.TraceText(&out, traced, c, report.Style{Width: 100}))
	assert.Contains(t, out.String(), `What runs on desk-00, desk-01, desk-02, desk-03, desk-04, desk-05 and 6 more machines  (the first line that names a version decides)
  1 Override       no variable overrides it
  ▶ Pin            3.12 (.python-version:1) → 3.12.4
  3 Inherited pin  none in the folders above
  4 Baseline       the repository adopts none
  5 Default        the user has none
  6 First on PATH  → 3.8.1  on desk-00, desk-06
                   → 3.9.1  on desk-01, desk-07
                   → 3.10.1  on desk-02, desk-08
                   → 3.11.1  on desk-03, desk-09
                   other machines say yet something else
  The pin decides: Python 3.12.4 runs. Where nothing follows version files, PATH runs another one:
  3.8.1 on desk-00, desk-06, 3.9.1 on desk-01, desk-07, 3.10.1 on desk-02, desk-08, 3.11.1 on
  desk-03, desk-09, and 1 other.
`)
	require.Len(t, traced.Resolutions, 1)
	said := map[int]int{}
	for _, rung := range traced.Resolutions[0].Ladder {
		said[rung.Rung]++
		assert.Equal(t, rung.Rung == 6, len(rung.Machines) > 0, "only where they differ")
	}
	assert.Equal(t, map[int]int{1: 1, 2: 1, 3: 1, 4: 1, 5: 1, 6: 6}, said)
}

// TestWhatIsToldOnceIsTracedEverywhere: a pin that many folders lack is a finding of each.
func TestWhatIsToldOnceIsTracedEverywhere(t *testing.T) {
	r, _ := build(t, map[string]map[string]string{"garden": {"beds/a/setup.py": "", "beds/b/setup.py": "", "pond/.python-version": "3.12\n", "pond/setup.py": ""}}, "bench")
	read := r.Reads[0]
	require.Len(t, read.Findings, 2, "nothing pins it, and nothing runs where nothing does")
	assert.Equal(t, "beds", read.Findings[0].Folder)
	for n, s := range read.Subjects {
		want := 2
		if s.Folder == "pond" {
			want = 0
		}
		assert.Len(t, r.NewTrace(read.Result, n, r.Day).Findings, want, s.Folder)
	}
}
