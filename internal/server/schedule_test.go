package server_test

import (
	"context"
	"log/slog"
	"net"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/server"
)

// TestSurveysByThemselves: one as soon as the service starts, the next when it is due, none
// before that, and none after it stopped.
func TestSurveysByThemselves(t *testing.T) {
	data, clock := filepath.Join(t.TempDir(), "wexo.db"), make(chan time.Time, 1)
	clock <- time.Date(2026, 11, 16, 8, 0, 0, 0, time.UTC)
	now := func() time.Time {
		at := <-clock
		clock <- at
		return at
	}
	b, err := rule.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(b.Catalogue)
	require.NoError(t, err)
	serve := func(every time.Duration) (*server.Service, func()) {
		service, err := server.Open(context.Background(), server.Options{Data: data, Clock: now, Every: every, Version: "test", Book: b, Reader: reader, Log: slog.New(slog.DiscardHandler)})
		require.NoError(t, err)
		listener, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		ctx, cancel := context.WithCancel(context.Background())
		done := make(chan error, 1)
		go func() { done <- service.Serve(ctx, listener) }()
		return service, func() {
			cancel()
			assert.NoError(t, <-done)
		}
	}
	count := func(s *server.Service) int {
		list, err := s.Store.Surveys(context.Background(), 10)
		require.NoError(t, err)
		return len(list)
	}
	service, stop := serve(time.Hour)
	assert.Eventually(t, func() bool { return count(service) == 1 }, 10*time.Second, 5*time.Millisecond)
	stop()
	service, stop = serve(time.Hour)
	assert.Never(t, func() bool { return count(service) > 1 }, 200*time.Millisecond, 20*time.Millisecond, "an hour has not passed")
	stop()
	at := <-clock
	clock <- at.Add(2 * time.Hour)
	service, stop = serve(time.Hour)
	assert.Eventually(t, func() bool { return count(service) == 2 }, 10*time.Second, 5*time.Millisecond)
	stop()
	service, stop = serve(0)
	assert.Never(t, func() bool { return count(service) > 2 }, 100*time.Millisecond, 20*time.Millisecond, "nobody asked for any")
	stop()
}

// TestASurveyOfTheFuture: one that was begun by a clock that went ahead does not stop the schedule.
func TestASurveyOfTheFuture(t *testing.T) {
	data := filepath.Join(t.TempDir(), "wexo.db")
	at := time.Date(2026, 11, 16, 8, 0, 0, 0, time.UTC)
	b, err := rule.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(b.Catalogue)
	require.NoError(t, err)
	for i, clock := range []time.Time{at.AddDate(3, 0, 0), at} {
		service, err := server.Open(t.Context(), server.Options{Data: data, Clock: func() time.Time { return clock }, Every: time.Hour, Version: "test", Book: b, Reader: reader, Log: slog.New(slog.DiscardHandler)})
		require.NoError(t, err)
		listener, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		ctx, cancel := context.WithCancel(t.Context())
		done := make(chan error, 1)
		go func() { done <- service.Serve(ctx, listener) }()
		assert.Eventually(t, func() bool {
			list, err := service.Store.Surveys(t.Context(), 10)
			return err == nil && len(list) == i+1
		}, 10*time.Second, 5*time.Millisecond)
		cancel()
		require.NoError(t, <-done)
	}
}

// TestAListenerThatFails ends the service, its schedule with it.
func TestAListenerThatFails(t *testing.T) {
	b, err := rule.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(b.Catalogue)
	require.NoError(t, err)
	service, err := server.Open(t.Context(), server.Options{Data: filepath.Join(t.TempDir(), "wexo.db"), Every: time.Hour, Version: "test", Book: b, Reader: reader, Log: slog.New(slog.DiscardHandler)})
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	done := make(chan error, 1)
	go func() { done <- service.Serve(t.Context(), listener) }()
	require.NoError(t, listener.Close())
	select {
	case err := <-done:
		assert.Error(t, err)
	case <-time.After(20 * time.Second):
		t.Fatal("it hangs")
	}
}
