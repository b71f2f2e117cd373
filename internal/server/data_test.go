package server_test

import (
	"bufio"
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/client"
	"wexo/internal/server/store"
)

// TestADataFileThatCannotBeWritten is still read, and told of.
func TestADataFileThatCannotBeWritten(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	status, _ := r.call(t, "GET", "/ready", "", "")
	assert.Equal(t, 200, status)
	fresh := r.token(t, "reader") // whose first use would be noted
	db, err := sqlx.Connect("sqlite", "file:"+r.data+"?_txlock=immediate")
	require.NoError(t, err)
	defer db.Close()
	tx, err := db.Beginx() // holds the write lock
	require.NoError(t, err)
	status, detail := r.call(t, "GET", "/api/overview", fresh, "")
	assert.Equal(t, 200, status, "reading needs no writing: %s", detail)
	require.Eventually(t, func() bool {
		status, detail = r.call(t, "GET", "/ready", "", "")
		return status == 503
	}, 20*time.Second, 100*time.Millisecond)
	assert.Contains(t, detail, "cannot be written")
	require.NoError(t, tx.Rollback())
	require.Eventually(t, func() bool {
		status, _ = r.call(t, "GET", "/ready", "", "")
		return status == 200
	}, 20*time.Second, 100*time.Millisecond)
	r.survey(t, c)
}

func TestOneServiceADataFile(t *testing.T) {
	r := start(t)
	dir := filepath.Dir(r.data)
	link, other := filepath.Join(dir, "link.db"), filepath.Join(t.TempDir(), "folder")
	require.NoError(t, os.Symlink(r.data, link))
	require.NoError(t, os.Link(r.data, filepath.Join(dir, "hard.db")))
	require.NoError(t, os.Symlink(dir, other))
	require.NoError(t, os.Remove(r.data+".lock"), "and a lock that somebody removes changes nothing")
	for _, name := range []string{r.data, link, filepath.Join(dir, "hard.db"), filepath.Join(other, "wexo.db"), filepath.Join(other, "link.db")} {
		_, err := openOn(t, name, nil)
		var taken *store.Taken
		require.ErrorAs(t, err, &taken, name)
		assert.ErrorContains(t, err, "another service serves the data file")
	}
	assert.True(t, store.Aliased(filepath.Join(dir, "hard.db")))
	require.NoError(t, r.stop())
	assert.False(t, store.Aliased(filepath.Join(dir, "hard.db")))
	held, err := store.Lock(link)
	require.NoError(t, err)
	assert.Equal(t, r.data, held.Path)
	require.NoError(t, held.Close())
	info, err := os.Stat(r.data)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
}

// TestADataFileThatIsGone: what would be written to a file that lies nowhere any more is refused,
// and /ready says so, until it is there again.
func TestADataFileThatIsGone(t *testing.T) {
	for how, spoil := range map[string]func(data, away string) error{
		"was removed": os.Rename,
		"was replaced by another": func(data, away string) error {
			return errors.Join(os.Rename(data, away), os.WriteFile(data, nil, 0o600))
		},
	} {
		t.Run(how, func(t *testing.T) {
			r := start(t)
			r.surveyed(t)
			c := r.as(t, "owner")
			away := r.data + ".away"
			require.NoError(t, spoil(r.data, away))
			require.Eventually(t, func() bool {
				status, detail := r.call(t, "GET", "/ready", "", "")
				return status == 503 && strings.Contains(detail, "The data file "+how) && !strings.Contains(detail, r.data)
			}, 20*time.Second, 100*time.Millisecond)
			got, err := c.CreateTokenWithResponse(t.Context(), client.CreateTokenJSONRequestBody{Name: "late", Role: client.Reader})
			require.NoError(t, err)
			assert.Equal(t, 503, got.StatusCode(), string(got.Body))
			assert.Contains(t, string(got.Body), "nothing more is written")
			overview, err := c.GetOverviewWithResponse(t.Context(), nil)
			require.NoError(t, err)
			assert.Equal(t, 200, overview.StatusCode(), "what it knows it still tells")
			require.NoError(t, os.Rename(away, r.data))
			got, err = c.CreateTokenWithResponse(t.Context(), client.CreateTokenJSONRequestBody{Name: "late", Role: client.Reader})
			require.NoError(t, err)
			assert.Equal(t, 201, got.StatusCode(), string(got.Body))
		})
	}
}

// TestAFileOfANewerVersion stays as it is, down to its last byte.
func TestAFileOfANewerVersion(t *testing.T) {
	r := start(t)
	require.NoError(t, r.stop())
	db, err := sql.Open("sqlite", r.data)
	require.NoError(t, err)
	for _, statement := range []string{"INSERT INTO goose_db_version (version_id, is_applied) VALUES (4711, 1)", "ALTER TABLE machines RENAME COLUMN inventory TO said"} {
		_, err = db.Exec(statement)
		require.NoError(t, err)
	}
	require.NoError(t, db.Close())
	before, err := os.ReadFile(r.data)
	require.NoError(t, err)
	_, err = openOn(t, r.data, nil)
	var newer *store.Newer
	require.ErrorAs(t, err, &newer)
	assert.ErrorContains(t, err, "written by a newer version of Wexo")
	after, err := os.ReadFile(r.data)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

func TestAnOverwrittenPageIsToldOf(t *testing.T) {
	r := start(t)
	r.surveyed(t)
	require.NoError(t, r.stop())
	sound, err := os.ReadFile(r.data)
	require.NoError(t, err)
	for _, at := range []int{0, 4096, len(sound) / 2 / 4096 * 4096} {
		torn := slices.Clone(sound)
		copy(torn[at:], bytes.Repeat([]byte{0xa5}, 4096))
		require.NoError(t, os.WriteFile(r.data, torn, 0o600))
		_, err = store.Open(t.Context(), r.data)
		var damaged *store.Damaged
		require.ErrorAs(t, err, &damaged, "page at %d", at)
		assert.ErrorContains(t, err, "put a copy of it in its place")
	}
}

// TestRequestsUnderWayWhenTheServiceStops are finished, or told that it stops; one that
// hangs makes stopping no failure.
func TestRequestsUnderWayWhenTheServiceStops(t *testing.T) {
	r := start(t)
	lead := r.token(t, "lead")
	body := inventoryJSON(t, "bench", time.Now().Add(-time.Hour))
	upload := func() (net.Conn, *bufio.Reader) {
		conn, err := net.Dial("tcp", strings.TrimPrefix(r.url, "http://"))
		require.NoError(t, err)
		require.NoError(t, conn.SetDeadline(time.Now().Add(30*time.Second)))
		_, err = fmt.Fprintf(conn, "POST /api/machines HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nAuthorization: Bearer %s\r\nExpect: 100-continue\r\nContent-Length: %d\r\n\r\n", lead, len(body))
		require.NoError(t, err)
		answers := bufio.NewReader(conn)
		for _, want := range []string{"HTTP/1.1 100 Continue\r\n", "\r\n"} { // the service asks for the body: it is under way
			line, err := answers.ReadString('\n')
			require.NoError(t, err)
			require.Equal(t, want, line)
		}
		_, err = io.WriteString(conn, body[:20])
		require.NoError(t, err)
		return conn, answers
	}
	slow, answers := upload()
	hanging, _ := upload()
	defer hanging.Close()
	done := make(chan error, 1)
	go func() { done <- r.stop() }()
	require.Eventually(t, func() bool { // it takes no new ones
		conn, err := net.DialTimeout("tcp", strings.TrimPrefix(r.url, "http://"), time.Second)
		if err == nil {
			conn.Close()
		}
		return err != nil
	}, 10*time.Second, 10*time.Millisecond)
	_, err := io.WriteString(slow, body[20:])
	require.NoError(t, err)
	status, err := answers.ReadString('\n')
	require.NoError(t, err)
	assert.Contains(t, status, " 200 ", "what was begun is finished")
	select {
	case err := <-done:
		assert.NoError(t, err)
	case <-time.After(20 * time.Second):
		t.Fatal("a hanging request keeps the service from stopping")
	}
}

// TestNothingLeadsOutOfTheRootsLater: a folder that was allowed when it was added is
// looked at again at every survey.
func TestNothingLeadsOutOfTheRootsLater(t *testing.T) {
	r := start(t)
	c := r.surveyed(t)
	secret := t.TempDir()
	lay(t, secret, "vault", map[string]string{".node-version": "16\n"})
	require.NoError(t, os.RemoveAll(filepath.Join(r.estate, "ferns")))
	require.NoError(t, os.Symlink(filepath.Join(secret, "vault"), filepath.Join(r.estate, "ferns")))
	require.NoError(t, os.RemoveAll(filepath.Join(r.estate, "mosses", ".git")))
	require.NoError(t, os.WriteFile(filepath.Join(r.estate, "mosses", ".git"), []byte("gitdir: "+secret+"/vault/.git\n"), 0o644))
	r.survey(t, c)
	claims, err := c.ListClaimsWithResponse(t.Context(), nil)
	require.NoError(t, err)
	for _, one := range claims.JSON200.Claims {
		assert.NotEqual(t, "16", one.Claim.Raw, "nothing of what lies outside is read")
	}
	assert.Len(t, claims.JSON200.Claims, 4, "what they said while they were allowed to still counts")
	class := []string{"file-unreadable"}
	found, err := c.ListFindingsWithResponse(t.Context(), &client.ListFindingsParams{Class: &class})
	require.NoError(t, err)
	require.Len(t, found.JSON200.Findings, 2)
	for _, f := range found.JSON200.Findings {
		assert.Contains(t, f.Message, "does not lie below a folder that the configuration allows")
	}
}

// TestOddRepositories are named, opened and removed properly.
func TestOddRepositories(t *testing.T) {
	r := start(t)
	for _, name := range []string{"leaf\xff\xfe", "new\nline", "rtl\u202eflow", "...", "%2e%2e", "a b?c#d"} {
		lay(t, r.estate, name, map[string]string{".node-version": "22\n"})
	}
	c := r.as(t, "lead")
	added, err := c.AddRepositoriesWithResponse(t.Context(), client.AddRepositories{Path: r.estate + "/ferns/.git"})
	require.NoError(t, err)
	require.Equal(t, 201, added.StatusCode(), string(added.Body))
	require.Len(t, added.JSON201.Repositories, 1)
	assert.Equal(t, "ferns", added.JSON201.Repositories[0].Name)
	assert.Equal(t, filepath.Join(r.estate, "ferns"), added.JSON201.Repositories[0].Path)
	_, err = c.AddRepositoriesWithResponse(t.Context(), client.AddRepositories{Path: r.estate})
	require.NoError(t, err)
	r.survey(t, c)
	claims, err := c.ListClaimsWithResponse(t.Context(), nil)
	require.NoError(t, err)
	assert.Len(t, claims.JSON200.Claims, 9, "each is read")
	list, err := c.ListRepositoriesWithResponse(t.Context())
	require.NoError(t, err)
	for _, x := range list.JSON200.Repositories {
		assert.NotEmpty(t, x.Commit, x.Name)
		one, err := c.GetRepositoryWithResponse(t.Context(), x.Name, nil)
		require.NoError(t, err)
		require.Equal(t, 200, one.StatusCode(), x.Name)
		gone, err := c.RemoveRepositoryWithResponse(t.Context(), x.Name)
		require.NoError(t, err)
		assert.Equal(t, 204, gone.StatusCode(), x.Name)
	}
	list, err = c.ListRepositoriesWithResponse(t.Context())
	require.NoError(t, err)
	assert.Empty(t, list.JSON200.Repositories)
}

// TestANameGivenToAnotherRepository does not give it the other's claims.
func TestANameGivenToAnotherRepository(t *testing.T) {
	r := start(t)
	ctx := context.Background()
	require.NoError(t, r.service.Store.AddRepository(ctx, store.Repository{Name: "fern", Path: "/old/fern", Kind: "git"}))
	reading := store.Reading{Repository: "fern", Path: "/old/fern", Ref: "HEAD", Commit: "c0ffee"}.Saying([]byte(`{"claims": [{"tool": "node", "raw": "16"}]}`), time.Now())
	require.NoError(t, r.service.Store.RemoveRepository(ctx, "fern")) // while it is surveyed
	require.NoError(t, r.service.Store.AddRepository(ctx, store.Repository{Name: "fern", Path: "/new/fern", Kind: "git"}))
	require.NoError(t, r.service.Store.SaveReadings(ctx, []store.Reading{reading}))
	list, err := r.service.Store.Readings(ctx)
	require.NoError(t, err)
	assert.Empty(t, list)
}

// TestRootsThatWereTakenAway: a service that is started without roots reads nothing of what
// an earlier one was allowed to.
func TestRootsThatWereTakenAway(t *testing.T) {
	r := start(t)
	r.surveyed(t)
	require.NoError(t, r.stop())
	for _, roots := range [][]string{nil, {t.TempDir()}} {
		service, err := openOn(t, r.data, roots)
		require.NoError(t, err)
		_, err = service.Jobs.Start(t.Context(), time.Now())
		require.NoError(t, err)
		service.Jobs.Wait()
		list, err := service.Store.Readings(t.Context())
		require.NoError(t, err)
		for _, one := range list {
			assert.Empty(t, one.Digest, one.Repository)
			assert.Contains(t, one.Failure, "does not lie below")
		}
		require.NoError(t, service.Close())
	}
}

func TestAnEmptyRootIsRefused(t *testing.T) {
	for _, roots := range [][]string{{""}, {"/tmp", " "}} {
		_, err := openOn(t, filepath.Join(t.TempDir(), "x.db"), roots)
		assert.ErrorContains(t, err, "a root is empty")
	}
	_, err := openOn(t, filepath.Join(t.TempDir(), "no", "folder", "x.db"), nil)
	assert.True(t, err != nil && !errors.Is(err, io.EOF))
}
