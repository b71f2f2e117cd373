package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	contract "wexo/api"
)

// accessMatrix makes every call of the contract as everybody, with good and bad parameters.
func accessMatrix(ctx context.Context, a *arena) error {
	s, err := a.serve(ctx)
	if err != nil {
		return err
	}
	defer s.stop()
	list, err := contract.Operations()
	if err != nil {
		return err
	}
	for _, role := range []string{"", "wrong", "reader", "collector", "lead", "owner"} {
		token := map[string]string{"": "", "wrong": "wexo_0123", "owner": s.owner, "lead": s.lead}[role]
		if role == "reader" || role == "collector" {
			if token, err = s.token(role); err != nil {
				return err
			}
		}
		for _, op := range list {
			if op.ID == "startSurvey" && (role == "lead" || role == "owner") || op.ID == "deleteSession" {
				continue
			}
			path := strings.NewReplacer("{name}", "..%2f..%2fetc", "{id}", "9999").Replace(op.Path)
			body := ""
			if op.MostBytes > 0 {
				body = "{}"
			}
			status, text, err := s.call(op.Method, path, token, body)
			if err != nil {
				return err
			}
			held := status != 500
			switch {
			case op.Open:
				held = held && status != 403
			case role == "" || role == "wrong":
				held = status == 401
			case !slices.Contains(op.Roles, role):
				held = status == 403
			default:
				held = held && status != 401 && status != 403
			}
			a.check(held, "%s by %q answers %d: %.200s", op.ID, role, status, text)
		}
	}
	return oddParameters(a, s, list)
}

// oddParameters asks with values that no parameter may have.
func oddParameters(a *arena, s *service, list []contract.Operation) error {
	odd := []string{"", "-1", "0", "1e9", "99999999999999999999", "2026-13-45", "null", "\x00", "\xff\xfe", "'; DROP TABLE tokens; --", "%", "../..", strings.Repeat("a", 5_000), "\u202e\x1b[31m", "NaN", "true"}
	for _, op := range list {
		if op.Method != "GET" {
			continue
		}
		path := strings.NewReplacer("{name}", "x", "{id}", "1").Replace(op.Path)
		if strings.HasSuffix(path, "/events") {
			continue
		}
		for _, p := range op.Query {
			for _, value := range odd {
				query := url.Values{}
				for _, other := range op.Query {
					if other.Required {
						query.Set(other.Name, "1")
					}
				}
				query.Set(p.Name, value)
				status, text, err := s.call("GET", path+"?"+query.Encode(), s.owner, "")
				if err != nil {
					return err
				}
				held := status < 500
				if status == 400 {
					held = strings.Contains(text, p.Name)
				}
				for _, word := range []string{"strconv", "parsing", "goroutine", "sql", "json:"} {
					held = held && !strings.Contains(text, word)
				}
				a.check(held, "%s with %s=%.40q answers %d: %.200s", op.ID, p.Name, value, status, text)
			}
		}
		for _, value := range odd[1:] {
			at := strings.NewReplacer("{name}", url.PathEscape(value), "{id}", url.PathEscape(value)).Replace(op.Path)
			if at == op.Path {
				break
			}
			status, text, err := s.call("GET", at, s.owner, "")
			if err != nil {
				return err
			}
			a.check(status < 500 && !strings.Contains(text, "strconv"), "%s at %.60q answers %d: %.200s", op.ID, at, status, text)
		}
	}
	return nil
}

// bodies sends large bodies of those who may not, and inventories with bytes changed.
func bodies(ctx context.Context, a *arena) error {
	s, err := a.serve(ctx)
	if err != nil {
		return err
	}
	defer s.stop()
	large := `{"format": "` + strings.Repeat("a", 15<<20) + `"}`
	before := time.Now()
	var wait sync.WaitGroup
	for range 10 {
		wait.Go(func() {
			_, _, _ = s.call("POST", "/api/machines", "", large) // it may be cut off
			_, _, _ = s.call("POST", "/api/machines", "wexo_guess", large)
		})
	}
	wait.Wait()
	a.check(time.Since(before) < 20*time.Second, "twenty large posts of nobody took %s", time.Since(before))
	a.check(s.memory() < 400<<20, "they took %d MB", s.memory()>>20)

	var inv map[string]any
	good := []byte(`{"format": "wexo.inventory/1", "machine": {"name": "bench", "os": "linux", "arch": "amd64", "kind": "laptop", "home": "/home/g"}, "takenAt": "2026-01-01T00:00:00Z",
		"installations": [{"tool": "node", "version": "22.11.0", "vendor": "", "path": "/opt/node/22/bin/node", "home": "/opt/node/22", "origin": "versioned-root", "health": "good", "sizeBytes": 1, "components": {"npm": "10.9.0"}, "packages": {"tulip": "2.3"}}],
		"firstOnPath": [{"tool": "node", "path": "/usr/bin/node", "version": "20.1.0", "shim": false}], "defaults": [{"tool": "node", "raw": "22", "source": "x"}], "overrides": [{"tool": "node", "variable": "X", "raw": "1"}]}`)
	if err := json.Unmarshal(good, &inv); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(a.seed, 2))
	for i := range a.rounds(1500, 150) {
		body := mutatedInventory(good, inv, random, i)
		status, text, err := s.call("POST", "/api/machines", s.lead, string(body))
		if err != nil {
			return fmt.Errorf("round %d: %w", i, err)
		}
		a.check(slices.Contains([]int{200, 400, 409, 413, 422}, status), "an inventory answers %d: %.200s: %.200q", status, text, body)
		for _, word := range []string{"json:", "Go ", "struct", "strconv", "unmarshal"} {
			a.check(!strings.Contains(text, word), "an inventory answers in words of the language: %.200s", text)
		}
	}
	status, text, err := s.call("GET", "/api/machines", s.lead, "")
	if err != nil {
		return err
	}
	a.check(status == 200 && !strings.ContainsAny(text, "\x00\x1b\r") && !strings.Contains(text, `\u0000`) && !strings.Contains(text, `\u001b`), "machines' names hold control characters: %.200q", text)
	status, _, err = s.call("GET", "/api/overview", s.lead, "")
	a.check(err == nil && status == 200, "the overview answers %d", status)
	a.check(s.memory() < 500<<20, "the service took %d MB", s.memory()>>20)
	return nil
}

// mutatedInventory changes bytes, or one value, or repeats a part.
func mutatedInventory(good []byte, inv map[string]any, random *rand.Rand, round int) []byte {
	values := []any{nil, 3, -1, 1e300, "", "\x00", "\x1b[31m", "a\nb", "\u202e", strings.Repeat("x", 300), strings.Repeat("x", 5000), []any{}, map[string]any{}, true, "2999-01-01T00:00:00Z", "0000-00-00", "../../etc"}
	switch round % 3 {
	case 0:
		out := bytes.Clone(good)
		for range 1 + random.IntN(5) {
			out[random.IntN(len(out))] = byte(random.Uint32())
		}
		return out
	case 1:
		cut := random.IntN(len(good))
		return slices.Concat(good[:cut], bytes.Repeat(good[cut/2:cut], random.IntN(20)), good[cut:])
	}
	var copied map[string]any
	data, _ := json.Marshal(inv)
	_ = json.Unmarshal(data, &copied)
	change(copied, values[random.IntN(len(values))], random)
	data, _ = json.Marshal(copied)
	return data
}

// change replaces one value somewhere in a document.
func change(in any, with any, random *rand.Rand) {
	switch in := in.(type) {
	case map[string]any:
		var keys []string
		for key := range in {
			keys = append(keys, key)
		}
		if len(keys) == 0 {
			return
		}
		slices.Sort(keys)
		key := keys[random.IntN(len(keys))]
		if _, leaf := in[key].(string); leaf || random.IntN(3) == 0 {
			in[key] = with
			return
		}
		change(in[key], with, random)
	case []any:
		if len(in) > 0 {
			change(in[random.IntN(len(in))], with, random)
		}
	}
}

// otherPages speaks as pages of other hosts would.
func otherPages(ctx context.Context, a *arena) error {
	s, err := a.serve(ctx)
	if err != nil {
		return err
	}
	defer s.stop()
	for _, host := range []string{"evil.invalid", "127.0.0.1.evil.invalid", "localhost.evil.invalid:80", "0.0.0.0", "[::2]", "wexo"} {
		status, _, err := s.call("GET", "/api/lines", s.owner, "", "Host", host)
		if err != nil {
			return err
		}
		a.check(status == 421, "the host %s is answered %d", host, status)
	}
	for range 12 {
		if _, _, err := s.call("POST", "/api/session", "", `{"token": "guess"}`); err != nil {
			return err
		}
	}
	status, _, err := s.call("POST", "/api/session", "", `{"token": "guess"}`)
	a.check(err == nil && status == 429, "the thirteenth guess answers %d", status)
	return nil
}
