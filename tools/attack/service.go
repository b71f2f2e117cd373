package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"
)

// service is a running one.
type service struct {
	cmd   *exec.Cmd
	url   string
	data  string
	owner string // a token
	lead  string
	said  *lines
	ended chan error
	http  http.Client
}

// lines keeps what a process says.
type lines struct {
	mu   sync.Mutex
	text strings.Builder
}

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(p)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}

// serve starts a service with data of its own and makes an owner's token.
func (a *arena) serve(ctx context.Context, args ...string) (*service, error) {
	return a.serveOn(ctx, filepath.Join(a.dir, "wexo.db"), args...)
}

func (a *arena) serveOn(ctx context.Context, data string, args ...string) (*service, error) {
	s := &service{data: data, said: &lines{}, ended: make(chan error, 1), http: http.Client{Timeout: time.Minute}}
	s.cmd = exec.Command(a.wexo, append([]string{"serve", "--listen", "127.0.0.1:0", "--data", data}, args...)...)
	s.cmd.Dir = a.dir
	s.cmd.Stderr = s.said
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	go func() { s.ended <- s.cmd.Wait() }()
	if err := s.begun(ctx); err != nil {
		return nil, errors.Join(err, s.cmd.Process.Kill())
	}
	recovered, err := exec.CommandContext(ctx, a.wexo, "tokens", "recover", "--data", data).Output()
	if err != nil {
		s.stop()
		return nil, fmt.Errorf("tokens recover: %w", err)
	}
	_, token, _ := strings.Cut(strings.TrimSpace(string(recovered)), ": ")
	s.owner = token
	if s.lead, err = s.token("lead"); err != nil {
		s.stop()
	}
	return s, err
}

// begun waits until the service says where it listens.
func (s *service) begun(ctx context.Context) error {
	for {
		if _, rest, ok := strings.Cut(s.said.String(), "msg=serving address="); ok {
			address, _, _ := strings.Cut(rest, " ")
			s.url = "http://" + address
			return nil
		}
		select {
		case err := <-s.ended:
			s.ended <- err
			return fmt.Errorf("the service did not start: %w: %.300s", err, s.said.String())
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(10 * time.Millisecond):
		}
	}
}

// stop ends the service as an administrator does, and gives how it ended.
func (s *service) stop() error {
	if err := s.cmd.Process.Signal(syscall.SIGTERM); err != nil {
		return nil //nolint // it has ended already
	}
	select {
	case err := <-s.ended:
		return err
	case <-time.After(30 * time.Second):
		return errors.Join(errors.New("it does not stop"), s.cmd.Process.Kill())
	}
}

// call makes a request.
func (s *service) call(method, path, token, body string, headers ...string) (int, string, error) {
	q, err := http.NewRequest(method, s.url+path, strings.NewReader(body))
	if err != nil {
		return 0, "", err
	}
	q.Header.Set("Content-Type", "application/json")
	if token != "" {
		q.Header.Set("Authorization", "Bearer "+token)
	}
	for i := 0; i < len(headers); i += 2 {
		if q.Header.Set(headers[i], headers[i+1]); headers[i] == "Host" {
			q.Host = headers[i+1]
		}
	}
	response, err := s.http.Do(q)
	if err != nil {
		return 0, "", err
	}
	defer response.Body.Close()
	data, err := io.ReadAll(io.LimitReader(response.Body, 64<<20))
	return response.StatusCode, string(data), err
}

func (s *service) token(role string) (string, error) {
	status, text, err := s.call("POST", "/api/tokens", s.owner, `{"name": "`+role+`", "role": "`+role+`"}`)
	if err != nil || status != 201 {
		return "", errors.Join(fmt.Errorf("making a token answers %d: %s", status, text), err)
	}
	var made struct{ Token string }
	err = json.Unmarshal([]byte(text), &made)
	return made.Token, err
}

// survey surveys and waits for the end.
func (s *service) survey(ctx context.Context) error {
	status, text, err := s.call("POST", "/api/surveys", s.lead, "")
	if err != nil || status != 202 {
		return errors.Join(fmt.Errorf("starting a survey answers %d: %s", status, text), err)
	}
	var survey struct {
		ID             int64
		State, Message string
	}
	if err := json.Unmarshal([]byte(text), &survey); err != nil {
		return err
	}
	for survey.State == "running" {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
		if _, text, err = s.call("GET", fmt.Sprintf("/api/surveys/%d", survey.ID), s.lead, ""); err != nil {
			return err
		}
		if err := json.Unmarshal([]byte(text), &survey); err != nil {
			return err
		}
	}
	if survey.State != "finished" {
		return fmt.Errorf("the survey %s: %s", survey.State, survey.Message)
	}
	return nil
}

// memory is the service's memory in use, in bytes, where the system tells.
func (s *service) memory() int64 {
	data, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	if err != nil {
		return 0
	}
	_, rest, _ := strings.Cut(string(data), "VmHWM:")
	var kilobytes int64
	if _, err := fmt.Sscan(rest, &kilobytes); err != nil {
		return 0
	}
	return kilobytes << 10
}
