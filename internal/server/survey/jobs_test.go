package survey_test

import (
	"context"
	"errors"
	"log/slog"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/server/store"
	"wexo/internal/server/survey"
	pass "wexo/internal/survey"
)

var day = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

// jobs are those of an empty store; judging waits for the channel and gives the error.
func jobs(t *testing.T, judging <-chan struct{}, err error) *survey.Jobs {
	t.Helper()
	c, loadErr := catalogue.Embedded()
	require.NoError(t, loadErr)
	reader, loadErr := reading.New(c)
	require.NoError(t, loadErr)
	s, loadErr := store.Open(t.Context(), filepath.Join(t.TempDir(), "wexo.db"))
	require.NoError(t, loadErr)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	require.NoError(t, s.AddRepository(t.Context(), store.Repository{Name: "fern", Path: filepath.Join(t.TempDir(), "fern"), Kind: "plain"}))
	return &survey.Jobs{Store: s, Reader: pass.Reader{Claims: reader}, Now: func() time.Time { return day }, Log: slog.New(slog.DiscardHandler),
		Renew: func(ctx context.Context, _ time.Time, sight func(store.Sightings) error) (int, error) {
			select {
			case <-judging:
			case <-ctx.Done():
			}
			if err != nil {
				return 0, err
			}
			return 1, sight(store.Sightings{Findings: []store.Sighting{{Repository: "fern", Fingerprint: "a"}}})
		}}
}

func TestOneSurveyAtATime(t *testing.T) {
	gate := make(chan struct{})
	j := jobs(t, gate, nil)
	first, err := j.Start(t.Context(), day)
	require.NoError(t, err)
	second, err := j.Start(t.Context(), day)
	assert.ErrorIs(t, err, survey.ErrRunning)
	assert.Equal(t, first.ID, second.ID, "the one that runs is told")
	running, _ := j.Current(first.ID)
	assert.Equal(t, "running", running.State)

	events, stop, ok := j.Watch(first.ID)
	require.True(t, ok)
	defer stop()
	bored, leave, ok := j.Watch(first.ID)
	require.True(t, ok)
	leave()
	_, _, ok = j.Watch(first.ID + 1)
	assert.False(t, ok)
	assert.Equal(t, "running", (<-events).State)
	close(gate)
	var last store.Survey
	for s := range events {
		last = s
	}
	assert.Equal(t, "finished", last.State)
	assert.NotEmpty(t, last.FinishedAt)
	assert.Equal(t, "running", (<-bored).State, "who has left gets no more")
	j.Wait()
	current, held := j.Current(first.ID)
	assert.True(t, held)
	assert.Equal(t, "finished", current.State)
	_, held = j.Current(first.ID + 1)
	assert.False(t, held)
	seen, err := j.Store.FirstSeen(t.Context())
	require.NoError(t, err)
	assert.Equal(t, map[store.FindingKey]string{{Repository: "fern", Fingerprint: "a"}: "2026-11-16"}, seen)
	third, err := j.Start(t.Context(), day)
	require.NoError(t, err)
	assert.Greater(t, third.ID, first.ID)
	j.Wait()
}

func TestASurveyThatFails(t *testing.T) {
	gate := make(chan struct{})
	close(gate)
	j := jobs(t, gate, errors.New("the catalogue is wet"))
	started, err := j.Start(t.Context(), day)
	require.NoError(t, err)
	j.Wait()
	got, err := j.Store.Survey(t.Context(), started.ID)
	require.NoError(t, err)
	assert.Equal(t, "failed", got.State)
	assert.Equal(t, "the catalogue is wet", got.Message)
	seen, err := j.Store.FirstSeen(t.Context())
	require.NoError(t, err)
	assert.Empty(t, seen, "what was not judged was not seen")
}

func TestASurveyThatIsStopped(t *testing.T) {
	j := jobs(t, make(chan struct{}), nil)
	ctx, cancel := context.WithCancel(t.Context())
	started, err := j.Start(ctx, day)
	require.NoError(t, err)
	cancel()
	j.Wait()
	got, err := j.Store.Survey(t.Context(), started.ID)
	require.NoError(t, err)
	assert.Equal(t, "stopped", got.State)
}
