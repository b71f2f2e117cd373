package server_test

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	contract "wexo/api"
	"wexo/internal/client"
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
	assert.Contains(t, detail, "Somebody else has sent agent-1, or another collector's token speaks for it")
	for _, held := range []string{r.token(t, "owner"), lead} { // what somebody has sent is not up for grabs
		status, _ = send(held, "agent-9", now)
		require.Equal(t, 200, status)
		status, detail = send(other, "agent-9", now)
		assert.Equal(t, 403, status, detail)
	}
	status, _ = send(other, "agent-2", now)
	assert.Equal(t, 200, status)
	for _, name := range []string{`..`, `.`, `bench\u200b`, `\u3164`, `ben\u00adch`} {
		status, detail = r.call(t, "POST", "/api/machines", lead, `{"format":"wexo.inventory/1","machine":{"name":"`+name+`"},"installations":[]}`)
		assert.Equal(t, 422, status, "%s: %s", name, detail)
	}
	for body, says := range map[string]string{
		`{"name":"x","role":"reader","role":"owner"}`: "The field role is given twice.", `{"name":"x","role":"reader","ROLE":"owner"}`: "There is no field ROLE here.",
		`{"name":"x","role":"reader"}]`: "is not one JSON object", `{"name":["x"],"role":"reader"}`: "The field name holds another kind of value", `{"name":"x","role":"reader","expires":1}`: "There is no field expires here.",
	} {
		status, detail = r.call(t, "POST", "/api/tokens", r.token(t, "owner"), body)
		assert.Equal(t, 400, status, body)
		assert.Contains(t, detail, says)
	}
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
