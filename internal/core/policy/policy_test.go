package policy_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/policy"
)

// TestNearerCounts: the estate's, then what names the repository, then its own; lists add up.
func TestNearerCounts(t *testing.T) {
	p := policy.Policy{
		Settings: policy.Settings{Tags: []string{"trust"}, PlannedEnd: "2026-01-01", Horizon: 100, Severities: []policy.Weighting{{Class: "pin-missing", Severity: "error"}}},
		Repositories: []policy.Named{
			{Name: "seed-*", Settings: policy.Settings{Tags: []string{"ledgers"}, Horizon: 30, Severities: []policy.Weighting{{Class: "pin-missing", Severity: "note"}}}},
			{Name: "other", Settings: policy.Settings{Tags: []string{"no"}}},
		},
	}
	got := p.For(policy.Called{Name: "seed-ledger"}, policy.Settings{Tags: []string{"garden"}, PlannedEnd: "2027-05-01", Horizon: 1, Severities: []policy.Weighting{{Class: "end-of-life", Severity: "note"}}})
	assert.Equal(t, []string{"trust", "ledgers", "garden"}, got.Tags)
	assert.Equal(t, time.Date(2027, 5, 1, 0, 0, 0, 0, time.UTC), got.Ends())
	assert.Equal(t, 30, got.Horizon, "a repository cannot lower what is held against it")
	severity, decided := got.Severity("pin-missing")
	assert.True(t, decided)
	assert.Equal(t, "note", severity)
	_, decided = got.Severity("end-of-life")
	assert.False(t, decided, "a repository cannot lower what is held against it")
	assert.Equal(t, []string{"trust"}, p.Tags, "the policy is as it was")
	assert.Equal(t, 100, p.For(policy.Called{Name: "glasshouse"}, policy.Settings{}).Horizon)
}

// TestTheLaterEndHolds: neither shortens what the other plans.
func TestTheLaterEndHolds(t *testing.T) {
	p := policy.Policy{Settings: policy.Settings{PlannedEnd: "2027-05-01"}}
	for own, want := range map[string]string{"": "2027-05-01", "2026-12-01": "2027-05-01", "2029-01-01": "2029-01-01"} {
		assert.Equal(t, want, p.For(policy.Called{Name: "beds"}, policy.Settings{PlannedEnd: own}).PlannedEnd, own)
	}
}

// TestCalled: what a decision means does not depend on what else is looked at.
func TestCalled(t *testing.T) {
	for _, name := range []string{"shop", "x/shop"} {
		c := policy.Called{Name: name, Path: "/home/fern/x/shop.git", Identity: "20c4d09b"}
		for glob, want := range map[string]bool{"shop*": true, "shop": true, "x/shop": true, "x/*": true, "*/shop": true, "fern/x/shop": true, "/home/fern/x/shop": true, "20c4d09b": true,
			"x": false, "y/shop": false, "sho": false, "fern/*": false, "": false, "20c4*": false} {
			assert.Equal(t, want, c.Is(glob), "%s: %s", name, glob)
		}
	}
	assert.True(t, policy.Called{Name: "a/shop"}.Is("shop"), "where nothing else is known")
}

// TestWarns: a line that ends on a day is reported that many days before, that day counted.
func TestWarns(t *testing.T) {
	end := time.Date(2026, 12, 31, 0, 0, 0, 0, time.UTC)
	assert.Equal(t, end, policy.Warns(end, 1))
	assert.Equal(t, time.Date(2026, 12, 2, 0, 0, 0, 0, time.UTC), policy.Warns(end, 30))
	assert.Equal(t, end.AddDate(0, 0, 1-policy.UsualHorizon), policy.Warns(end, 0))
	assert.True(t, policy.Settings{PlannedEnd: ""}.Ends().IsZero())
}

func TestCountsApart(t *testing.T) {
	s := policy.Settings{Apart: []string{"legacy", "!examples", "examples/old/**"}}
	for folder, want := range map[string][2]bool{
		"legacy": {true, true}, "beds/legacy": {true, true}, "examples": {false, true}, "examples/old/one": {true, true}, "beds": {false, false},
	} {
		apart, decided := s.CountsApart(folder)
		assert.Equal(t, want, [2]bool{apart, decided}, folder)
	}
}

func TestWhoBuildsWhat(t *testing.T) {
	p := policy.Policy{
		Repositories: []policy.Named{
			{Name: "seed-*", Settings: policy.Settings{BuiltBy: []string{"agents"}}},
			{Name: "tag:kiosk", Settings: policy.Settings{BuiltBy: []string{"kiosks"}, PlannedEnd: "2027-05-01"}},
		},
		Machines: []policy.Machines{{Name: "kiosk-*", Tags: []string{"kiosks", "public"}}, {Name: "*", Tags: []string{"kiosks", "all"}, Within: 36 * time.Hour}},
		Groups:   []policy.Group{{Tag: "kiosks", Title: "The kiosks"}},
	}
	assert.Equal(t, []string{"agents"}, p.For(policy.Called{Name: "seed-ledger"}, policy.Settings{}).BuiltBy)
	own := policy.Settings{Tags: []string{"kiosk"}, BuiltBy: []string{"mine"}}
	menu := p.For(policy.Called{Name: "menu"}, own)
	assert.Empty(t, menu.BuiltBy, "no machine is in that group, and no tag that it gives itself chooses a policy")
	assert.Empty(t, menu.PlannedEnd)
	assert.Equal(t, []string{"kiosk"}, menu.Tags, "it is chosen by it all the same")
	p.Decides = policy.Decides{Said: true, Kinds: []string{policy.OwnTags}}
	menu = p.For(policy.Called{Name: "menu"}, own)
	assert.Equal(t, []string{"kiosks"}, menu.BuiltBy, "what is decided for the estate counts before what a repository says of itself")
	assert.Equal(t, "2027-05-01", menu.PlannedEnd, "and an entry for a tag holds for a repository that has it")
	p.Decides = policy.Decides{}
	assert.Equal(t, []string{"public"}, p.For(policy.Called{Name: "shop"}, policy.Settings{BuiltBy: []string{"mine", "public"}}).BuiltBy)
	p.Decides = policy.Decides{Said: true}
	assert.Equal(t, policy.Settings{Decides: p.Decides}, p.For(policy.Called{Name: "shop"}, policy.Settings{BuiltBy: []string{"public"}, Apart: []string{"**"}, Tags: []string{"kiosk"}}), "nothing is for repositories to decide")
	assert.Equal(t, []string{"kiosks", "public", "all"}, p.TagsOf("kiosk-4"))
	assert.Equal(t, "The kiosks", p.TitleOf("kiosks"))
	assert.Equal(t, "public", p.TitleOf("public"))
	assert.Equal(t, 36*time.Hour, p.ReportsWithin("bench", "image", 6*time.Hour), "as decided")
	assert.Equal(t, 12*time.Hour, policy.Policy{}.ReportsWithin("bench", "image", 6*time.Hour), "twice what the machine says")
	assert.Equal(t, policy.UsualReport, policy.Policy{}.ReportsWithin("bench", "laptop", 0))
	assert.Zero(t, policy.Policy{}.ReportsWithin("kiosk", "image", 0), "an image stays what it is")
}
