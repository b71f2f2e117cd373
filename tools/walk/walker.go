package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"go.yaml.in/yaml/v3"
)

// walker walks one page.
type walker struct {
	source, estate, page string
	whole                bool // the page is one of a clean clone
	home                 string
	service              *service // once a block wants one
	commands             int
	lies                 []string
}

func (w *walker) lie(line int, format string, args ...any) {
	w.lies = append(w.lies, fmt.Sprintf("%s:%d: %s", w.page, line, fmt.Sprintf(format, args...)))
}

// walk follows a page in a home of its own.
func (w *walker) walk(ctx context.Context, file string) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	w.links(string(text))
	if w.home, err = homeOf(w.estate); err != nil {
		return err
	}
	defer os.RemoveAll(w.home)
	defer func() { w.service.stop() }()
	for _, b := range blocks(string(text)) {
		if err := w.block(ctx, b); err != nil {
			return err
		}
	}
	return nil
}

func (w *walker) block(ctx context.Context, b block) error {
	kind, name, _ := strings.Cut(b.says, " ")
	switch {
	case kind == "whole" && !w.whole:
		return nil
	case kind == "file":
		at := filepath.Join(w.home, filepath.FromSlash(name))
		return errors.Join(os.MkdirAll(filepath.Dir(at), 0o755), os.WriteFile(at, []byte(strings.Join(b.lines, "\n")+"\n"), 0o644))
	case kind == "yaml":
		var any yaml.Node
		if err := yaml.Unmarshal([]byte(strings.Join(b.lines, "\n")), &any); err != nil {
			w.lie(b.line, "this is no YAML: %v", err)
		}
		return nil
	case kind == "service" && w.service == nil:
		var err error
		if w.service, err = startService(ctx, w); err != nil {
			return err
		}
	}
	for _, s := range steps(b) {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		w.commands++
		w.step(ctx, s)
	}
	return nil
}

// How long a command may take, and for how long one that goes on by itself is watched.
const (
	mostTime = 5 * time.Minute
	watched  = 1500 * time.Millisecond
)

func (w *walker) step(ctx context.Context, s step) {
	limit := mostTime
	if s.lasting {
		limit = watched
	}
	within, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	command := w.command(within, s.command)
	var out bytes.Buffer
	command.Stdout, command.Stderr = &out, &out
	err := command.Run()
	status := command.ProcessState.ExitCode()
	said := strings.TrimRight(out.String(), "\n")
	switch {
	case s.lasting && within.Err() != nil: // it went on, as is said
	case s.lasting:
		w.lie(s.line, "%s\n  is to go on until it is stopped, and ended with %d:\n%s", s.command, status, indented(said))
	case within.Err() != nil:
		w.lie(s.line, "%s\n  did not end in %s", s.command, limit)
	case s.status != "" && fmt.Sprint(status) != s.status:
		w.lie(s.line, "%s\n  ended with %d and not with %s:\n%s", s.command, status, s.status, indented(said))
	case s.status == "" && status == 3 && strings.Contains(strings.ToLower(said), "not seen, and so"): // one of the demo's files cannot be read
	case s.status == "" && status != 0 && status != 1:
		w.lie(s.line, "%s\n  ended with %d (%v):\n%s", s.command, status, err, indented(said))
	case s.expect != nil && !matches(s.expect, lines(said)):
		w.lie(s.line, "%s\n  says\n%s\n  and not\n%s", s.command, indented(said), indented(strings.Join(s.expect, "\n")))
	}
}

// lines are those of what a command said; none where it said nothing.
func lines(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "\n")
}

// command is one of the page's, run by a shell in the page's home.
func (w *walker) command(ctx context.Context, text string) *exec.Cmd {
	text = strings.ReplaceAll(text, exampleService, w.service.address())
	c := exec.CommandContext(ctx, "bash", "-o", "pipefail", "-c", text)
	c.Dir = w.home
	if w.page == "README.md" {
		c.Dir = w.source
	}
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	c.Cancel = func() error { return syscall.Kill(-c.Process.Pid, syscall.SIGINT) } // the shell, and what it started
	c.WaitDelay = 5 * time.Second
	c.Env = []string{"HOME=" + w.home, "PATH=" + filepath.Join(w.source, "bin") + ":" + os.Getenv("PATH"), "LANG=C.UTF-8", "NO_COLOR=1", "TMPDIR=" + w.home, "USER=fern",
		"WEXO_LISTEN=127.0.0.1:0", "GOPATH=" + goPath(), "GOCACHE=" + goCache(), "GIT_CONFIG_GLOBAL=/dev/null"}
	if w.service != nil {
		c.Env = append(c.Env, "WEXO_SERVER="+w.service.url, "WEXO_TOKEN="+w.service.token)
	}
	return c
}

// links follows the links of a page to files and headings of the repository.
func (w *walker) links(text string) {
	for i, line := range strings.Split(text, "\n") {
		for _, m := range linked.FindAllStringSubmatch(line, -1) {
			to, anchor, _ := strings.Cut(m[1], "#")
			if strings.Contains(to, "://") || strings.HasPrefix(to, "mailto:") {
				continue
			}
			at := filepath.Join(w.source, filepath.Dir(w.page), to)
			if to == "" {
				at = filepath.Join(w.source, w.page)
			}
			data, err := os.ReadFile(at)
			if err != nil {
				if info, err := os.Stat(at); err != nil || !info.IsDir() {
					w.lie(i+1, "the link to %s leads nowhere", m[1])
				}
				continue
			}
			if anchor != "" && strings.HasSuffix(at, ".md") && !anchors(string(data))[anchor] {
				w.lie(i+1, "the link to %s: there is no such heading", m[1])
			}
		}
	}
}

func indented(text string) string {
	return "    " + strings.ReplaceAll(text, "\n", "\n    ")
}
