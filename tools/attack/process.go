package main

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	_ "modernc.org/sqlite" // the driver
)

// estateOf makes some ordinary repositories.
func estateOf(dir string, n int) error {
	for i := range n {
		at := filepath.Join(dir, fmt.Sprintf("bed-%03d", i))
		if err := lay(at, map[string]string{".node-version": "22\n", "package.json": "{}", "deep/er/.python-version": "3.12\n"}); err != nil {
			return err
		}
		if err := commit(at); err != nil {
			return err
		}
	}
	return nil
}

// killLoop kills a service again and again while it surveys: nothing is lost, and nothing
// that it started goes on.
func killLoop(ctx context.Context, a *arena) error {
	estate := filepath.Join(a.dir, "estate")
	if err := estateOf(estate, 40); err != nil {
		return err
	}
	s, err := a.serve(ctx, "--roots", estate)
	if err != nil {
		return err
	}
	owner, lead := s.owner, s.lead
	if status, text, err := s.call("POST", "/api/repositories", owner, `{"path": "`+estate+`"}`); err != nil || status != 201 {
		return errors.Join(fmt.Errorf("adding answers %d: %s", status, text), err)
	}
	for round := range a.rounds(25, 4) {
		if status, text, err := s.call("POST", "/api/surveys", lead, ""); err != nil || status != 202 {
			return errors.Join(fmt.Errorf("a survey answers %d: %s", status, text), err)
		}
		time.Sleep(time.Duration(round*17%60) * time.Millisecond) // somewhere in it
		if err := s.cmd.Process.Kill(); err != nil {
			return err
		}
		<-s.ended
		left := a.left()
		a.check(len(left) == 0, "round %d: processes of the killed service go on: %v", round, left)
		if s, err = a.serveOn(ctx, s.data, "--roots", estate); err != nil {
			return err
		}
		status, text, err := s.call("GET", "/api/repositories", owner, "")
		if err != nil {
			return err
		}
		a.check(status == 200 && strings.Count(text, `"name"`) == 40, "round %d: repositories were lost: %d", round, strings.Count(text, `"name"`))
		_, text, err = s.call("GET", "/api/surveys", owner, "")
		if err != nil {
			return err
		}
		a.check(!strings.Contains(text, `"running"`), "round %d: a survey of the killed service still runs", round)
	}
	a.check(s.survey(ctx) == nil, "a survey at the end")
	_, text, err := s.call("GET", "/api/claims?limit=1", owner, "")
	a.check(err == nil && strings.Contains(text, `"total":80`), "claims at the end: %.100s", text)
	a.check(s.stop() == nil, "it does not stop cleanly")
	return nil
}

// left waits until no process of a killed service runs, and lists in the words of the system
// those that still do. What a service starts inherits its folder or works below it, so what
// stands in the arena's folder is the service's and nobody else's.
func (a *arena) left() []string {
	var out []string
	for range 100 {
		if out = a.running(); len(out) == 0 {
			return nil
		}
		time.Sleep(20 * time.Millisecond)
	}
	return out
}

func (a *arena) running() []string {
	var out []string
	links, _ := filepath.Glob("/proc/[0-9]*/cwd")
	for _, link := range links {
		at, err := os.Readlink(link) // fails for what has ended and waits to be reaped
		if err != nil || at != a.dir && !strings.HasPrefix(at, a.dir+"/") {
			continue
		}
		command, _ := os.ReadFile(filepath.Join(filepath.Dir(link), "cmdline"))
		out = append(out, fmt.Sprintf("%s in %s", strings.ReplaceAll(string(command), "\x00", " "), at))
	}
	return out
}

// secondService starts another service on the same data, while the first runs and after it
// was killed.
func secondService(ctx context.Context, a *arena) error {
	s, err := a.serve(ctx)
	if err != nil {
		return err
	}
	for range a.rounds(5, 2) {
		r, err := a.wexoRun(ctx, "serve", "--listen", "127.0.0.1:0", "--data", s.data)
		if err != nil {
			return err
		}
		a.check(r.status == 3 && strings.Contains(r.errs, "another service serves the data file"), "a second service ends with %d: %s", r.status, r.errs)
	}
	if err := s.cmd.Process.Kill(); err != nil {
		return err
	}
	<-s.ended
	again, err := a.serveOn(ctx, s.data)
	a.check(err == nil, "after a kill the data cannot be served: %v", err)
	if err == nil {
		a.check(again.stop() == nil, "it does not stop cleanly")
	}
	return nil
}

// lockedData holds the data file's lock as another program would.
func lockedData(ctx context.Context, a *arena) error {
	s, err := a.serve(ctx)
	if err != nil {
		return err
	}
	defer s.stop()
	fresh, err := s.token("reader")
	if err != nil {
		return err
	}
	db, err := sql.Open("sqlite", "file:"+s.data+"?_txlock=immediate")
	if err != nil {
		return err
	}
	defer db.Close()
	tx, err := db.Begin()
	if err != nil {
		return err
	}
	status, text, err := s.call("GET", "/api/overview", fresh, "")
	a.check(err == nil && status == 200, "reading answers %d: %s", status, text)
	ready := func(want int) bool {
		for range 60 {
			if status, _, err = s.call("GET", "/ready", "", ""); err == nil && status == want {
				return true
			}
			time.Sleep(200 * time.Millisecond)
		}
		return false
	}
	a.check(ready(503), "/ready answers %d while nothing can be written", status)
	if err := tx.Rollback(); err != nil {
		return err
	}
	a.check(ready(200), "/ready answers %d when it can again", status)
	return nil
}

// fullDisk serves from a small file system until it is full: reading goes on, the rest is
// told of, and it works again when there is room.
func fullDisk(ctx context.Context, a *arena) error {
	small := filepath.Join(a.dir, "small")
	if err := os.Mkdir(small, 0o755); err != nil {
		return err
	}
	if out, err := exec.Command("mount", "-t", "tmpfs", "-o", "size=4m", "tmpfs", small).CombinedOutput(); err != nil {
		a.note("this account may not mount a small file system here (%s); nothing was tried", strings.TrimSpace(string(out)))
		return nil
	}
	defer func() { _ = exec.Command("umount", "-l", small).Run() }()
	estate := filepath.Join(a.dir, "estate")
	if err := estateOf(estate, 10); err != nil {
		return err
	}
	s, err := a.serveOn(ctx, filepath.Join(small, "wexo.db"), "--roots", estate)
	if err != nil {
		return err
	}
	defer s.stop()
	if status, text, err := s.call("POST", "/api/repositories", s.owner, `{"path": "`+estate+`"}`); err != nil || status != 201 {
		return errors.Join(fmt.Errorf("adding answers %d: %s", status, text), err)
	}
	if err := s.survey(ctx); err != nil {
		return err
	}
	fresh, err := s.token("reader")
	if err != nil {
		return err
	}
	filler := filepath.Join(small, "filler")
	if err := os.WriteFile(filler, make([]byte, 8<<20), 0o644); !errors.Is(err, syscall.ENOSPC) {
		return fmt.Errorf("the file system did not fill: %w", err)
	}
	for range 3 {
		status, text, err := s.call("GET", "/api/overview", fresh, "")
		a.check(err == nil && status == 200, "reading answers %d: %.200s", status, text)
	}
	status, _, err := s.call("POST", "/api/surveys", s.lead, "")
	a.check(err == nil && status >= 500 || status == 202, "a survey answers %d", status)
	notReady := false
	for range 40 {
		for n := range 30 { // until the log beside the data has no room either
			_, _, _ = s.call("POST", "/api/machines", s.lead, fmt.Sprintf(`{"format": "wexo.inventory/1", "machine": {"name": "bench-%d", "home": "/%s"}, "installations": []}`, n, strings.Repeat("a", 4000)))
		}
		if status, _, err = s.call("GET", "/ready", "", ""); err == nil && status == 503 {
			notReady = true
			break
		}
		time.Sleep(200 * time.Millisecond)
	}
	a.check(notReady, "/ready answers %d on a full disk", status)
	status, _, err = s.call("GET", "/api/overview", fresh, "")
	a.check(err == nil && status == 200, "reading answers %d then", status)
	if err := os.Remove(filler); err != nil {
		return err
	}
	again := false
	for range 60 {
		if status, _, err = s.call("GET", "/ready", "", ""); err == nil && status == 200 {
			again = s.survey(ctx) == nil
			break
		}
		time.Sleep(200 * time.Millisecond)
	}
	a.check(again, "with room again it does not work: /ready answers %d", status)
	return nil
}
