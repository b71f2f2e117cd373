package main

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"time"
)

// exampleService is how pages write a service's address.
const exampleService = "http://127.0.0.1:8420"

// service is one that a page's commands speak to, with the demo's repositories and machines.
type service struct {
	url, token string
	process    *exec.Cmd
	done       chan error
}

var (
	servingAt = regexp.MustCompile(`msg=serving address=(\S+)`)
	ownersOne = regexp.MustCompile(`shown once: (\S+)`)
)

// addDemo adds the demo's repositories, and not what pages lay beside them.
const addDemo = `for at in ~/work/*/; do case $at in */shop/|*/garden/|*/beds/|*/planting-plan/) ;; *) wexo repositories add "$at" ;; esac; done`

// signIn makes a session, as a console does.
const signIn = `curl -sf -H 'Content-Type: application/json' -d "{\"token\": \"$WEXO_TOKEN\"}" "$WEXO_SERVER/api/session"`

// startService starts one on a free port and fills it.
func startService(ctx context.Context, w *walker) (*service, error) {
	s := &service{done: make(chan error, 1)}
	s.process = w.command(ctx, "exec wexo serve --config ~/estate/wexo.yaml --as-of 2026-11-16 --roots "+filepath.Join(w.home, "work")+" --data "+filepath.Join(w.home, "walked.db"))
	out, err := s.process.StdoutPipe()
	if err != nil {
		return nil, err
	}
	log, err := s.process.StderrPipe()
	if err != nil {
		return nil, err
	}
	if err := s.process.Start(); err != nil {
		return nil, err
	}
	found := make(chan [2]string, 8)
	for at, stream := range []*bufio.Scanner{bufio.NewScanner(log), bufio.NewScanner(out)} {
		go func() {
			for stream.Scan() {
				m := []*regexp.Regexp{servingAt, ownersOne}[at].FindStringSubmatch(stream.Text())
				if m != nil {
					found <- [2]string{fmt.Sprint(at), m[1]}
				}
			}
		}()
	}
	for s.url == "" || s.token == "" {
		select {
		case got := <-found:
			if got[0] == "0" {
				s.url = "http://" + got[1]
			} else {
				s.token = got[1]
			}
		case <-time.After(time.Minute):
			return nil, fmt.Errorf("%s: the service does not start", w.page)
		case <-ctx.Done():
			return nil, ctx.Err()
		}
	}
	w.service = s
	for _, text := range []string{addDemo, "wexo machines send ~/inventories/*.json", "wexo survey --fail-on never", signIn, signIn} {
		if out, err := w.command(ctx, text).CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%s: %s: %w\n%s", w.page, text, err, out)
		}
	}
	return s, nil
}

// address is where the service answers; the one that pages write where there is none.
func (s *service) address() string {
	if s == nil {
		return exampleService
	}
	return s.url
}

func (s *service) stop() {
	if s == nil {
		return
	}
	_ = s.process.Process.Signal(os.Interrupt)
	_ = s.process.Wait() // that it was stopped is no failure
}
