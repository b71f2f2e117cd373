package server_test

import (
	"context"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/report"
	"wexo/internal/server"
)

// startDeciding starts a service with a policy on an estate.
func startDeciding(t *testing.T, estate string, decided policy.Policy) *running {
	t.Helper()
	b, err := rule.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(b.Catalogue)
	require.NoError(t, err)
	data := filepath.Join(t.TempDir(), "wexo.db")
	service, err := server.Open(context.Background(), server.Options{Data: data, Roots: []string{estate}, AsOf: time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC), Policy: decided,
		Version: "test", Book: b, Reader: reader, Log: slog.New(slog.DiscardHandler), Console: fstest.MapFS{"index.html": {Data: []byte("<title>Wexo</title>")}}})
	require.NoError(t, err)
	return runningOf(t, service, data, estate)
}

// TestAServiceSaysWhatItDidNotSee: beside two repositories in which all is well, one of which a
// file cannot be understood and one of which a pin is damaged; no page calls them well.
func TestAServiceSaysWhatItDidNotSee(t *testing.T) {
	estate := t.TempDir()
	lay(t, estate, "well", map[string]string{".node-version": "24\n", "package.json": `{"engines": {"node": ">=24"}}`})
	lay(t, estate, "broken", map[string]string{".node-version": "24\n", "package.json": `{"engines": {`})
	lay(t, estate, "damaged", map[string]string{".node-version": "24\n", "x/.node-version": "18\n"})
	emptyObject(t, filepath.Join(estate, "damaged"), "HEAD:x/.node-version")
	r := startDeciding(t, estate, policy.Policy{
		Settings:     policy.Settings{Severities: []policy.Weighting{{Class: "installation-unneeded", Severity: "warning"}}},
		Machines:     []policy.Machines{{Name: "benhc", Tags: []string{"benches"}, Line: 3}},
		Repositories: []policy.Named{{Name: "wel", Line: 5}, {Name: "tag:kiosk", Line: 7}},
	})
	c, ctx := r.as(t, "lead"), t.Context()
	added, err := c.AddRepositoriesWithResponse(ctx, client.AddRepositories{Path: estate})
	require.NoError(t, err)
	require.NotNil(t, added.JSON201, string(added.Body))
	inv := inventoryOf("bench", "24.21.0", "18.20.8")
	inv.Installations = append(inv.Installations, inv.Installations[0])
	inv.Installations[2].Tool, inv.Installations[2].Version, inv.Installations[2].Path, inv.Installations[2].Home = "python", "3.8.18", "/opt/python/bin/python3", "/opt/python"
	send(t, c, inv)
	first := r.survey(t, c)

	o, err := c.GetOverviewWithResponse(ctx, nil)
	require.NoError(t, err)
	var unseen []string
	for _, g := range o.JSON200.Unseen.First {
		unseen = append(unseen, *g.Repository+" "+string(g.Weight))
	}
	assert.Equal(t, []string{"damaged lost", "broken open"}, unseen)
	assert.Equal(t, 1, o.JSON200.Healthy, "one alone")
	assert.Equal(t, o.JSON200.Findings, first.Opened, "what a survey opens is what is counted")

	m, err := c.GetMatrixWithResponse(ctx, nil)
	require.NoError(t, err)
	for _, row := range m.JSON200.Rows {
		well := slices.ContainsFunc(row.Cells, func(cell client.Cell) bool { return cell.Severity == "met" })
		assert.Equal(t, row.Repository == "well", well, row.Repository)
	}
	list, err := c.ListMachinesWithResponse(ctx)
	require.NoError(t, err)
	assert.Equal(t, [2]int{3, 1}, [2]int{list.JSON200.Machines[0].Repositories, list.JSON200.Machines[0].Ready})
	needs, err := c.GetMachineNeedsWithResponse(ctx, "bench", nil)
	require.NoError(t, err)
	assert.Len(t, needs.JSON200.Unseen, 2)
	for _, s := range needs.JSON200.Spare {
		assert.NotEqual(t, "node", s.Tool, "some of what asks for it was not seen")
	}
	for name, feasible := range map[string]int{"well": 0, "broken": 1} {
		together, err := c.GetTogetherWithResponse(ctx, name, nil)
		require.NoError(t, err)
		assert.Len(t, together.JSON200.Unseen, feasible, name)
		detail, err := c.GetRepositoryWithResponse(ctx, name, nil)
		require.NoError(t, err)
		assert.Len(t, detail.JSON200.Unseen, feasible, name)
	}
	whole, err := c.GetReportWithResponse(ctx, nil)
	require.NoError(t, err)
	document, err := report.ReadDocument(strings.NewReader(string(whole.Body)))
	require.NoError(t, err)
	assert.Equal(t, 2, document.Summary.Unseen)
	assert.Equal(t, o.JSON200.Findings, document.Summary.Count(), "the same count")

	class := []string{"rule-idle"}
	idle, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Class: &class})
	require.NoError(t, err)
	var says []string
	for _, f := range idle.JSON200.Findings {
		says = append(says, f.Message)
		assert.Equal(t, client.FindingSeverity("warning"), f.Severity)
	}
	assert.Len(t, says, 3)
	assert.Contains(t, strings.Join(says, " "), `did you mean "bench"?`)
	assert.Contains(t, strings.Join(says, " "), `did you mean "well"?`)
	lens := []string{"bench"}
	seen, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Class: &class, Machine: &lens})
	require.NoError(t, err)
	assert.Equal(t, 3, seen.JSON200.Total, "seen from one machine the others are still there")

	class = []string{"installation-unneeded"}
	unneeded, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Class: &class})
	require.NoError(t, err)
	require.Equal(t, 1, unneeded.JSON200.Total)
	assert.Equal(t, client.FindingSeverity("warning"), unneeded.JSON200.Findings[0].Severity, "as decided")

	inv.Installations = inv.Installations[:2]
	send(t, c, inv)
	last := r.survey(t, c)
	assert.Equal(t, 1, last.Closed, "what is over of machines closes, though no repository has changed")
}

// emptyObject takes an object of a repository away.
func emptyObject(t *testing.T, dir, rev string) {
	t.Helper()
	out, err := exec.Command("git", "-C", dir, "rev-parse", rev).Output()
	require.NoError(t, err)
	id := strings.TrimSpace(string(out))
	require.NoError(t, os.Remove(filepath.Join(dir, ".git", "objects", id[:2], id[2:])))
}
