package view_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"runtime"
	"slices"
	"sync"
	"testing"
	"testing/fstest"
	"time"
	"weak"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/fact"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/ruletest"
	"wexo/internal/server/store"
	"wexo/internal/server/view"
	"wexo/internal/survey"
)

var day = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

// views are those of a store with the repositories and with two machines that have the versions.
func views(t *testing.T, repositories map[string]map[string]string, bench, desk map[string][]string) *view.Views {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(c)
	require.NoError(t, err)
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "wexo.db"))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	for name, files := range repositories {
		require.NoError(t, s.AddRepository(t.Context(), store.Repository{Name: name, Path: "/work/" + name, Kind: "git"}))
		tree := fstest.MapFS{}
		for file, content := range files {
			tree[file] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
		}
		said, err := json.Marshal(reader.Read(tree))
		require.NoError(t, err)
		r := store.Reading{Repository: name, Path: "/work/" + name, Ref: "HEAD", Commit: "c0ffee"}.Saying(said, day)
		require.NoError(t, s.SaveReadings(t.Context(), []store.Reading{r}))
	}
	for name, tools := range map[string]map[string][]string{"bench": bench, "desk": desk} {
		inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name, Kind: "laptop"}, TakenAt: day.Add(-30 * time.Hour)}
		for tool, versions := range tools {
			for _, v := range versions {
				home := "/opt/" + tool + "/" + v
				inv.Installations = append(inv.Installations, inventory.Installation{Tool: tool, Version: v, Path: home + "/bin/" + tool, Home: home, Origin: "versioned-root", Health: "good"})
			}
		}
		require.NoError(t, s.SaveInventory(t.Context(), inv, day))
	}
	return &view.Views{Store: s, Estate: survey.NewEstate(ruletest.Book(t, c), policy.Policy{})}
}

func at(t *testing.T, v *view.Views, lens view.Lens) *view.View {
	t.Helper()
	got, err := v.At(t.Context(), lens)
	require.NoError(t, err)
	return got
}

// ruler draws a repository's first subject.
func ruler(t *testing.T, v *view.View, repository string) view.Ruler {
	t.Helper()
	read, _, ok := v.Repository(repository)
	require.True(t, ok)
	return v.RulerOf(read.Result, 0)
}

func TestCells(t *testing.T) {
	v := at(t, views(t, map[string]map[string]string{
		"everywhere": {".python-version": "3.12\n"},
		"here":       {".python-version": "3.13\n"},
		"nowhere":    {".python-version": "3.14\n"},
		"varied":     {".node-version": "24\n"},
		"nested":     {".python-version": "3.12\n", "web/.python-version": "3.14\n"},
		"loose":      {".zig-version": "0.14.1\n"},
		"locked":     {"package-lock.json": "{\"lockfileVersion\": 3}"},
		"narrower":   {"package.json": "{\"engines\": {\"npm\": \">=11\"}}", "package-lock.json": "{\"lockfileVersion\": 3}"},
		"module":     {"go.mod": "module x\n\ngo 1.26.0\n"},
		"brought":    {".toolchain": "flutter 3.19.6\n", "pubspec.yaml": "name: guide\nenvironment:\n  sdk: \">=3.4.0 <4.0.0\"\ndependencies:\n  flutter: {sdk: flutter}\n"},
	}, map[string][]string{"python": {"3.12.7", "3.13.1"}, "node": {"24.21.0"}}, map[string][]string{"python": {"3.12.7"}, "node": {"24.20.0"}}), view.Lens{Day: day})
	rows := map[string]view.Row{}
	for _, row := range v.Matrix() {
		rows[row.Repository] = row
	}
	for name, want := range map[string]view.Cell{
		"everywhere": {Tool: "python", Kind: "met", Severity: "met", Asked: "3.12", Resolved: "3.12.7 everywhere", Classes: []string{}},
		"here":       {Tool: "python", Kind: "toolchain-missing", Severity: "error", Asked: "3.13", Resolved: "on 1 of 2; 3.13.1 on 1 of 2", Classes: []string{"toolchain-missing"}, Affected: 1},
		"nowhere":    {Tool: "python", Kind: "toolchain-missing", Severity: "error", Asked: "3.14", Resolved: "on no machine", Classes: []string{"toolchain-missing"}, Affected: 2},
		"varied":     {Tool: "node", Kind: "met", Severity: "met", Asked: "24", Resolved: "2 different versions", Classes: []string{}},
		"nested":     {Tool: "python", Kind: "toolchain-missing", Severity: "error", Asked: "3.14", Resolved: "on no machine", Classes: []string{"toolchain-missing"}, Folder: "web", Affected: 2},
		"module":     {Tool: "go", Kind: "toolchain-missing", Severity: "error", Asked: "≥1.26.0", Resolved: "on no machine", Classes: []string{"toolchain-missing"}, Affected: 2},
	} {
		want.Among = 2
		assert.Equal(t, []view.Cell{want}, rows[name].Cells, name)
	}
	for name, asked := range map[string]string{"locked": "≥7", "narrower": ">=11"} {
		for _, cell := range rows[name].Cells {
			if cell.Tool == "npm" {
				assert.Equal(t, asked, cell.Asked, name)
				delete(rows, name)
			}
		}
		assert.NotContains(t, rows, name, "it had a cell for npm")
	}
	assert.Equal(t, []view.Cell{
		{Tool: "dart", Kind: "tools-incompatible", Severity: "error", Asked: ">=3.4.0 <4.0.0", Resolved: "comes with another tool", Classes: []string{}, Affected: 2, Among: 2},
		{Tool: "flutter", Kind: "toolchain-missing", Severity: "error", Asked: "3.19.6", Resolved: "on no machine", Classes: []string{"toolchain-missing", "tools-incompatible"}, Affected: 2, Among: 2},
	}, rows["brought"].Cells, "what is brought wrongly is not met, and the finding is of the tool that brings it")
	assert.Equal(t, 1, rows["loose"].Loose)
	assert.Empty(t, rows["loose"].Cells)
}

func TestRuler(t *testing.T) {
	v := at(t, views(t, map[string]map[string]string{
		"mast":   {".python-version": "3.12\n", "pyproject.toml": "[project]\nrequires-python = \">=3.11,<3.14\"\n", ".vscode/settings.json": `{"python.defaultInterpreterPath": "/opt/python/3.8.18/bin/python"}`},
		"gaps":   {"pyproject.toml": "[project]\nrequires-python = \">=3.10,!=3.11.*,!=3.12.5,<3.14\"\n"},
		"ledger": {".java-version": "17\n", ".pins": "java 21\n"},
	}, map[string][]string{"python": {"3.8.18", "3.12.4", "3.12.7"}, "java": {"17.0.15+6", "21.0.7+6", "21.0.8+9"}}, map[string][]string{"python": {"3.12.7"}}), view.Lens{Day: day})

	r := ruler(t, v, "mast")
	var lines []string
	for _, l := range r.Lines {
		lines = append(lines, l.Line)
	}
	assert.Equal(t, []string{"3.8", "3.9", "3.10", "3.11", "3.12", "3.13", "3.14", "3.15"}, lines)
	assert.True(t, r.Ended(r.Lines[0]))
	assert.False(t, r.Ended(r.Lines[4]))
	require.Len(t, r.Bars, 2)
	assert.Equal(t, view.Span{From: 4, To: 5}, r.Bars[0].Span, "the pin fills its line")
	assert.Equal(t, view.Span{From: 3, To: 6}, r.Bars[1].Span, "the bound fills three")
	assert.Empty(t, r.Bars[1].Gaps)
	assert.True(t, r.Bars[0].Agrees)
	assert.Equal(t, []view.Span{{From: 4, To: 5}}, r.Feasible)
	require.Len(t, r.Ticks, 3)
	assert.Equal(t, view.Tick{Version: "3.8.18", At: 0.5, Machines: 1}, r.Ticks[0])
	assert.False(t, r.Ticks[1].Chosen)
	assert.Equal(t, 2, r.Ticks[2].Machines)
	assert.True(t, r.Ticks[2].Chosen)
	assert.Less(t, r.Ticks[1].At, r.Ticks[2].At)
	assert.Equal(t, []view.Point{{Version: "3.8.18", At: 0.5}}, r.Points)

	r = ruler(t, v, "gaps")
	require.Len(t, r.Bars, 1)
	gaps := r.Bars[0].Gaps
	require.Len(t, gaps, 2)
	assert.Equal(t, view.Span{From: 3, To: 4}, gaps[0], "a whole line is left out")
	assert.Equal(t, gaps[1].From, gaps[1].To, "one version is a slit")
	assert.Equal(t, "3.12", r.Lines[int(gaps[1].From)].Line)

	r = ruler(t, v, "ledger")
	assert.Empty(t, r.Feasible)
	assert.False(t, r.Bars[0].Agrees)
	assert.False(t, r.Bars[1].Agrees)
	assert.LessOrEqual(t, len(r.Lines), 9)
	assert.Equal(t, "17", r.Lines[0].Line)
	assert.True(t, r.Gap(1), "ended lines that nobody speaks of are left out")
	assert.False(t, r.Gap(0))
}

func TestLensesAndKeeping(t *testing.T) {
	all := views(t, map[string]map[string]string{"web": {".node-version": "22\n"}}, map[string][]string{"node": {"22.11.0"}}, map[string][]string{})
	v := at(t, all, view.Lens{Day: day})
	assert.Same(t, v, at(t, all, view.Lens{Day: day}), "a view is computed once")
	at(t, all, view.Lens{Day: day.AddDate(0, 3, 0)})
	at(t, all, view.Lens{Day: day, Machines: []string{"bench"}})
	assert.Same(t, v, at(t, all, view.Lens{Day: day}), "whatever others are asked for")
	assert.Equal(t, []string{"support-ending", "toolchain-missing"}, classes(v))
	assert.Equal(t, []string{"support-ending"}, classes(at(t, all, view.Lens{Day: day, Machines: []string{"bench"}})))
	assert.Equal(t, []string{"end-of-life", "toolchain-missing"}, classes(at(t, all, view.Lens{Day: day.AddDate(1, 0, 0)})))
	_, err := all.At(t.Context(), view.Lens{Day: day, Machines: []string{"nobody"}})
	assert.ErrorContains(t, err, "nobody")
	require.NoError(t, all.Store.RemoveRepository(t.Context(), "web"))
	assert.Empty(t, classes(at(t, all, view.Lens{Day: day})), "a change of the data makes a new view")
}

// TestNobodyWaitsForASurvey: what it stored is shown when all of it is ready, and not before.
func TestNobodyWaitsForASurvey(t *testing.T) {
	all := views(t, map[string]map[string]string{"web": {".node-version": "22\n"}}, map[string][]string{"node": {"22.11.0"}}, map[string][]string{})
	before := at(t, all, view.Lens{Day: day})
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(c)
	require.NoError(t, err)
	said, err := json.Marshal(reader.Read(fstest.MapFS{".node-version": {Data: []byte("18\n"), Mode: 0o644}}))
	require.NoError(t, err)
	newer := store.Reading{Repository: "web", Path: "/work/web", Ref: "HEAD"}.Saying(said, day)
	require.NoError(t, all.Store.SaveReadings(t.Context(), []store.Reading{newer}))
	warmed := 0
	all.Warm = func(*view.View) { warmed++ }
	renew(t, all, day, func(seen store.Sightings) error {
		assert.Same(t, before, at(t, all, view.Lens{Day: day}), "who asks meanwhile is shown what was there")
		_, err := all.Store.Sight(t.Context(), day, seen)
		return err
	})
	after := at(t, all, view.Lens{Day: day})
	assert.Equal(t, []string{"end-of-life", "toolchain-missing"}, classes(after))
	assert.Equal(t, 1, warmed)
	assert.Same(t, after, at(t, all, view.Lens{Day: day}), "it was made by the survey")
	assert.Equal(t, "2026-11-16", after.FirstSeenOf(after.Reads[0].Findings[0]))
}

func renew(t *testing.T, all *view.Views, on time.Time, sight func(store.Sightings) error) int {
	t.Helper()
	findings, err := all.Renew(t.Context(), on, sight)
	require.NoError(t, err)
	return findings
}

func classes(v *view.View) []string {
	var out []string
	for _, r := range v.Reads {
		for _, f := range r.Findings {
			out = append(out, f.Class.Name)
		}
	}
	return out
}

func TestOverviewCounts(t *testing.T) {
	all := views(t, map[string]map[string]string{
		"a": {".node-version": "22\n"}, "b": {".node-version": "22\n", ".python-version": "3.8\n"}, "c": {".python-version": "3.13\n"},
		"d": {".pins": "node ref:main\n"},
	}, map[string][]string{"node": {"22.11.0"}, "python": {"3.8.18", "3.13.1"}}, map[string][]string{"node": {"22.11.0"}, "python": {"3.8.18", "3.13.1"}})
	v := at(t, all, view.Lens{Day: day})
	renew(t, all, day.AddDate(0, 0, -40), func(seen store.Sightings) error {
		seen.Findings = slices.DeleteFunc(seen.Findings, func(s store.Sighting) bool { return s.Class != "end-of-life" })
		_, err := all.Store.Sight(t.Context(), day.AddDate(0, 0, -40), seen)
		return err
	})
	sum := at(t, all, view.Lens{Day: day}).Overview()
	var counts []string
	for _, c := range sum.Classes {
		counts = append(counts, fmt.Sprint(c.Class.Name, " ", c.Severity, " ", c.Total, ": ", c.Week, c.Month, c.Quarter, c.Older))
	}
	assert.Equal(t, []string{"end-of-life error 1: 0 0 1 0", "support-ending warning 2: 2 0 0 0"}, counts)
	assert.Equal(t, []view.Trouble{{Repository: "b", Errors: 1, Warnings: 1}}, sum.Worst)
	assert.Equal(t, 1, sum.Healthy)
	assert.Equal(t, 1, sum.Untold, "nothing is wrong with the fourth, and it is not known to be sound")
	require.Len(t, sum.Ending, 1)
	assert.Equal(t, "22", sum.Ending[0].Line.Line)
	assert.Equal(t, 2, sum.Ending[0].Repositories)
	var tools []string
	for _, tool := range sum.Tools {
		tools = append(tools, tool.Title)
	}
	assert.Equal(t, []string{"Node.js", "Python"}, tools)
	assert.Equal(t, 2, v.Days(day.Add(-30*time.Hour), day), "to the end of the day")
}

// TestViewsAreLetGo when the data has changed, since nobody can ask for them again.
func TestViewsAreLetGo(t *testing.T) {
	v := views(t, map[string]map[string]string{"ferns": {".node-version": "22\n"}}, map[string][]string{"node": {"22.11.0"}}, nil)
	first := at(t, v, view.Lens{Day: day})
	assert.Same(t, first, at(t, v, view.Lens{Day: day}), "it is kept while nothing changes")
	old := weak.Make(first)
	first = nil
	require.NoError(t, v.Store.AddRepository(t.Context(), store.Repository{Name: "moss", Path: "/work/moss", Kind: "git"}))
	second := at(t, v, view.Lens{Day: day})
	runtime.GC()
	assert.Nil(t, old.Value())
	for i := range 20 { // lenses that push each other out
		at(t, v, view.Lens{Day: day.AddDate(0, 0, i+1)})
	}
	assert.NotSame(t, second, at(t, v, view.Lens{Day: day}))
}

// TestWhoeverGoesAwayKeepsNobodyWaiting: a view whose first asker left is computed for the next.
func TestWhoeverGoesAwayKeepsNobodyWaiting(t *testing.T) {
	v := views(t, map[string]map[string]string{"ferns": {".node-version": "22\n"}}, nil, nil)
	gone, leave := context.WithCancel(t.Context())
	leave()
	var wait sync.WaitGroup
	for i := range 8 {
		wait.Go(func() {
			ctx := t.Context()
			if i%2 == 0 {
				ctx = gone
			}
			got, err := v.At(ctx, view.Lens{Day: day})
			if i%2 == 0 && err != nil {
				assert.ErrorIs(t, err, context.Canceled)
				return
			}
			assert.NoError(t, err)
			assert.Len(t, got.Reads, 1)
		})
	}
	wait.Wait()
	_, err := v.At(t.Context(), view.Lens{Day: day, Machines: []string{"nobody"}})
	assert.ErrorContains(t, err, "nobody")
}

// TestOnlyWhatChangedIsNoted: findings of repositories that are as they were stay as they
// are, and where noting failed all are noted again.
func TestOnlyWhatChangedIsNoted(t *testing.T) {
	all := views(t, map[string]map[string]string{"fern": {".node-version": "18\n"}, "web": {".node-version": "16\n"}}, map[string][]string{}, map[string][]string{})
	var noted []string
	var fails error
	survey := func(on time.Time) int {
		noted = nil
		n, err := all.Renew(t.Context(), on, func(seen store.Sightings) error {
			for _, f := range seen.Findings {
				noted = append(noted, f.Repository)
			}
			if fails != nil {
				return fails
			}
			_, err := all.Store.Sight(t.Context(), on, seen)
			return err
		})
		assert.ErrorIs(t, err, fails)
		noted = slices.Compact(noted)
		return n
	}
	open := func() int {
		seen, err := all.Store.FirstSeen(t.Context())
		require.NoError(t, err)
		return len(seen)
	}
	assert.Equal(t, 4, survey(day))
	assert.Equal(t, []string{"fern", "web"}, noted)
	assert.Equal(t, 4, open())
	at(t, all, view.Lens{Day: day.AddDate(2, 0, 0)})
	assert.Equal(t, 4, survey(day), "whatever else was asked for meanwhile")
	assert.Empty(t, noted)

	said, err := json.Marshal(fact.Reading{})
	require.NoError(t, err)
	require.NoError(t, all.Store.SaveReadings(t.Context(), []store.Reading{store.Reading{Repository: "web", Path: "/work/web", Ref: "HEAD"}.Saying(said, day)}))
	assert.Equal(t, 2, survey(day))
	assert.Empty(t, noted, "the one that changed has no findings any more")
	assert.Equal(t, 2, open(), "they are closed, and the others are not")

	assert.Equal(t, 2, survey(day.AddDate(0, 0, 1)))
	assert.Equal(t, []string{"fern"}, noted, "on another day they may say something else")
	fails = errors.New("the disk is full")
	survey(day.AddDate(0, 0, 2))
	fails = nil
	assert.Equal(t, 2, survey(day.AddDate(0, 0, 2)))
	assert.Equal(t, []string{"fern"}, noted, "what could not be noted is noted again")
}

// TestARepositoryThatCameBackIsNoted, also where it says what it said: what was noted of it
// went with it.
func TestARepositoryThatCameBackIsNoted(t *testing.T) {
	all := views(t, map[string]map[string]string{"web": {".node-version": "18\n"}}, map[string][]string{}, map[string][]string{})
	survey := func(on time.Time) {
		renew(t, all, on, func(seen store.Sightings) error {
			_, err := all.Store.Sight(t.Context(), on, seen)
			return err
		})
	}
	survey(day)
	readings, err := all.Store.Readings(t.Context())
	require.NoError(t, err)
	content := readings[0]
	require.NoError(t, all.Store.Contents(t.Context(), []string{content.Digest}, func(_ string, said fact.Reading) error {
		require.NoError(t, all.Store.RemoveRepository(t.Context(), "web"))
		text, err := json.Marshal(said)
		require.NoError(t, err)
		require.NoError(t, all.Store.AddRepository(t.Context(), store.Repository{Name: "web", Path: content.Path, Kind: "plain"}))
		return all.Store.SaveReadings(t.Context(), []store.Reading{content.Saying(text, day)})
	}))
	survey(day)
	seen, err := all.Store.FirstSeen(t.Context())
	require.NoError(t, err)
	assert.Len(t, seen, 2)
}
