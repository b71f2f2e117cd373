package server_test

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	openapi_types "github.com/oapi-codegen/runtime/types"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
	"wexo/internal/core/inventory"
)

// send sends an inventory, which has to be taken.
func send(t *testing.T, c *client.ClientWithResponses, inv inventory.Inventory) client.MachineSummary {
	t.Helper()
	sent, err := c.SendInventoryWithBodyWithResponse(context.Background(), "application/json", body(t, inv))
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, sent.StatusCode(), string(sent.Body))
	return *sent.JSON200
}

// TestMachinesAndWhatTheyNeed: the lists say how ready machines are, a machine's page whom its
// installations serve, and its needs what is missing and what could go.
func TestMachinesAndWhatTheyNeed(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	ctx := t.Context()
	spare := inventoryOf("bench", "18.20.8", "22.11.0", "24.21.0")
	spare.TakenAt = spare.TakenAt.Add(time.Hour)
	spare.Installations[0].SizeBytes, spare.Installations[0].Packages = 123_000_000, map[string]string{"tulip": "2.1"}
	spare.Installations = append(spare.Installations, inventory.Installation{Tool: "python", Version: "3.8.18", Path: "/opt/python/3.8.18/bin/python3.8", Home: "/opt/python/3.8.18", Origin: "versioned-root", Health: "broken", HealthReason: "the library libspade.so.3 is not there"})
	spare.ReportEvery = "6h"
	late := send(t, c, spare)
	assert.True(t, late.Stale, "it says that it reports every six hours, and that was days ago")
	assert.Equal(t, spare.TakenAt.Add(12*time.Hour), late.Due.UTC())

	list, err := c.ListMachinesWithResponse(ctx)
	require.NoError(t, err)
	require.Len(t, list.JSON200.Machines, 2)
	bench, desk := list.JSON200.Machines[0], list.JSON200.Machines[1]
	assert.Equal(t, [4]int{3, 1, 4, 1}, [4]int{bench.Repositories, bench.Ready, bench.Installations, bench.Broken}, "ferns can run there")
	assert.Equal(t, [4]int{3, 1, 1, 0}, [4]int{desk.Repositories, desk.Ready, desk.Installations, desk.Broken}, "orchids can run there")
	assert.Empty(t, list.JSON200.Groups)

	detail, err := c.GetMachineDetailWithResponse(ctx, "bench", nil)
	require.NoError(t, err)
	require.NotNil(t, detail.JSON200, string(detail.Body))
	serves := map[string][]string{}
	for _, s := range detail.JSON200.Serving {
		serves[s.Tool+" "+s.Version] = s.Repositories
	}
	assert.Equal(t, map[string][]string{"node 24.21.0": {}, "node 22.11.0": {"ferns"}, "node 18.20.8": {}, "python 3.8.18": {}}, serves)
	var classes []string
	for _, f := range detail.JSON200.Findings {
		classes = append(classes, f.Class+" "+f.Title)
		assert.Empty(t, f.Repository, "it is of no repository")
		assert.Contains(t, f.Message, "bench last reported on 16 Nov 2026", "what rests on a machine that is late says so")
	}
	assert.ElementsMatch(t, []string{"installation-broken Python", "installation-unneeded Node.js", "installation-unneeded Node.js"}, classes)

	needs, err := c.GetMachineNeedsWithResponse(ctx, "bench", nil)
	require.NoError(t, err)
	require.NotNil(t, needs.JSON200, string(needs.Body))
	var install []string
	for _, i := range needs.JSON200.Install {
		install = append(install, i.Tool+" "+i.Version+" for "+strings.Join(i.AskedBy, ","))
	}
	assert.Equal(t, []string{"node 24.11.1 for orchids", "python 3.8.20 for mosses"}, install)
	assert.Equal(t, "18.20.8", needs.JSON200.Spare[0].Version, "the largest first")
	assert.Equal(t, int64(123_000_000), needs.JSON200.Spare[0].SizeBytes)
	assert.Equal(t, []string{"tulip 2.1"}, needs.JSON200.Spare[0].GoesWith)
	only, err := c.GetMachineNeedsWithResponse(ctx, "bench", &client.GetMachineNeedsParams{Repository: &[]string{"orchids"}})
	require.NoError(t, err)
	assert.Len(t, only.JSON200.Install, 1)
	for _, call := range []string{"/api/machines/none/needs", "/api/machines/none/detail", "/api/machines/none/changes", "/api/machines/bench/needs?repository=none"} {
		status, said := r.call(t, "GET", call, r.token(t, "reader"), "")
		assert.Equal(t, http.StatusNotFound, status, call)
		assert.Contains(t, said, "none", call)
	}
	found, err := c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Class: &[]string{"installation-broken"}})
	require.NoError(t, err)
	require.Equal(t, 1, found.JSON200.Total, "it is among the findings too")
	assert.Contains(t, found.JSON200.Findings[0].Message, "libspade.so.3")
	r.survey(t, c)
	found, err = c.ListFindingsWithResponse(ctx, &client.ListFindingsParams{Class: &[]string{"installation-broken"}})
	require.NoError(t, err)
	assert.Equal(t, "2026-11-16", found.JSON200.Findings[0].FirstSeen, "and has an age")
}

// TestWhatChangedOnAMachine: inventories that differ are kept, and compared with one another.
func TestWhatChangedOnAMachine(t *testing.T) {
	r := start(t)
	c := r.as(t, "lead")
	ctx := t.Context()
	at := time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	with := func(days int, change func(*inventory.Inventory), versions ...string) {
		inv := inventoryOf("bench", versions...)
		inv.TakenAt = at.AddDate(0, 0, days)
		if change != nil {
			change(&inv)
		}
		send(t, c, inv)
	}
	changes := func(since string) client.MachineChanges {
		p := client.GetMachineChangesParams{}
		if since != "" {
			day, err := time.Parse(time.DateOnly, since)
			require.NoError(t, err)
			p.Since = &openapi_types.Date{Time: day}
		}
		got, err := c.GetMachineChangesWithResponse(ctx, "bench", &p)
		require.NoError(t, err)
		require.NotNil(t, got.JSON200, string(got.Body))
		return *got.JSON200
	}
	told := func(list []client.Change) []string {
		out := []string{}
		for _, x := range list {
			out = append(out, fmt.Sprintf("%s %s %s: %s -> %s", x.What, x.Tool, x.Path, x.Before, x.Now))
		}
		return out
	}
	with(0, nil, "22.11.0")
	assert.Empty(t, changes("").From, "there is nothing to compare with")
	with(1, nil, "22.11.0")
	assert.Len(t, changes("").Kept, 1, "what has not changed is kept once")
	with(2, func(inv *inventory.Inventory) {
		inv.FirstOnPath = []inventory.OnPath{{Tool: "node", Path: "/opt/node/22.11.0/bin/node", Version: "22.11.0"}}
		inv.Installations[0].Health, inv.Installations[0].HealthReason = "broken", "its executable is an empty file"
	}, "22.11.0", "24.21.0")
	with(5, func(inv *inventory.Inventory) {
		inv.FirstOnPath = []inventory.OnPath{{Tool: "node", Path: "/opt/node/24.21.0/bin/node", Version: "24.21.0"}}
		inv.Defaults = []inventory.Default{{Tool: "node", Raw: "24", Source: "~/.node-version"}}
	}, "24.21.0")
	last := changes("")
	assert.Equal(t, "2026-11-03T08:00:00Z", last.From)
	assert.Equal(t, []string{"default node ~/.node-version:  -> 24"}, told(last.Came))
	assert.Equal(t, []string{"installation node /opt/node/22.11.0/bin/node: 22.11.0 -> "}, told(last.Went))
	assert.Equal(t, []string{"path node : 22.11.0 at /opt/node/22.11.0/bin/node -> 24.21.0 at /opt/node/24.21.0/bin/node"}, told(last.Changed))
	assert.Equal(t, []string{"2026-11-06T08:00:00Z", "2026-11-03T08:00:00Z", "2026-11-01T08:00:00Z"}, last.Kept)

	whole := changes("2026-11-02")
	assert.Equal(t, "2026-11-01T08:00:00Z", whole.From, "what it had at the end of the day")
	assert.Equal(t, []string{"default node ~/.node-version:  -> 24", "installation node /opt/node/24.21.0/bin/node:  -> 24.21.0", "path node :  -> 24.21.0 at /opt/node/24.21.0/bin/node"}, told(whole.Came))
	assert.Empty(t, changes("2026-10-01").From, "it was not known then")
	got, err := c.RemoveMachineWithResponse(ctx, "bench")
	require.NoError(t, err)
	require.Equal(t, http.StatusNoContent, got.StatusCode())
	with(0, nil, "20.1.0")
	assert.Len(t, changes("").Kept, 1, "what a machine was is forgotten with it")
}

// TestManySendAtOnce: nothing that was sent is lost, and nothing else is kept.
func TestManySendAtOnce(t *testing.T) {
	r := start(t)
	c := r.as(t, "lead")
	lead := r.token(t, "lead")
	var g sync.WaitGroup
	for i := range 40 {
		g.Go(func() {
			inv := inventoryOf(fmt.Sprintf("agent-%02d", i), "22.11.0")
			for round := range 3 {
				inv.TakenAt = time.Date(2026, 11, 16, 8, round, 0, 0, time.UTC)
				inv.Installations[0].Version = fmt.Sprintf("22.11.%d", round)
				send(t, c, inv)
			}
		})
		g.Go(func() {
			for _, garbage := range []string{"", "{", "[]", `{"format": "wexo.inventory/1"}`, inventoryJSON(t, "agent-00", time.Date(2999, 1, 1, 0, 0, 0, 0, time.UTC)), inventoryJSON(t, fmt.Sprintf("agent-%02d", i), time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC))[:80]} {
				status, _ := r.call(t, "POST", "/api/machines", lead, garbage)
				assert.GreaterOrEqual(t, status, 400, garbage)
			}
		})
	}
	g.Wait()
	list, err := c.ListMachinesWithResponse(t.Context())
	require.NoError(t, err)
	require.Len(t, list.JSON200.Machines, 40)
	for i := range 40 {
		inv, err := r.service.Store.Inventory(t.Context(), fmt.Sprintf("agent-%02d", i))
		require.NoError(t, err)
		assert.Equal(t, "22.11.2", inv.Installations[0].Version, "the newest is held")
		kept, err := r.service.Store.Kept(t.Context(), inv.Machine.Name)
		require.NoError(t, err)
		assert.Len(t, kept, 3, "and what was before")
	}
}
