package server_test

import (
	"compress/gzip"
	"io"
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/rule"
	"wexo/internal/server"
	"wexo/internal/server/store"
)

var day = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

// before is a data file as it was written before findings were kept: that of the demo, its
// repositories in a place that is no more.
func before(t *testing.T) string {
	t.Helper()
	packed, err := os.Open("testdata/before.db.gz")
	require.NoError(t, err)
	defer packed.Close()
	data, err := gzip.NewReader(packed)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "wexo.db")
	out, err := os.Create(file)
	require.NoError(t, err)
	_, err = io.Copy(out, data)
	require.NoError(t, err)
	require.NoError(t, out.Close())
	return file
}

// days counts the open findings by the day since when they are.
func days(t *testing.T, s *store.Store) map[string]int {
	t.Helper()
	seen, err := s.FirstSeen(t.Context())
	require.NoError(t, err)
	out := map[string]int{}
	for _, day := range seen {
		out[day]++
	}
	return out
}

// TestAnOldDataFileOpens, with all that it holds; and what cannot be read any more keeps
// what it last said, and its findings their age.
func TestAnOldDataFileOpens(t *testing.T) {
	service, err := openOn(t, before(t), []string{"/"})
	require.NoError(t, err)
	defer service.Close()
	was, err := service.Report(t.Context(), day)
	require.NoError(t, err)
	assert.Equal(t, 26, was.Summary.Repositories)
	assert.Equal(t, 73, was.Summary.Claims)
	assert.Positive(t, was.Summary.ByClass["toolchain-missing"])
	survey(t, service)
	now, err := service.Report(t.Context(), day)
	require.NoError(t, err)
	assert.Equal(t, 73, now.Summary.Claims, "what they said still counts")
	unreadable := now.Summary.ByClass["file-unreadable"] - was.Summary.ByClass["file-unreadable"]
	assert.Equal(t, 26, unreadable, "and that they cannot be read is told")
	for class, n := range was.Summary.ByClass {
		if class != "file-unreadable" {
			assert.Equal(t, n, now.Summary.ByClass[class], class)
		}
	}
	seen := days(t, service.Store)
	assert.Equal(t, 18, seen["2026-08-03"], "as old as it was known before")
	assert.Equal(t, now.Summary.Count(), seen["2026-08-03"]+seen["2026-10-26"]+seen["2026-11-16"])
	survey(t, service)
	assert.Equal(t, seen, days(t, service.Store), "nothing is closed because a disk was away")
	found := false
	for _, read := range now.Reads {
		if read.Name == "weather-mast" {
			found = true
			assert.Contains(t, read.Notice, "It could not be read on")
			assert.Contains(t, read.Notice, "what it said on 16 Nov 2026 is shown.")
			for _, f := range now.Findings(read.Findings) {
				assert.NotContains(t, f.Message, "Nothing that it asks for is checked")
			}
		}
	}
	assert.True(t, found)
}

func survey(t *testing.T, service *server.Service) {
	t.Helper()
	_, err := service.Jobs.Start(t.Context(), day)
	require.NoError(t, err)
	service.Jobs.Wait()
	list, err := service.Store.Surveys(t.Context(), 1)
	require.NoError(t, err)
	require.Equal(t, "finished", list[0].State, list[0].Message)
}

// TestACatalogueThatLostATool opens what was written with it.
func TestACatalogueThatLostATool(t *testing.T) {
	small, err := catalogue.Load(fstest.MapFS{"tools/dibber.yaml": {Data: []byte("tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\n")}})
	require.NoError(t, err)
	service, err := openWith(t, &rule.Book{Catalogue: small}, before(t), nil)
	require.NoError(t, err)
	defer service.Close()
	r, err := service.Report(t.Context(), day)
	require.NoError(t, err)
	assert.Equal(t, 26, r.Summary.Repositories)
	assert.Zero(t, r.Summary.ByClass["toolchain-missing"])
}
