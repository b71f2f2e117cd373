package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

// onService measures the service on the large estate: what it holds after ten days were
// asked for, and how long twenty readers wait while it surveys.
func onService(dir string, repositories, machines int) error {
	inventories, err := makeLarge(dir, repositories, machines)
	if err != nil {
		return err
	}
	s, err := startService(dir)
	if err != nil {
		return err
	}
	defer s.stop()
	if err := s.fill(filepath.Join(dir, "repositories"), inventories); err != nil {
		return err
	}
	first := benchDay
	start := time.Now()
	if _, err := s.get("/api/overview?asOf=" + first.Format(time.DateOnly)); err != nil {
		return err
	}
	took := time.Since(start)
	var slowest time.Duration
	for n := range 10 {
		start := time.Now()
		if _, err := s.get("/api/overview?asOf=" + first.AddDate(0, 0, 37*(n+1)).Format(time.DateOnly)); err != nil {
			return err
		}
		slowest = max(slowest, time.Since(start))
	}
	fmt.Printf("\n| the service, %d machines | at most | measured |\n| --- | ---: | ---: |\n", machines)
	fmt.Printf("| a day that nobody asked for, and the slowest of ten more | | %d and %d ms |\n", took.Milliseconds(), slowest.Milliseconds())
	fmt.Printf("| resident memory after ten days | 500 MB | %d MB |\n", s.resident()>>20)
	return s.readers(20)
}

type serviceUnderTest struct {
	cmd        *exec.Cmd
	url, token string
}

var ownerToken = regexp.MustCompile(`shown once: (\S+)`)
var signIn = regexp.MustCompile(`(http://[^/]+)/sign-in`)

func startService(dir string) (*serviceUnderTest, error) {
	wexo, err := filepath.Abs("bin/wexo")
	if err != nil {
		return nil, err
	}
	data := filepath.Join(dir, "service", "wexo.db")
	if err := errors.Join(os.RemoveAll(filepath.Dir(data)), os.MkdirAll(filepath.Dir(data), 0o755)); err != nil {
		return nil, err
	}
	s := &serviceUnderTest{cmd: exec.Command(wexo, "serve", "--listen", "127.0.0.1:0", "--data", data, "--roots", dir, "--as-of", benchDay.Format(time.DateOnly), "--log", "warn")}
	s.cmd.Stderr = os.Stderr
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(out)
	for s.url == "" && lines.Scan() {
		if m := ownerToken.FindStringSubmatch(lines.Text()); m != nil {
			s.token = m[1]
		}
		if m := signIn.FindStringSubmatch(lines.Text()); m != nil {
			s.url = m[1]
		}
	}
	go io.Copy(io.Discard, out)
	return s, nil
}

func (s *serviceUnderTest) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	_ = s.cmd.Wait()
}

func (s *serviceUnderTest) call(method, path string, body []byte) ([]byte, error) {
	q, err := http.NewRequest(method, s.url+path, bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	q.Header.Set("Authorization", "Bearer "+s.token)
	q.Header.Set("Content-Type", "application/json")
	if method == "GET" {
		q.Header.Set("Accept-Encoding", "gzip") // as browsers do, which unpack it on machines of their own
	}
	response, err := http.DefaultClient.Do(q)
	if err != nil {
		return nil, err
	}
	defer response.Body.Close()
	text, err := io.ReadAll(response.Body)
	if err == nil && response.StatusCode >= 300 {
		err = fmt.Errorf("%s %s: %d %s", method, path, response.StatusCode, text)
	}
	return text, err
}

func (s *serviceUnderTest) get(path string) ([]byte, error) { return s.call("GET", path, nil) }

func (s *serviceUnderTest) fill(root string, inventories []string) error {
	if _, err := s.call("POST", "/api/repositories", fmt.Appendf(nil, `{"path": %q}`, root)); err != nil {
		return err
	}
	for _, file := range inventories {
		data, err := os.ReadFile(file)
		if err != nil {
			return err
		}
		if _, err := s.call("POST", "/api/machines", data); err != nil {
			return err
		}
	}
	return s.survey()
}

// survey runs one to its end.
func (s *serviceUnderTest) survey() error {
	text, err := s.call("POST", "/api/surveys", nil)
	if err != nil {
		return err
	}
	var started struct{ ID int64 }
	if err := json.Unmarshal(text, &started); err != nil {
		return err
	}
	_, err = s.get(fmt.Sprintf("/api/surveys/%d/events", started.ID))
	return err
}

// resident is the service's resident memory, in bytes.
func (s *serviceUnderTest) resident() int64 {
	data, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	for line := range strings.Lines(string(data)) {
		var kb int64
		if n, _ := fmt.Sscanf(line, "VmRSS: %d kB", &kb); n == 1 {
			return kb << 10
		}
	}
	return 0
}

// readers asks for pages, many at a time, while a survey runs.
func (s *serviceUnderTest) readers(n int) error {
	pages := []string{"/api/overview", "/api/matrix", "/api/findings?limit=100&severity=error"}
	took := make([][]time.Duration, len(pages))
	var mu sync.Mutex
	var ended atomic.Bool
	problems := make(chan error, n+1)
	var wait sync.WaitGroup
	for i := range n {
		wait.Go(func() {
			for at := i; !ended.Load(); at++ {
				start := time.Now()
				if _, err := s.get(pages[at%len(pages)]); err != nil {
					problems <- err
					return
				}
				mu.Lock()
				took[at%len(pages)] = append(took[at%len(pages)], time.Since(start))
				mu.Unlock()
				time.Sleep(100 * time.Millisecond) // people read what they asked for
			}
		})
	}
	surveys := 0
	start := time.Now()
	for time.Since(start) < 10*time.Second {
		if err := s.survey(); err != nil {
			problems <- err
			break
		}
		surveys++
	}
	each := time.Since(start) / time.Duration(max(surveys, 1))
	ended.Store(true)
	wait.Wait()
	close(problems)
	for i, page := range pages {
		slices.Sort(took[i])
		if len(took[i]) > 0 {
			fmt.Printf("| `%s`, %d readers while it surveys: median and p99 of %d | 60 ms | %d and %d ms |\n", page, n, len(took[i]), took[i][len(took[i])/2].Milliseconds(), took[i][len(took[i])*99/100].Milliseconds())
		}
	}
	fmt.Printf("| surveys meanwhile, each | | %.1f s |\n| resident memory then | 500 MB | %d MB |\n", each.Seconds(), s.resident()>>20)
	return <-problems
}
