package main

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"regexp"
	"syscall"
	"time"
)

// signInLink finds the link that the demo prints.
var signInLink = regexp.MustCompile(`(http://\S+)/sign-in\?code=\S+`)

// demo starts what the README begins with, in a folder of its own and on a free port, and opens
// the page that its link leads to.
func demo(ctx context.Context, clone string) error {
	dir, err := os.MkdirTemp("", "wexo-demo-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	within, cancel := context.WithTimeout(ctx, mostTime)
	defer cancel()
	c := exec.CommandContext(within, "make", "-C", clone, "demo", "DEMO=--dir "+dir+"/demo --listen 127.0.0.1:8719")
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	c.Cancel = func() error { return syscall.Kill(-c.Process.Pid, syscall.SIGINT) } // make, and what it started
	c.WaitDelay = 10 * time.Second
	out, err := c.StdoutPipe()
	if err != nil {
		return err
	}
	if err := c.Start(); err != nil {
		return err
	}
	link := ""
	for lines := bufio.NewScanner(out); link == "" && lines.Scan(); {
		if m := signInLink.FindStringSubmatch(lines.Text()); m != nil {
			link = m[1]
		}
	}
	if link == "" {
		return fmt.Errorf("make demo prints no sign-in link: %w", c.Wait())
	}
	response, err := http.Get(link + "/")
	if err == nil {
		err = response.Body.Close()
	}
	cancel()
	_ = c.Wait() // that it was stopped is no failure
	if err != nil || response.StatusCode != http.StatusOK {
		return fmt.Errorf("make demo: the console does not answer at %s: %v", link, err)
	}
	return nil
}
