package report_test

import (
	"bytes"
	"encoding/json"
	"io"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/resolve"
	"wexo/internal/report"
	"wexo/internal/ruletest"
)

// build makes a report of repositories against machines that have Python 3.12.4 and 3.8.18.
func build(t *testing.T, repositories map[string]map[string]string, machines ...string) (*report.Report, *catalogue.Catalogue) {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	var fleet []*inventory.Machine
	for _, name := range machines {
		inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name}}
		for _, v := range []string{"3.12.4", "3.8.18"} {
			inv.Installations = append(inv.Installations, inventory.Installation{Tool: "python", Version: v, Path: "/opt/python/" + v + "/bin/python3", Home: "/opt/python/" + v, Health: "good"})
		}
		fleet = append(fleet, inventory.NewMachine(inv, c))
	}
	return buildOn(t, c, repositories, fleet), c
}

// buildOn makes a report of repositories against machines.
func buildOn(t *testing.T, c *catalogue.Catalogue, repositories map[string]map[string]string, fleet []*inventory.Machine) *report.Report {
	t.Helper()
	reader, err := reading.New(c)
	require.NoError(t, err)
	facts := assess.NewFacts(ruletest.Book(t, c))
	on := time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)
	var prepared []*assess.Prepared
	together := resolve.NewFleet(fleet, facts.Wants, nil)
	for name, files := range repositories {
		tree := fstest.MapFS{}
		for file, content := range files {
			tree[file] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
		}
		repo := assess.Repository{Name: name, Path: "/work/" + name, Ref: "HEAD", Commit: "c0ffee", Reading: reader.Read(tree)}
		prepared = append(prepared, facts.Prepare(repo, policy.Policy{}))
	}
	results, err := assess.All(t.Context(), prepared, together, on, assess.Earlier{})
	require.NoError(t, err)
	var reads []report.Read
	for _, r := range results {
		reads = append(reads, report.Read{Result: r})
	}
	return report.Build("0.1.0", reads, together, on)
}

// written is a report as JSON.
func written(t *testing.T, r *report.Report) string {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, r.WriteJSON(&out))
	return out.String()
}

// TestWriteJSON: a line for each repository and finding, however many there are, and all of
// them in order.
func TestWriteJSON(t *testing.T) {
	some, _ := build(t, map[string]map[string]string{"seed-ledger": {".python-version": "3.8 # <old> & \"dry\"\n"}, "kiosk": {".python-version": "3.12\n"}}, "potting-bench")
	none, _ := build(t, nil)
	many := *some
	many.Reads = nil
	for len(many.Reads) < 3000 {
		many.Reads = append(many.Reads, some.Reads...)
	}
	exactly := many
	exactly.Reads = many.Reads[:1024]
	for _, r := range []*report.Report{none, some, &many, &exactly} {
		text := written(t, r)
		var got struct {
			Repositories []struct{ Name string }
			Findings     []report.Finding
		}
		require.NoError(t, json.Unmarshal([]byte(text), &got))
		require.Len(t, got.Repositories, len(r.Reads))
		findings := 0
		for i, read := range r.Reads {
			require.Equal(t, read.Name, got.Repositories[i].Name)
			for _, f := range read.Findings {
				require.Equal(t, f.Fingerprint, got.Findings[findings].Fingerprint)
				findings++
			}
		}
		require.Len(t, got.Findings, findings)
		require.Equal(t, len(r.Reads), strings.Count(text, "\n    {\"name\":"))
	}
	assert.ErrorIs(t, many.WriteJSON(fullDisk{}), io.ErrShortWrite)
}

type fullDisk struct{}

func (fullDisk) Write([]byte) (int, error) { return 0, io.ErrShortWrite }

// TestWrittenAsTheTypesSay: what is written straight is what the types are as JSON.
func TestWrittenAsTheTypesSay(t *testing.T) {
	r, _ := build(t, map[string]map[string]string{
		"seed \"ledger\"\u2028<é>\x01": {".python-version": "3.8 # <old> & \"dry\"\n", "web/.node-version": "lts/*\n", "web/package.json": `{"engines": {"node": ">=20"}, "dependencies": {"vite": "^5"}}`,
			"web/package-lock.json": `{"lockfileVersion": 3, "packages": {"node_modules/fern": {"version": "1.0.0", "engines": {"node": ">=99"}}}}`,
			".beds":                 "python 3.13 3.12\n", "Dockerfile": "ARG V=20\nFROM node:${V}-alpine AS web\nFROM python@sha256:f0a5da17e0ffa3a21c2b07c964d465799eb0deb62905ccb1b271ce7716614746\n", ".zig-version": "1\n"},
		"kiosk": {".python-version": "3.12\n", "pyproject.toml": "[project]\nrequires-python = \">=3.13\"\n"}, "empty": {},
	}, "potting-bench", "desk \\ \t\n\b\f\r")
	var got struct{ Repositories, Findings, Causes []json.RawMessage }
	require.NoError(t, json.Unmarshal([]byte(written(t, r)), &got))
	same := func(want any, got json.RawMessage) {
		t.Helper()
		var b bytes.Buffer
		e := json.NewEncoder(&b)
		e.SetEscapeHTML(false)
		require.NoError(t, e.Encode(want))
		require.Equal(t, strings.TrimSpace(b.String()), string(got))
	}
	n := 0
	for i, read := range r.Reads {
		same(r.NewRepository(read, r.Day), got.Repositories[i])
		for _, f := range read.Findings {
			same(r.Finding(f), got.Findings[n])
			n++
		}
	}
	require.Greater(t, n, 5)
	for i, c := range r.Causes() {
		same(c, got.Causes[i])
	}
}

// TestFormat: every field of the contract is there under its name, lists are lists.
func TestFormat(t *testing.T) {
	r, _ := build(t, map[string]map[string]string{"seed-ledger": {".python-version": "3.8\n"}}, "potting-bench")
	data := written(t, r)
	var got map[string]any
	require.NoError(t, json.Unmarshal([]byte(data), &got))
	keys := func(value any, path ...any) []string {
		for _, step := range path {
			switch s := step.(type) {
			case string:
				value = value.(map[string]any)[s]
			case int:
				value = value.([]any)[s]
			}
		}
		var out []string
		for key := range value.(map[string]any) {
			out = append(out, key)
		}
		return out
	}
	subset := func(want string, have []string) {
		t.Helper()
		for _, key := range strings.Fields(want) {
			assert.Contains(t, have, key)
		}
	}
	subset("format asOf wexo machines repositories findings causes summary", keys(got))
	subset("name identity path commit folders", keys(got, "repositories", 0))
	subset("path tools", keys(got, "repositories", 0, "folders", 0))
	tool := []any{"repositories", 0, "folders", 0, "tools", 0}
	subset("tool claims feasible conflict resolutions", keys(got, tool...))
	subset("role raw dialect file line column begin end recognised certainty", keys(got, append(tool, "claims", 0)...))
	subset("machines state decidedBy version path", keys(got, append(tool, "resolutions", 0)...))
	subset("fingerprint class severity repository folder tool tools machines message evidence remedy waived apart", keys(got, "findings", 0))
	subset("file line column raw", keys(got, "findings", 0, "evidence", 0))
	subset("class severity tool title repositories machines findings", keys(got, "causes", 0))
	subset("repositories claims byClass bySeverity", keys(got, "summary"))
	assert.NotContains(t, string(data), "null", "an empty list is a list")
	assert.Equal(t, map[string]int{"end-of-life": 1}, r.Summary.ByClass)
	assert.Equal(t, map[string]int{"error": 1}, r.Summary.BySeverity)
	first := r.NewRepository(r.Reads[0], r.Day).Folders[0].Tools[0]
	assert.Equal(t, []report.Resolution{{Machines: []string{"potting-bench"}, State: "met", DecidedBy: "pin", Version: "3.8.18", Path: "/opt/python/3.8.18/bin/python3"}}, first.Resolutions)
	assert.Equal(t, ">=3.8.0 <3.9.0", first.Feasible)
}

func TestListsAreSorted(t *testing.T) {
	files := map[string]string{".python-version": "3.8\n", "b/.python-version": "3.9.9\n", "a/.python-version": "3.9.9\n", ".node-version": "24.11.1\n"}
	first, _ := build(t, map[string]map[string]string{"b": files, "a": files, "c": files}, "bench", "desk")
	second, _ := build(t, map[string]map[string]string{"c": files, "b": files, "a": files}, "bench", "desk")
	assert.Equal(t, written(t, first), written(t, second))
	var order []string
	for _, read := range first.Reads {
		for _, f := range first.Findings(read.Findings) {
			order = append(order, strings.Join([]string{f.Repository, f.Folder, f.Tool, f.Class}, "\x00"))
		}
	}
	assert.IsNonDecreasing(t, order)
}

func TestText(t *testing.T) {
	r, c := build(t, map[string]map[string]string{
		"seed-ledger": {".python-version": "3.8\n", "setup.py": ""},
		"moss-index":  {".python-version": "3.12\n"},
		"fern-base":   {"web/.zig-version": "0.1.0\n", ".python-version": "3.11\n"},
	}, "bench", "desk")
	var out bytes.Buffer
	require.NoError(t, report.Text(&out, r.Telling(), c, report.Style{Width: 100}, true))
	assert.Equal(t, `3 repositories as committed (HEAD), 3 claims, seen from bench, desk, as of 16 Nov 2026
◆ 2 errors   ▲ 0 warnings   ○ 1 note   1 without findings

fern-base
  ◆ Python · toolchain missing  on 2 of 2 machines
    .python-version:1 asks for Python 3.11, but no machine has such an installation: the pinned
    version cannot run there. Nearest installed: 3.8.18 and 3.12.4 on every machine.
    → Install Python 3.11 on every machine.
  ○ file unclaimed in web/
    web/.zig-version:1 looks like a version file, but it pins zig, a tool that the catalogue does
    not know. What it asks for is not checked.
    → Mend the tool's name if it is misspelt; describe a tool of your own in a catalogue folder
      (wexo catalogue --help); or say in .wexo.yaml that the file is none of ours:
        # none of ours
        leave-out:
          - web/.zig-version

seed-ledger
  ◆ Python · end of life  on 2 of 2 machines
    .python-version:1 asks for Python 3.8, and 3.8.18 on every machine would run. Support for Python
    3.8 ended on 7 Oct 2024: security faults found since then are not mended.
    → Move to Python 3.12 (supported until 31 Oct 2028): change .python-version:1.
`, out.String())

	out.Reset()
	require.NoError(t, report.Text(&out, r.Telling(), c, report.Style{Width: 40, Colour: true}, true))
	codes := regexp.MustCompile("\x1b\\[[0-9;]*m")
	assert.Regexp(t, codes, out.String())
	for line := range strings.Lines(codes.ReplaceAllString(out.String(), "")) {
		if strings.HasPrefix(line, "    ") {
			assert.LessOrEqual(t, len([]rune(strings.TrimSuffix(line, "\n"))), 40, line)
		}
	}

	out.Reset()
	healthy, _ := build(t, map[string]map[string]string{"moss-index": {".python-version": "3.12\n"}}, "bench")
	require.NoError(t, report.Text(&out, healthy.Telling(), c, report.Style{Width: 100}, true))
	assert.Contains(t, out.String(), "Everything asked for is there and supported.")
}

// TestTextIsSafeToShow: what a repository calls its files cannot steer the terminal.
func TestTextIsSafeToShow(t *testing.T) {
	r, c := build(t, map[string]map[string]string{"evil\x1b[2J": {"a\x1b]0;owned\x07/.python-version": "no\x1b[31m\n", "b\u202e/.zig-version": "1.2.3\n"}}, "bench")
	findings := r.Findings(r.Reads[0].Findings)
	require.NotEmpty(t, findings)
	var out bytes.Buffer
	require.NoError(t, report.Text(&out, r.Telling(), c, report.Style{Width: 100}, true))
	require.NoError(t, report.Short(&out, r, c, report.Style{Width: 100}))
	for _, f := range findings {
		require.NoError(t, report.FindingsText(&out, []report.Finding{f}, c, report.Style{Width: 100}))
	}
	assert.NotContains(t, out.String(), "\x1b")
	assert.NotContains(t, out.String(), "\x07")
	assert.NotContains(t, out.String(), "\u202e")
}

func TestWorst(t *testing.T) {
	assert.Equal(t, assess.Warning.Rank(), report.Summary{BySeverity: map[string]int{"warning": 2, "note": 1, "error": 0}}.Worst())
	assert.Zero(t, report.Summary{}.Worst())
}
