package store_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/inventory"
	"wexo/internal/server/store"
)

var now = time.Date(2026, 11, 16, 8, 0, 0, 0, time.UTC)

func open(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "garden data?.db"))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	return s
}

func TestRepositoriesAndReadings(t *testing.T) {
	s, ctx := open(t), context.Background()
	for _, name := range []string{"moss", "fern"} {
		require.NoError(t, s.AddRepository(ctx, store.Repository{Name: name, Path: "/work/" + name, Kind: "git", AddedAt: "2026-11-16T08:00:00Z"}))
	}
	require.NoError(t, s.AddRepository(ctx, store.Repository{Name: "fern-again", Path: "/work/fern", Kind: "git", AddedAt: ""}), "a path that is there stays as it is")
	list, err := s.Repositories(ctx)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "fern", list[0].Name)

	before := s.Generation()
	reading := fact.Reading{Reading: claim.Reading{Claims: []claim.Claim{{Tool: "python", Raw: "3.12", Role: claim.Pin}}, Files: 3}}
	var stored []store.Reading
	for _, name := range []string{"fern", "gone"} {
		stored = append(stored, store.Reading{Repository: name, Path: "/work/" + name, Ref: "HEAD", Commit: "c0ffee"}.Saying(encoded(t, reading), now))
	}
	require.NoError(t, s.SaveReadings(ctx, stored))
	assert.Equal(t, before, s.Generation(), "those who show the data are told when they may look")
	assert.Greater(t, s.Changed(), before)
	readings, err := s.Readings(ctx)
	require.NoError(t, err)
	require.Len(t, readings, 1, "a repository that was removed meanwhile is left out")
	assert.Equal(t, reading.Claims, said(t, s, readings[0]).Claims)
	assert.Equal(t, "/work/fern", readings[0].Path)

	require.NoError(t, s.RemoveRepository(ctx, "fern"))
	readings, err = s.Readings(ctx)
	require.NoError(t, err)
	assert.Empty(t, readings, "its reading goes with it")
	assert.ErrorIs(t, s.RemoveRepository(ctx, "fern"), store.ErrNotFound)
}

func encoded(t *testing.T, r fact.Reading) []byte {
	t.Helper()
	data, err := json.Marshal(r)
	require.NoError(t, err)
	return data
}

// said is what a stored reading says.
func said(t *testing.T, s *store.Store, r store.Reading) (out fact.Reading) {
	t.Helper()
	require.NoError(t, s.Contents(t.Context(), []string{r.Digest}, func(_ string, said fact.Reading) error {
		out = said
		return nil
	}))
	return out
}

// add adds repositories.
func add(t *testing.T, s *store.Store, names ...string) {
	t.Helper()
	for _, name := range names {
		require.NoError(t, s.AddRepository(t.Context(), store.Repository{Name: name, Path: "/work/" + name, Kind: "git"}))
	}
}

// TestReadingsAreKeptOnce, and the last that succeeded is kept when a later one fails.
func TestReadingsAreKeptOnce(t *testing.T) {
	s, ctx := open(t), t.Context()
	add(t, s, "fern", "moss")
	reading := fact.Reading{Reading: claim.Reading{Claims: []claim.Claim{{Tool: "python", Raw: "3.12", Role: claim.Pin}}}}
	save := func(list ...store.Reading) []store.Reading {
		t.Helper()
		require.NoError(t, s.SaveReadings(ctx, list))
		got, err := s.Readings(ctx)
		require.NoError(t, err)
		return got
	}
	fern := store.Reading{Repository: "fern", Identity: "f", Path: "/work/fern", Ref: "HEAD", Commit: "c0ffee"}
	first := fern.Saying(encoded(t, reading), now)
	second := store.Reading{Repository: "moss", Path: "/work/moss"}.Saying(encoded(t, reading), now)
	got := save(first, second)
	assert.Equal(t, got[0].Digest, got[1].Digest)
	got = save(store.Reading{Repository: "fern", Identity: "f", Path: "/work/fern"}.Failing("the disk is away", now.Add(time.Hour)))
	assert.Equal(t, "the disk is away", got[0].Failure)
	assert.Equal(t, "2026-11-16T09:00:00Z", got[0].FailedAt)
	assert.Equal(t, "2026-11-16T08:00:00Z", got[0].ReadAt, "when it last succeeded")
	assert.Equal(t, "c0ffee", got[0].Commit)
	assert.Equal(t, reading.Claims, said(t, s, got[0]).Claims)
	got = save(first)
	assert.Empty(t, got[0].Failure, "it can be read again")
	forbidden := fern.Failing("it may not be read", now)
	forbidden.Forget = true
	got = save(forbidden)
	assert.Empty(t, got[0].Digest, "what may not be read any more is not kept")
	assert.NotEmpty(t, said(t, s, got[1]).Claims, "what another one says too stays")
}

func TestSightings(t *testing.T) {
	s, ctx := open(t), context.Background()
	add(t, s, "fern", "moss")
	survey := func(day string, prints ...string) map[string]string {
		at, err := time.Parse(time.DateOnly, day)
		require.NoError(t, err)
		var list []store.Sighting
		for _, f := range prints {
			list = append(list, store.Sighting{Repository: "fern", Fingerprint: f, Class: "end-of-life", Payload: "{}" + day})
		}
		_, err = s.Sight(ctx, at, store.Sightings{Findings: list})
		require.NoError(t, err)
		seen, err := s.FirstSeen(ctx)
		require.NoError(t, err)
		out := map[string]string{}
		for key, day := range seen {
			assert.Equal(t, "fern", key.Repository)
			out[key.Fingerprint] = day
		}
		return out
	}
	assert.Equal(t, map[string]string{"a": "2026-11-01", "b": "2026-11-01"}, survey("2026-11-01", "a", "b"))
	assert.Equal(t, map[string]string{"a": "2026-11-01", "c": "2026-11-08"}, survey("2026-11-08", "a", "c"), "b is gone")
	assert.Equal(t, map[string]string{"a": "2026-11-01", "b": "2026-11-09", "c": "2026-11-08"}, survey("2026-11-09", "a", "b", "c"), "b is new again")
	assert.Equal(t, map[string]string{"c": "2026-11-08"}, survey("2026-11-09", "c"), "also twice a day")
	history, payload, err := s.History(ctx, store.FindingKey{Repository: "fern", Fingerprint: "b"})
	require.NoError(t, err)
	assert.Equal(t, []store.Interval{{OpenedOn: "2026-11-01", ClosedOn: "2026-11-08"}, {OpenedOn: "2026-11-09", ClosedOn: "2026-11-09"}}, history)
	assert.Equal(t, "{}2026-11-09", payload, "what it said last")
	_, _, err = s.History(ctx, store.FindingKey{Repository: "moss", Fingerprint: "b"})
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.RemoveRepository(ctx, "fern"))
	assert.Empty(t, survey("2026-11-10"), "they go with their repository")
}

func TestInventories(t *testing.T) {
	s, ctx := open(t), context.Background()
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench"}, TakenAt: now}
	require.NoError(t, s.SaveInventory(ctx, inv, now))
	older := inv
	older.TakenAt, older.Machine.Kind = now.Add(-time.Hour), "laptop"
	var held *store.Older
	require.ErrorAs(t, s.SaveInventory(ctx, older, now), &held)
	assert.Equal(t, now, held.Held)
	got, err := s.Inventory(ctx, "bench")
	require.NoError(t, err)
	assert.Empty(t, got.Machine.Kind, "an older inventory does not replace a newer one")
	newer := inv
	newer.TakenAt, newer.Machine.Kind = now.Add(time.Hour), "laptop"
	require.NoError(t, s.SaveInventory(ctx, newer, now))
	got, err = s.Inventory(ctx, "bench")
	require.NoError(t, err)
	assert.Equal(t, "laptop", got.Machine.Kind)
	_, err = s.Inventory(ctx, "desk")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestAccess(t *testing.T) {
	s, ctx := open(t), context.Background()
	id, secret, err := s.CreateToken(ctx, "fern", "lead", "", now)
	require.NoError(t, err)
	token, err := s.UseToken(ctx, secret, now.Add(time.Hour))
	require.NoError(t, err)
	assert.Equal(t, "lead", token.Role)
	_, err = s.UseToken(ctx, secret+"x", now)
	assert.ErrorIs(t, err, store.ErrNotFound)
	list, err := s.Tokens(ctx)
	require.NoError(t, err)
	assert.Equal(t, "2026-11-16T09:00:00Z", list[0].LastUsedAt)

	cookie, session, err := s.SignIn(ctx, secret, "", now)
	require.NoError(t, err)
	assert.Equal(t, "fern", session.Name)
	again, err := s.UseSession(ctx, cookie, now.Add(store.SessionLife-time.Minute))
	require.NoError(t, err)
	assert.Equal(t, session, again)
	_, err = s.UseSession(ctx, cookie, now.Add(store.SessionLife))
	assert.ErrorIs(t, err, store.ErrNotFound, "a session ends")
	require.NoError(t, s.DeleteToken(ctx, id))
	_, err = s.UseSession(ctx, cookie, now)
	assert.ErrorIs(t, err, store.ErrNotFound, "with its token")

	code, err := s.CreateCode(ctx, 0, "fern", "owner", now.Add(time.Hour))
	require.NoError(t, err)
	_, _, err = s.SignIn(ctx, "", code, now.Add(time.Hour))
	assert.ErrorIs(t, err, store.ErrNotFound, "a code expires")
	code, err = s.CreateCode(ctx, 0, "fern", "owner", now.Add(time.Hour))
	require.NoError(t, err)
	wins := make(chan bool, 8)
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() {
			_, _, err := s.SignIn(ctx, "", code, now)
			wins <- err == nil
		})
	}
	wait.Wait()
	close(wins)
	won := 0
	for ok := range wins {
		if ok {
			won++
		}
	}
	assert.Equal(t, 1, won, "a code signs in once, however many try")
}

// TestDataOfOthers is refused, also where the other program keeps track of its tables as
// this one does; a file in which nothing was made yet is not.
func TestDataOfOthers(t *testing.T) {
	kept := `CREATE TABLE goose_db_version (id INTEGER PRIMARY KEY AUTOINCREMENT, version_id INTEGER NOT NULL, is_applied INTEGER NOT NULL, tstamp TIMESTAMP DEFAULT (datetime('now')));
		INSERT INTO goose_db_version (version_id, is_applied) VALUES (0, 1);`
	for tables, fits := range map[string]bool{
		`CREATE TABLE seeds (name TEXT)`:          false,
		kept + `CREATE TABLE tokens (id INTEGER)`: false,
		kept:     true,
		`VACUUM`: true,
	} {
		file := filepath.Join(t.TempDir(), "data.db")
		db, err := sql.Open("sqlite", "file:"+file)
		require.NoError(t, err)
		_, err = db.Exec(tables)
		require.NoError(t, errors.Join(err, db.Close()))
		s, err := store.Open(t.Context(), file)
		if fits {
			require.NoError(t, err, tables)
			require.NoError(t, s.Close())
			continue
		}
		var foreign *store.Foreign
		require.ErrorAs(t, err, &foreign, tables)
	}
}

// TestSessionsOfOneToken are bounded: the oldest one ends, others' go on.
func TestSessionsOfOneToken(t *testing.T) {
	s, ctx := open(t), t.Context()
	_, many, err := s.CreateToken(ctx, "many", "reader", "", now)
	require.NoError(t, err)
	_, other, err := s.CreateToken(ctx, "other", "reader", "", now)
	require.NoError(t, err)
	kept, _, err := s.SignIn(ctx, other, "", now)
	require.NoError(t, err)
	var secrets []string
	for range 105 {
		secret, _, err := s.SignIn(ctx, many, "", now)
		require.NoError(t, err)
		secrets = append(secrets, secret)
	}
	open, err := s.Sessions(ctx, now)
	require.NoError(t, err)
	assert.Len(t, open, 101)
	_, err = s.UseSession(ctx, secrets[4], now)
	assert.ErrorIs(t, err, store.ErrNotFound)
	for _, secret := range []string{secrets[5], secrets[104], kept} {
		_, err = s.UseSession(ctx, secret, now)
		assert.NoError(t, err)
	}
}

func TestSurveysLeftOver(t *testing.T) {
	file := filepath.Join(t.TempDir(), "wexo.db")
	s, err := store.Open(t.Context(), file)
	require.NoError(t, err)
	started, err := s.StartSurvey(t.Context(), now, now, 26)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	s, err = store.Open(t.Context(), file)
	require.NoError(t, err, "migrations run again without harm")
	defer s.Close()
	require.NoError(t, s.StopLeftOver(t.Context(), now))
	got, err := s.Survey(t.Context(), started.ID)
	require.NoError(t, err)
	assert.Equal(t, "stopped", got.State)
	_, err = s.Survey(t.Context(), 99)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestReadersAndWritersTogether(t *testing.T) {
	s, ctx := open(t), context.Background()
	var wait sync.WaitGroup
	problems := make(chan error, 200)
	for i := range 20 {
		wait.Go(func() {
			problems <- s.AddRepository(ctx, store.Repository{Name: fmt.Sprint("bed", i), Path: fmt.Sprint("/bed/", i), Kind: "git"})
			r := store.Reading{Repository: fmt.Sprint("bed", i), Path: fmt.Sprint("/bed/", i)}.Saying([]byte("{}"), now)
			problems <- s.SaveReadings(ctx, []store.Reading{r})
		})
		wait.Go(func() {
			_, err := s.Readings(ctx)
			problems <- err
		})
	}
	wait.Wait()
	close(problems)
	for err := range problems {
		require.NoError(t, err)
	}
	readings, err := s.Readings(ctx)
	require.NoError(t, err)
	assert.Len(t, readings, 20)
}

func TestABrokenDataFile(t *testing.T) {
	_, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "no", "such", "folder", "x.db"))
	assert.ErrorContains(t, err, "x.db")
}
