package policy_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/policy"
)

// TestIdle: entries that match nothing of what is there, with the nearest name where there is one.
func TestIdle(t *testing.T) {
	p := policy.Policy{
		Machines: []policy.Machines{{Name: "{bench,desk}-*", Tags: []string{"desks"}, Line: 1}, {Name: "agnet-1", Tags: []string{"agents"}, Line: 2}},
		Repositories: []policy.Named{
			{Name: "{seed,moss}-*", Line: 3, Settings: policy.Settings{Tags: []string{"trust"}}}, {Name: "sed-ledger", Line: 4}, {Name: "nothing-like-it", Line: 5},
			{Name: "tag:trust", Line: 6}, {Name: "tag:kiosk", Line: 7}, {Name: "tag:never", Line: 8},
			{Name: "*", Line: 9, Settings: policy.Settings{BuiltBy: []string{"agents"}, BuiltByLine: 10}},
		},
	}
	repositories := []policy.Owned{{Called: policy.Called{Name: "seed-ledger"}}, {Called: policy.Called{Name: "menu"}, Own: policy.Settings{Tags: []string{"kiosk"}}}}
	said := map[int]string{}
	near := map[int]bool{}
	for _, i := range p.Idle(repositories, []string{"desk-1", "agent-1"}) {
		said[i.Line], near[i.Line] = fmt.Sprint(i.Text, ": ", i.Reason), i.Near
	}
	assert.Equal(t, map[int]string{
		2:  `agnet-1: no machine is called so; did you mean "agent-1"?`,
		4:  `sed-ledger: no repository is called so; did you mean "seed-ledger"?`,
		5:  "nothing-like-it: no repository is called so",
		7:  "tag:kiosk: only repositories themselves say that they have this tag, and it chooses nothing unless repositories-decide allows tags",
		8:  "tag:never: no repository has this tag",
		10: "agents: repositories are built by this group, and no machine that is there belongs to it",
	}, said)
	assert.True(t, near[2] && near[4] && !near[5])
	p.Repositories[6].Decides = policy.Decides{Said: true, Kinds: []string{policy.OwnTags}}
	for _, i := range p.Idle(repositories, []string{"desk-1", "agent-1"}) {
		assert.NotEqual(t, 7, i.Line, "where own tags choose, it is not idle")
	}
}
