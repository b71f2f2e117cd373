package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"wexo/internal/core/inventory"
)

// sending lets many machines send at once, each with a token of its own, beside others that
// send garbage, half a body, other times and other machines' names, and far too much:
// nothing that was sent is lost, and nothing else is stored.
func sending(ctx context.Context, a *arena) error {
	s, err := a.serve(ctx)
	if err != nil {
		return err
	}
	defer s.stop()
	s.http.Transport = &http.Transport{MaxIdleConnsPerHost: 1000}
	agents, err := s.agents(a.rounds(200, 20))
	if err != nil {
		return err
	}
	for _, machine := range agents { // each is known before others speak in its name
		machine.inventory.TakenAt = time.Now().UTC()
		if status, text := a.send(s, machine, machine.inventory); status != 200 {
			return fmt.Errorf("%s was answered %d: %.200s", machine.name, status, text)
		}
	}
	for _, pace := range []struct {
		name  string
		pause time.Duration
		most  time.Duration // that 99 of 100 may take, where machines keep away from each other
	}{{"each once a second", time.Second, 300 * time.Millisecond}, {"each as fast as it is answered", 0, 0}} {
		limited, cancel := context.WithTimeout(ctx, time.Duration(a.rounds(60, 1))*time.Second)
		others := a.others(limited, s, agents)
		took := a.sendAll(limited, s, agents, pace.pause)
		cancel()
		tried := others()
		slices.Sort(took)
		if len(took) == 0 {
			return errors.New("nothing was sent")
		}
		p99 := took[len(took)*99/100]
		if !a.short {
			a.note("%d machines, %s: %d inventories taken beside %d calls that lie; half within %s, 99 of 100 within %s, the slowest %s; the service holds %d MB",
				len(agents), pace.name, len(took), tried, took[len(took)/2].Round(time.Millisecond), p99.Round(time.Millisecond), took[len(took)-1].Round(time.Millisecond), s.memory()>>20)
			a.check(pace.most == 0 || p99 < pace.most, "99 of 100 took up to %s", p99)
		}
		a.check(s.memory() < 500<<20, "the service took %d MB", s.memory()>>20)
	}
	return a.held(s, agents)
}

// agent is a machine that sends.
type agent struct {
	name, token string
	inventory   inventory.Inventory // as it was last taken
}

// agents are machines, each with a token that speaks for it alone.
func (s *service) agents(n int) ([]*agent, error) {
	var out []*agent
	for i := range n {
		name := fmt.Sprintf("agent-%03d", i)
		status, text, err := s.call("POST", "/api/tokens", s.owner, fmt.Sprintf(`{"name": %q, "role": "collector", "machine": %q}`, name, name))
		if err != nil || status != 201 {
			return nil, errors.Join(fmt.Errorf("making a token answers %d: %s", status, text), err)
		}
		var made struct{ Token string }
		if err := json.Unmarshal([]byte(text), &made); err != nil {
			return nil, err
		}
		out = append(out, &agent{name: name, token: made.Token, inventory: inventoryOf(name)})
	}
	return out, nil
}

// inventoryOf is as large as that of a machine on which people work: some forty
// installations with what is installed into them.
func inventoryOf(name string) inventory.Inventory {
	inv := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: name, OS: "linux", Arch: "amd64", Kind: "build-agent", Home: "/home/fern"}}
	for i := range 40 {
		home := fmt.Sprintf("/opt/toolchains/python/3.%d.%d", 8+i%6, i)
		packages := map[string]string{}
		for n := range 20 {
			packages[fmt.Sprintf("seedling-%02d", n)] = fmt.Sprintf("1.%d.%d", n, i)
		}
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: "python", Version: fmt.Sprintf("3.%d.%d", 8+i%6, i), Package: "kit", Path: home + "/bin/python3", Home: home,
			Origin: "versioned-root", Health: "good", Arch: "amd64", SizeBytes: 90 << 20, Components: map[string]string{"pip": "24.0"}, Packages: packages})
	}
	return inv
}

// sendAll lets every machine send until the time is over, and tells how long each call took
// that was answered.
func (a *arena) sendAll(ctx context.Context, s *service, agents []*agent, pause time.Duration) []time.Duration {
	var mu sync.Mutex
	var took []time.Duration
	var wait sync.WaitGroup
	for i, machine := range agents {
		wait.Go(func() {
			random := rand.New(rand.NewPCG(a.seed, uint64(i)))
			if !paused(ctx, time.Duration(random.Int64N(int64(pause)+1))) {
				return
			}
			for round := 0; ctx.Err() == nil; round++ {
				next := machine.inventory
				next.TakenAt = time.Now().UTC()
				if round%5 == 0 { // some of what is sent is as it was before
					next.Installations = slices.Clone(next.Installations)
					next.Installations[random.IntN(len(next.Installations))].Version = fmt.Sprintf("3.9.%d", random.IntN(1000))
				}
				began := time.Now()
				status, text := a.send(s, machine, next)
				spent := time.Since(began)
				a.check(status == 200, "%s was answered %d: %.200s", machine.name, status, text)
				mu.Lock()
				took = append(took, spent)
				mu.Unlock()
				if status == 200 {
					machine.inventory = next
				}
				if !paused(ctx, pause/2+time.Duration(random.Int64N(int64(pause)+1))) {
					return
				}
			}
		})
	}
	wait.Wait()
	return took
}

// send sends an inventory with the machine's own token.
func (a *arena) send(s *service, machine *agent, inv inventory.Inventory) (status int, text string) {
	body, err := json.Marshal(inv)
	if err == nil {
		status, text, err = s.call("POST", "/api/machines", machine.token, string(body))
	}
	if err != nil {
		return 0, err.Error()
	}
	return status, text
}

// paused waits; it is false where the time is over before.
func paused(ctx context.Context, pause time.Duration) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(pause):
		return true
	}
}

// others begins to send what is to be refused, until the time is over. What it gives waits
// for the end and tells how often it was tried.
func (a *arena) others(ctx context.Context, s *service, agents []*agent) (ended func() int64) {
	random := rand.New(rand.NewPCG(a.seed, 7))
	at := func(when time.Time) string {
		inv := inventoryOf("agent-001")
		inv.TakenAt = when
		data, _ := json.Marshal(inv)
		return string(data)
	}
	garbage := make([]byte, 5000)
	for i := range garbage {
		garbage[i] = byte(random.Uint32())
	}
	future, past, good := at(time.Now().AddDate(1, 0, 0)), at(time.Now().AddDate(-1, 0, 0)), at(time.Now())
	wants := []struct {
		what, token, body string
		status            int
	}{
		{"garbage", s.lead, string(garbage), 400}, {"half an inventory", s.lead, good[:len(good)/2], 400}, {"next year's", s.lead, future, 422}, {"last year's", s.lead, past, 409},
		{"another machine's", agents[0].token, good, 403}, {"nobody's", "wexo_guess", good, 401},
	}
	var wait sync.WaitGroup
	var tried atomic.Int64
	for _, w := range wants {
		wait.Go(func() {
			for paused(ctx, 50*time.Millisecond) {
				status, text, err := s.call("POST", "/api/machines", w.token, w.body)
				tried.Add(1)
				a.check(err == nil && status == w.status, "%s is answered %d, not %d: %.200s %v", w.what, status, w.status, text, err)
			}
		})
	}
	wait.Go(func() {
		for paused(ctx, 200*time.Millisecond) {
			status := s.large(50 << 20)
			tried.Add(1)
			a.check(status == 413 || status == 0, "50 MB are answered %d", status) // or cut off
		}
	})
	wait.Go(func() {
		for paused(ctx, 20*time.Millisecond) {
			err := s.breakOff(good)
			tried.Add(1)
			a.check(err == nil, "a call that breaks off: %v", err)
		}
	})
	return func() int64 { wait.Wait(); return tried.Load() }
}

// large posts so many bytes; 0 where the service hangs up.
func (s *service) large(n int64) int {
	body := io.MultiReader(strings.NewReader(`{"format": "`), io.LimitReader(forever{}, n))
	q, err := http.NewRequest("POST", s.url+"/api/machines", body)
	if err != nil {
		return 0
	}
	q.Header.Set("Content-Type", "application/json")
	q.Header.Set("Authorization", "Bearer "+s.lead)
	response, err := s.http.Do(q)
	if err != nil {
		return 0
	}
	defer response.Body.Close()
	return response.StatusCode
}

// forever is the same letter.
type forever struct{}

func (forever) Read(p []byte) (int, error) {
	copy(p, bytes.Repeat([]byte("a"), len(p)))
	return len(p), nil
}

// breakOff promises a body and hangs up in the middle of it.
func (s *service) breakOff(body string) error {
	c, err := net.Dial("tcp", strings.TrimPrefix(s.url, "http://"))
	if err != nil {
		return err
	}
	defer c.Close()
	_, err = fmt.Fprintf(c, "POST /api/machines HTTP/1.1\r\nHost: %s\r\nAuthorization: Bearer %s\r\nContent-Type: application/json\r\nContent-Length: %d\r\n\r\n%s",
		strings.TrimPrefix(s.url, "http://"), s.lead, len(body), body[:len(body)*2/3])
	return err
}

// held checks that the service holds what every machine sent last, and no machine besides.
func (a *arena) held(s *service, agents []*agent) error {
	status, text, err := s.call("GET", "/api/machines", s.lead, "")
	if err != nil || status != 200 {
		return errors.Join(fmt.Errorf("the list of machines answers %d", status), err)
	}
	var list struct{ Machines []struct{ Name string } }
	if err := json.Unmarshal([]byte(text), &list); err != nil {
		return err
	}
	a.check(len(list.Machines) == len(agents), "%d machines are held of %d", len(list.Machines), len(agents))
	for _, machine := range agents {
		_, text, err := s.call("GET", "/api/machines/"+machine.name, s.lead, "")
		if err != nil {
			return err
		}
		kept, err := inventory.Parse([]byte(text))
		if err != nil {
			return fmt.Errorf("%s: %w", machine.name, err)
		}
		want, got := machine.inventory, kept
		a.check(want.TakenAt.Sub(got.TakenAt).Abs() < time.Second && slices.EqualFunc(want.Installations, got.Installations, func(x, y inventory.Installation) bool {
			return x.Version == y.Version && x.Path == y.Path && len(x.Packages) == len(y.Packages)
		}), "%s sent its last at %s, and what is held is of %s", machine.name, want.TakenAt, got.TakenAt)
	}
	return nil
}
