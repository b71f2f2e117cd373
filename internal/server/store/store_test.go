package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/claim"
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
	reading := claim.Reading{Claims: []claim.Claim{{Tool: "python", Raw: "3.12", Role: claim.Pin}}, Files: 3}
	var stored []store.Reading
	for _, name := range []string{"fern", "gone"} {
		r, err := store.NewReading(name, "/work/"+name, "HEAD", "c0ffee", "", now, reading)
		require.NoError(t, err)
		stored = append(stored, r)
	}
	require.NoError(t, s.SaveReadings(ctx, stored))
	assert.NotEqual(t, before, s.Generation())
	readings, err := s.Readings(ctx)
	require.NoError(t, err)
	require.Len(t, readings, 1, "a repository that was removed meanwhile is left out")
	back, err := readings[0].Claims()
	require.NoError(t, err)
	assert.Equal(t, reading.Claims, back.Claims)
	assert.Equal(t, "/work/fern", readings[0].Path)

	require.NoError(t, s.RemoveRepository(ctx, "fern"))
	readings, err = s.Readings(ctx)
	require.NoError(t, err)
	assert.Empty(t, readings, "its reading goes with it")
	assert.ErrorIs(t, s.RemoveRepository(ctx, "fern"), store.ErrNotFound)
}

func TestSightings(t *testing.T) {
	s, ctx := open(t), context.Background()
	survey := func(id int64, day string, prints ...string) map[string]string {
		at, err := time.Parse(time.DateOnly, day)
		require.NoError(t, err)
		require.NoError(t, s.Sight(ctx, id, at, prints))
		seen, err := s.FirstSeen(ctx)
		require.NoError(t, err)
		return seen
	}
	assert.Equal(t, map[string]string{"a": "2026-11-01", "b": "2026-11-01"}, survey(1, "2026-11-01", "a", "b"))
	assert.Equal(t, map[string]string{"a": "2026-11-01", "c": "2026-11-08"}, survey(2, "2026-11-08", "a", "c"), "b is gone")
	assert.Equal(t, map[string]string{"a": "2026-11-01", "b": "2026-11-09", "c": "2026-11-08"}, survey(3, "2026-11-09", "a", "b", "c"), "b is new again")
	assert.Equal(t, map[string]string{"c": "2026-11-08"}, survey(4, "2026-11-09", "c"), "also twice a day")
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
			r, err := store.NewReading(fmt.Sprint("bed", i), fmt.Sprint("/bed/", i), "", "", "", now, claim.Reading{})
			problems <- err
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
