package server_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	contract "wexo/api"
	"wexo/internal/client"
	"wexo/internal/core/claim"
	"wexo/internal/server/store"
)

// call makes a request and gives the status and the problem's detail.
func (r *running) call(t *testing.T, method, path, token, body string, headers ...string) (int, string) {
	t.Helper()
	q, err := http.NewRequest(method, r.url+path, strings.NewReader(body))
	require.NoError(t, err)
	if body != "" {
		q.Header.Set("Content-Type", "application/json")
	}
	if token != "" {
		q.Header.Set("Authorization", "Bearer "+token)
	}
	for i := 0; i < len(headers); i += 2 {
		if q.Header.Set(headers[i], headers[i+1]); headers[i] == "Host" {
			q.Host = headers[i+1]
		}
	}
	response, err := http.DefaultClient.Do(q)
	require.NoError(t, err)
	defer response.Body.Close()
	data, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	var p client.Problem
	if json.Unmarshal(data, &p) == nil && p.Detail != nil {
		return response.StatusCode, *p.Detail
	}
	return response.StatusCode, string(data)
}

func (r *running) token(t *testing.T, role string) string {
	t.Helper()
	_, secret, err := r.service.Store.CreateToken(context.Background(), role, role, "", time.Now())
	require.NoError(t, err)
	return secret
}

// TestTheAccessMatrix: every call of the contract, by everybody.
func TestTheAccessMatrix(t *testing.T) {
	r := start(t)
	list, err := contract.Operations()
	require.NoError(t, err)
	for _, role := range []string{"", "reader", "collector", "lead", "owner"} {
		token := ""
		if role != "" {
			token = r.token(t, role)
		}
		for _, op := range list {
			if op.ID == "deleteSession" || op.ID == "startSurvey" && role != "reader" && role != "collector" && role != "" {
				continue // what these do, others see
			}
			path := strings.NewReplacer("{name}", "nothing", "{id}", "0").Replace(op.Path)
			status, detail := r.call(t, op.Method, path, token, map[bool]string{true: "{}", false: ""}[op.MostBytes > 0])
			switch {
			case op.Open:
				assert.NotEqual(t, 403, status, "%s by %q: %s", op.ID, role, detail)
			case role == "":
				assert.Equal(t, 401, status, "%s by nobody: %s", op.ID, detail)
			case !slices.Contains(op.Roles, role):
				assert.Equal(t, 403, status, "%s by %s: %s", op.ID, role, detail)
			default:
				assert.NotContains(t, []int{401, 403, 500}, status, "%s by %s: %s", op.ID, role, detail)
			}
			status, _ = r.call(t, op.Method, path, "wexo_guess", "")
			assert.True(t, op.Open || status == 401, "%s with a wrong token", op.ID)
		}
	}
}

// TestPermissionComesBeforeTheBody: who may not send is told so before anything is read.
func TestPermissionComesBeforeTheBody(t *testing.T) {
	r := start(t)
	for _, c := range []struct {
		token  string
		length int
		want   string
	}{
		{"", 1 << 30, "401"}, {r.token(t, "reader"), 1 << 30, "403"}, {r.token(t, "collector"), 1 << 30, "413"}, {r.token(t, "lead"), 9 << 20, "413"},
	} {
		conn, err := net.Dial("tcp", strings.TrimPrefix(r.url, "http://"))
		require.NoError(t, err)
		require.NoError(t, conn.SetDeadline(time.Now().Add(20*time.Second)))
		_, err = fmt.Fprintf(conn, "POST /api/machines HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nAuthorization: Bearer %s\r\nContent-Length: %d\r\n\r\n", c.token, c.length)
		require.NoError(t, err)
		status, err := bufio.NewReader(conn).ReadString('\n')
		require.NoError(t, err, "an answer comes though not a byte of the body did")
		assert.Contains(t, status, " "+c.want+" ")
		require.NoError(t, conn.Close())
	}
	status, detail := r.call(t, "POST", "/api/session", "", `{"token": "`+strings.Repeat("x", 20<<10)+`"}`)
	assert.Equal(t, 413, status)
	assert.Contains(t, detail, "at most 16 KB")

	// A body without a length is read no further than the limit.
	q, err := http.NewRequest("POST", r.url+"/api/machines", io.MultiReader(strings.NewReader(`{"format": "`), endless{}))
	require.NoError(t, err)
	q.Header.Set("Content-Type", "application/json")
	q.Header.Set("Authorization", "Bearer "+r.token(t, "collector"))
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	response, err := http.DefaultClient.Do(q)
	if err == nil {
		assert.Equal(t, 413, response.StatusCode)
		require.NoError(t, response.Body.Close())
	}
	runtime.ReadMemStats(&after)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(200<<20))
	for _, kind := range []string{"text/plain", "application/xml", "application/x-www-form-urlencoded", "", "multipart/form-data"} {
		status, _ := r.call(t, "POST", "/api/tokens", r.token(t, "owner"), `{"name": "x", "role": "reader"}`, "Content-Type", kind)
		assert.Equal(t, 415, status, kind)
	}
}

type endless struct{}

func (endless) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = 'a'
	}
	return len(p), nil
}

func inventoryJSON(t *testing.T, name string, taken time.Time) string {
	t.Helper()
	inv := inventoryOf(name, "22.11.0")
	inv.TakenAt = taken
	data, err := json.Marshal(inv)
	require.NoError(t, err)
	return string(data)
}

func TestInventoriesOfOddClocksAndOthersMachines(t *testing.T) {
	r := start(t)
	lead, now := r.token(t, "lead"), time.Now()
	send := func(token, name string, taken time.Time) (int, string) {
		return r.call(t, "POST", "/api/machines", token, inventoryJSON(t, name, taken))
	}
	status, detail := send(lead, "bench", time.Date(2999, 1, 1, 0, 0, 0, 0, time.UTC))
	assert.Equal(t, 422, status)
	assert.Contains(t, detail, "takenAt lies in the future: it is 2999-01-01T00:00:00Z")
	status, _ = send(lead, "bench", now.Add(2*time.Minute))
	assert.Equal(t, 200, status, "clocks differ a little")
	status, detail = send(lead, "bench", now.Add(-time.Hour))
	assert.Equal(t, 409, status)
	assert.Contains(t, detail, "A newer inventory of bench is held, taken at ")
	status, _ = r.call(t, "DELETE", "/api/machines/bench", lead, "")
	assert.Equal(t, 204, status)
	status, _ = r.call(t, "DELETE", "/api/machines/bench", lead, "")
	assert.Equal(t, 404, status)
	status, _ = send(lead, "bench", now.Add(-time.Hour))
	assert.Equal(t, 200, status, "a machine that was removed begins anew")

	one, other := r.token(t, "collector"), r.token(t, "collector")
	status, detail = send(one, "agent-1", now)
	assert.Equal(t, 200, status, detail)
	status, detail = send(one, "agent-2", now)
	assert.Equal(t, 403, status)
	assert.Equal(t, "This token speaks for agent-1, and not for agent-2.", detail)
	status, detail = send(other, "agent-1", now)
	assert.Equal(t, 403, status)
	assert.Contains(t, detail, "Another collector's token speaks for agent-1")
	status, _ = send(other, "agent-2", now)
	assert.Equal(t, 200, status)
	status, detail = r.call(t, "POST", "/api/tokens", r.token(t, "owner"), `{"name": "x", "role": "lead", "machine": "agent-3"}`)
	assert.Equal(t, 400, status)
	assert.Contains(t, detail, "field machine")
	c := r.as(t, "owner")
	made, err := c.CreateTokenWithResponse(t.Context(), client.NewToken{Name: "x", Role: "collector", Machine: new("agent-3")})
	require.NoError(t, err)
	status, _ = send(made.JSON201.Token, "agent-4", now)
	assert.Equal(t, 403, status, "a token can be bound when it is made")
}

// TestPagesOfOthers cannot speak with the service through somebody's browser.
func TestPagesOfOthers(t *testing.T) {
	r := startNamed(t, "127.0.0.1", "wexo.trust.invalid")
	port := r.url[strings.LastIndexByte(r.url, ':'):]
	for host, want := range map[string]int{"127.0.0.1" + port: 200, "wexo.trust.invalid": 200, "WEXO.trust.invalid:99": 200, "evil.invalid" + port: 421, "127.0.0.1.evil.invalid": 421, "localhost": 421} {
		status, _ := r.call(t, "GET", "/health", "", "", "Host", host)
		assert.Equal(t, want, status, host)
	}
	code, err := r.service.Store.CreateCode(t.Context(), 0, "fern", "owner", time.Now().Add(time.Hour))
	require.NoError(t, err)
	response, err := http.Post(r.url+"/api/session", "application/json", strings.NewReader(`{"code": "`+code+`"}`))
	require.NoError(t, err)
	var session client.Session
	require.NoError(t, json.NewDecoder(response.Body).Decode(&session))
	require.NoError(t, response.Body.Close())
	cookie := response.Header.Get("Set-Cookie")
	cookie, _, _ = strings.Cut(cookie, ";")
	send := func(headers ...string) int {
		status, _ := r.call(t, "POST", "/api/tokens", "", `{"name": "x", "role": "reader"}`, append([]string{"Cookie", cookie, "X-Wexo-CSRF", session.Csrf}, headers...)...)
		return status
	}
	assert.Equal(t, 201, send())
	assert.Equal(t, 201, send("Origin", r.url))
	for _, origin := range []string{"http://evil.invalid", "null", "https://" + strings.TrimPrefix(r.url, "http://"), r.url + ".evil.invalid"} {
		assert.Equal(t, 403, send("Origin", origin), origin)
	}
	assert.Equal(t, 403, send("Sec-Fetch-Site", "cross-site"))
	assert.Equal(t, 403, send("X-Wexo-CSRF", "guess"))
}

func TestGuessingIsSlow(t *testing.T) {
	r := start(t)
	good := r.token(t, "reader")
	seen := map[int]int{}
	for range 15 {
		status, _ := r.call(t, "POST", "/api/session", "", `{"token": "guess"}`)
		seen[status]++
	}
	assert.Equal(t, map[int]int{401: 10, 429: 5}, seen)
	status, detail := r.call(t, "POST", "/api/session", "", `{"token": "`+good+`"}`)
	assert.Equal(t, 429, status, detail)
	status, _ = r.call(t, "GET", "/api/lines", good, "")
	assert.Equal(t, 200, status, "who has a token is not kept out")
}

func TestNobodyLocksEverybodyOut(t *testing.T) {
	r := start(t)
	first, firstSecret, made, err := r.service.Store.NewOwner(t.Context(), "first owner", time.Now())
	require.NoError(t, err)
	require.True(t, made)
	_, again, made, err := r.service.Store.NewOwner(t.Context(), "first owner", time.Now())
	require.NoError(t, err)
	require.True(t, made, "the first was never seen")
	status, _ := r.call(t, "GET", "/api/tokens", firstSecret, "")
	assert.Equal(t, 401, status, "and is no more")
	status, _ = r.call(t, "GET", "/api/tokens", again, "")
	require.Equal(t, 200, status)
	_, _, made, err = r.service.Store.NewOwner(t.Context(), "first owner", time.Now())
	require.NoError(t, err)
	assert.False(t, made, "an owner has been here")

	code, err := r.service.Store.CreateCode(t.Context(), first+1, "fern", "owner", time.Now().Add(time.Hour))
	require.NoError(t, err)
	secret, _, err := r.service.Store.SignIn(t.Context(), "", code, time.Now())
	require.NoError(t, err)
	c := r.with(t, again)
	sessions, err := c.ListSessionsWithResponse(t.Context())
	require.NoError(t, err)
	require.Len(t, sessions.JSON200.Sessions, 1)
	assert.Equal(t, "first owner", sessions.JSON200.Sessions[0].From)

	status, detail := r.call(t, "DELETE", fmt.Sprintf("/api/tokens/%d", first+1), again, "")
	assert.Equal(t, 409, status)
	assert.Contains(t, detail, "last owner")
	_, next, err := r.service.Store.CreateToken(t.Context(), "next", "owner", "", time.Now())
	require.NoError(t, err)
	status, _ = r.call(t, "DELETE", fmt.Sprintf("/api/tokens/%d", first+1), next, "")
	assert.Equal(t, 204, status)
	_, err = r.service.Store.UseSession(t.Context(), secret, time.Now())
	assert.ErrorIs(t, err, store.ErrNotFound, "what was begun with the token's link ends with it")

	link, err := r.service.Store.CreateCode(t.Context(), 0, "moss", "reader", time.Now().Add(time.Hour))
	require.NoError(t, err)
	secret, _, err = r.service.Store.SignIn(t.Context(), "", link, time.Now())
	require.NoError(t, err)
	sessions, err = r.with(t, next).ListSessionsWithResponse(t.Context())
	require.NoError(t, err)
	require.Len(t, sessions.JSON200.Sessions, 1)
	assert.Equal(t, "a sign-in link", sessions.JSON200.Sessions[0].From)
	status, _ = r.call(t, "DELETE", fmt.Sprintf("/api/sessions/%d", sessions.JSON200.Sessions[0].Id), next, "")
	assert.Equal(t, 204, status)
	_, err = r.service.Store.UseSession(t.Context(), secret, time.Now())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

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
	_, err := store.Lock(r.data)
	var taken *store.Taken
	require.ErrorAs(t, err, &taken)
	assert.ErrorContains(t, err, "another service serves the data file")
	require.NoError(t, r.stop())
	release, err := store.Lock(r.data)
	require.NoError(t, err)
	require.NoError(t, release())
	info, err := os.Stat(r.data)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
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
		_, err = fmt.Fprintf(conn, "POST /api/machines HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nAuthorization: Bearer %s\r\nContent-Length: %d\r\n\r\n%s", lead, len(body), body[:20])
		require.NoError(t, err)
		return conn, bufio.NewReader(conn)
	}
	slow, answers := upload()
	hanging, _ := upload()
	defer hanging.Close()
	watching, err := http.Get(r.url + "/health")
	require.NoError(t, err)
	require.NoError(t, watching.Body.Close())
	done := make(chan error, 1)
	go func() { done <- r.stop() }()
	require.Eventually(t, func() bool { // it takes no new ones
		conn, err := net.DialTimeout("tcp", strings.TrimPrefix(r.url, "http://"), time.Second)
		if err == nil {
			conn.Close()
		}
		return err != nil
	}, 10*time.Second, 10*time.Millisecond)
	_, err = io.WriteString(slow, body[20:])
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
	require.Len(t, claims.JSON200.Claims, 1)
	assert.Equal(t, "orchids", claims.JSON200.Claims[0].Repository)
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
	reading, err := store.NewReading("fern", "/old/fern", "HEAD", "c0ffee", "", time.Now(), claim.Reading{Claims: []claim.Claim{{Tool: "node", Raw: "16"}}})
	require.NoError(t, err)
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
			claims, err := one.Claims()
			require.NoError(t, err)
			assert.Empty(t, claims.Claims, one.Repository)
			assert.Contains(t, claims.Problems[0].Reason, "does not lie below")
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
