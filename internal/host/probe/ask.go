package probe

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path"
	"regexp"
	"strings"
	"time"

	"wexo/internal/host/origin"
)

const (
	// askLimit is how long an executable may take to tell its version.
	askLimit = 2 * time.Second
	// maxSaid is how much of what it says is taken, in bytes.
	maxSaid = 64 << 10
)

// errTooMuch is of an executable that starts, and does something else.
var errTooMuch = errors.New("it says more than a version")

// ask runs an executable for what it says of itself. It runs nothing that lies in a
// working tree or a surveyed folder, nothing that others may write, and nothing that a
// link led to out of the folder that was searched; it runs with a clean environment, in an
// empty place, without the network where the system allows that, and not for long. What it
// said once is remembered.
func (p *probe) ask(ctx context.Context, c *candidate, args []string) (string, error) {
	if !p.machine.Run {
		return "", errors.New("nothing is run")
	}
	if why := p.mayNotRun(c); why != "" {
		return "", errors.New("it is not run, since " + why)
	}
	at := p.disk.on(c.path)
	if said, ok := p.machine.Said.of(at, args); ok {
		return said, nil
	}
	said, err := run(ctx, at, args)
	if err != nil {
		if !errors.Is(err, errTooMuch) {
			c.refused = err.Error()
		}
		return "", err
	}
	p.machine.Said.keep(at, args, said)
	return said, nil
}

// mayNotRun tells why an executable is not run; "" where it may be.
func (p *probe) mayNotRun(c *candidate) string {
	switch {
	case !c.inside:
		return "a link leads to it out of the folder in which it was found"
	case p.inWorkingTree(c.path):
		return "it lies in a working tree"
	case p.avoided(c.path):
		return "it lies in a folder that is surveyed"
	}
	return origin.OthersMayWrite(p.disk.on(c.path))
}

// avoided reports whether a path lies in a folder that is surveyed.
func (p *probe) avoided(at string) bool {
	for _, dir := range p.machine.Avoid {
		if within(dir, at) {
			return true
		}
	}
	return false
}

// inWorkingTree reports whether a path lies in a git repository: nothing there is ever run.
func (p *probe) inWorkingTree(at string) bool {
	dir := path.Dir(at)
	if p.disk.exists(path.Join(dir, ".git")) || isBare(p.disk, dir) {
		return true
	}
	return dir != "/" && p.inWorkingTree(dir)
}

// isBare reports whether a folder is a repository without a working tree.
func isBare(d disk, dir string) bool {
	return d.exists(path.Join(dir, "HEAD")) && d.exists(path.Join(dir, "objects")) && d.exists(path.Join(dir, "refs"))
}

// run runs an executable in an empty place and gives what it says.
func run(ctx context.Context, at string, args []string) (string, error) {
	ctx, cancel := context.WithTimeout(ctx, askLimit)
	defer cancel()
	place, err := os.MkdirTemp("", "wexo-asks-")
	if err != nil {
		return "", fmt.Errorf("there is no place to run it in: %w", err)
	}
	defer os.RemoveAll(place)
	out := &capped{most: maxSaid}
	command := func() *exec.Cmd {
		cmd := exec.CommandContext(ctx, at, args...)
		cmd.Dir = place
		cmd.Env = []string{"PATH=/usr/bin:/bin", "LC_ALL=C", "HOME=" + place, "TMPDIR=" + place, "NO_COLOR=1"}
		cmd.Stdout, cmd.Stderr = out, out
		cmd.WaitDelay = 200 * time.Millisecond
		return cmd
	}
	cmd := command()
	cutOff(cmd)
	err = cmd.Start()
	if forbidden(err) { // the system allows no network of its own to a program
		cmd = command()
		grouped(cmd)
		err = cmd.Start()
	}
	if err == nil {
		err = cmd.Wait()
	}
	said := strings.TrimSpace(string(styling.ReplaceAll(out.kept.Bytes(), nil)))
	switch {
	case out.over:
		return "", errTooMuch
	case ctx.Err() != nil:
		return "", fmt.Errorf("it did not answer in %s", askLimit)
	case err != nil:
		return "", fmt.Errorf("%w%s", err, firstLine(said))
	}
	return said, nil
}

// firstLine is the first line of what was said, shortened, behind a colon.
func firstLine(said string) string {
	line, _, _ := strings.Cut(said, "\n")
	if line = strings.ToValidUTF8(strings.TrimSpace(line), "?"); line == "" {
		return ""
	}
	if len(line) > 160 {
		line = strings.ToValidUTF8(line[:160], "") + "…"
	}
	return ": " + strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f {
			return ' '
		}
		return r
	}, line)
}

// styling are the escapes with which programs colour what they print.
var styling = regexp.MustCompile("\x1b\\[[0-9;]*m")

// capped takes the first bytes, and no more. The buffer is no part of its interface: by that
// a copy would go past the limit.
type capped struct {
	kept bytes.Buffer
	most int
	over bool
}

func (c *capped) Write(data []byte) (int, error) {
	if room := c.most - c.kept.Len(); len(data) > room {
		c.over = true
		n, _ := c.kept.Write(data[:max(room, 0)])
		return n, errTooMuch // which ends it
	}
	return c.kept.Write(data)
}
