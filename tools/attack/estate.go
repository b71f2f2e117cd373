package main

import (
	"bytes"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strings"
	"syscall"
	"time"
)

// canary is a version that stands only outside of what may be read.
const canary = "99.98.97"

func lay(dir string, files map[string]string) error {
	for name, content := range files {
		at := filepath.Join(dir, filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(at, []byte(content), 0o644); err != nil {
			return err
		}
	}
	return nil
}

func git(dir string, args ...string) (string, error) {
	cmd := exec.Command("git", append([]string{"-C", dir, "-c", "user.name=attack", "-c", "user.email=attack@trust.invalid", "-c", "gc.auto=0"}, args...)...)
	cmd.Env = append(os.Environ(), "GIT_CONFIG_GLOBAL="+os.DevNull)
	out, err := cmd.CombinedOutput()
	if err != nil {
		return "", fmt.Errorf("git %s: %w: %s", args[0], err, out)
	}
	return strings.TrimSpace(string(out)), nil
}

// commit makes a repository of what lies in a folder.
func commit(dir string) error {
	for _, args := range [][]string{{"init", "-q", "-b", "main"}, {"add", "-Af"}, {"commit", "-qm", "bed"}} {
		if _, err := git(dir, args...); err != nil {
			return err
		}
	}
	return nil
}

// result is how a run of the binary ended.
type result struct {
	status int // -1 where a signal ended it
	out    []byte
	errs   string
	took   time.Duration
	peak   int64 // bytes of memory of the process or of one of its children
}

func (a *arena) wexoRun(ctx context.Context, args ...string) (result, error) {
	cmd := exec.CommandContext(ctx, a.wexo, args...)
	cmd.Env = append(os.Environ(), "XDG_CACHE_HOME="+filepath.Join(a.dir, "cache"), "WEXO_SERVER=", "WEXO_TOKEN=", "NO_COLOR=1")
	cmd.Dir = a.dir
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	began := time.Now()
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		return result{}, err
	}
	r := result{status: cmd.ProcessState.ExitCode(), out: out.Bytes(), errs: errs.String(), took: time.Since(began)}
	if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
		r.peak = usage.Maxrss * 1024
	}
	return r, ctx.Err()
}

// inventory is a machine's, so that none is probed.
func (a *arena) inventory() (string, error) {
	at := filepath.Join(a.dir, "bench.json")
	return at, os.WriteFile(at, []byte(`{"format": "wexo.inventory/1", "machine": {"name": "bench"}, "installations": []}`), 0o644)
}

// repository is what a report says of one.
type repository struct {
	Name    string `json:"name"`
	Unread  string `json:"unread"`
	Folders []struct {
		Path  string `json:"path"`
		Tools []struct {
			Tool   string `json:"tool"`
			Claims []struct{ File, Raw string }
		} `json:"tools"`
	} `json:"folders"`
}

// survey surveys folders and gives the report by repository.
func (a *arena) survey(ctx context.Context, args ...string) (result, map[string]repository, error) {
	inventory, err := a.inventory()
	if err != nil {
		return result{}, nil, err
	}
	r, err := a.wexoRun(ctx, append([]string{"survey", "--fresh", "--inventory", inventory, "--output", "json", "--fail-on", "never"}, args...)...)
	if err != nil {
		return r, nil, err
	}
	var report struct{ Repositories []repository }
	if err := json.Unmarshal(r.out, &report); err != nil && r.status != 3 {
		return r, nil, fmt.Errorf("the report cannot be read: %w; %.500s", err, r.errs)
	}
	out := map[string]repository{}
	for _, one := range report.Repositories {
		out[one.Name] = one
	}
	return r, out, nil
}

// good tells whether the good neighbour's claim is among those of a repository.
func (r repository) good() bool {
	for _, f := range r.Folders {
		for _, t := range f.Tools {
			for _, c := range t.Claims {
				if c.File == "zz-good/.node-version" && c.Raw == "22" {
					return true
				}
			}
		}
	}
	return false
}

// hostileEstate surveys hundreds of hostile repositories at once: the good neighbour in
// each is read, nothing dies, and it all takes little time and memory.
func hostileEstate(ctx context.Context, a *arena) error {
	estate := filepath.Join(a.dir, "estate")
	random := rand.New(rand.NewPCG(a.seed, 1))
	count := a.rounds(400, 60)
	for name, files := range hostileFiles(count, random) {
		dir := filepath.Join(estate, strings.NewReplacer("/", "_", ":", "").Replace(name))
		files["zz-good/.node-version"] = "22\n"
		if err := lay(dir, files); err != nil {
			return err
		}
		if err := commit(dir); err != nil {
			return err
		}
	}
	bombs, err := treeBombs(estate)
	if err != nil {
		return err
	}
	if err := links(filepath.Join(estate, "links")); err != nil {
		return err
	}
	for _, how := range [][]string{nil, {"--worktree"}} {
		debug.FreeOSMemory() // what the starting process holds counts as the started one's at its beginning
		began := time.Now()
		r, got, err := a.survey(ctx, append(how, estate)...)
		if err != nil {
			return err
		}
		a.check(r.status == 3 && strings.Contains(r.errs, "not seen"), "%v: what was not read is told and is no success: it ended with %d: %.300s", how, r.status, r.errs)
		a.check(r.peak < 1500<<20, "%v: it took %d MB", how, r.peak>>20)
		a.note("%d repositories%s in %.1f s, %d MB at most", len(got), strings.Join(how, ""), time.Since(began).Seconds(), r.peak>>20)
		for name, one := range got {
			if !slices.Contains(bombs, name) && (how == nil || name != largeFile) { // which holds objects alone
				a.check(one.good() && one.Unread == "", "%v: the good neighbour in %s was not read; %s", how, name, one.Unread)
			}
		}
		a.check(len(got) >= count, "%v: %d repositories of %d are in the report", how, len(got), count)
	}
	return nil
}

// links makes a repository whose links lead everywhere, and pipes.
func links(dir string) error {
	if err := lay(dir, map[string]string{"zz-good/.node-version": "22\n"}); err != nil {
		return err
	}
	for name, target := range map[string]string{".node-version": "/etc/passwd", "round": "round", "up": "../../../../../../etc", ".python-version": "/dev/zero", "package.json": "/dev/random", "self": ".", "pyproject.toml": "zz-good"} {
		if err := os.Symlink(target, filepath.Join(dir, name)); err != nil {
			return err
		}
	}
	if err := commit(dir); err != nil {
		return err
	}
	return errors.Join(syscall.Mkfifo(filepath.Join(dir, ".ruby-version"), 0o644), syscall.Mkfifo(filepath.Join(dir, "Dockerfile"), 0o644))
}

// object writes an object as it is.
func object(dir, kind string, content []byte) (string, error) {
	cmd := exec.Command("git", "-C", dir, "hash-object", "-t", kind, "-w", "--stdin", "--literally")
	cmd.Stdin = bytes.NewReader(content)
	out, err := cmd.Output()
	return strings.TrimSpace(string(out)), err
}

func tree(dir string, entries ...[3]string) (string, error) {
	var b bytes.Buffer
	for _, e := range entries {
		id, err := hex.DecodeString(e[2])
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&b, "%s %s\x00%s", e[0], e[1], id)
	}
	return object(dir, "tree", b.Bytes())
}

// largeFile is a repository of one large object, entered as a folder.
const largeFile = "a large file as a folder"

// treeBombs makes repositories whose few objects are endless trees, or not what they seem.
func treeBombs(estate string) ([]string, error) {
	var names []string
	for _, depth := range []int{17, 38} {
		for _, wide := range []int{2, 8} {
			name := fmt.Sprintf("bomb %d deep %d wide", depth, wide)
			dir := filepath.Join(estate, name)
			if err := os.MkdirAll(dir, 0o755); err != nil {
				return nil, err
			}
			if _, err := git(dir, "init", "-q", "-b", "main"); err != nil {
				return nil, err
			}
			pin, err := object(dir, "blob", []byte("22\n"))
			if err != nil {
				return nil, err
			}
			at, err := tree(dir, [3]string{"100644", ".node-version", pin}, [3]string{"100644", "package.json", pin})
			for i := 0; err == nil && i < depth; i++ {
				var entries [][3]string
				for w := range wide {
					entries = append(entries, [3]string{"40000", fmt.Sprint("d", w), at})
				}
				at, err = tree(dir, entries...)
			}
			if err != nil {
				return nil, err
			}
			if err := head(dir, at); err != nil {
				return nil, err
			}
			names = append(names, name)
		}
	}
	dir := filepath.Join(estate, largeFile)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	if _, err := git(dir, "init", "-q", "-b", "main"); err != nil {
		return nil, err
	}
	large, err := object(dir, "blob", make([]byte, 100<<20))
	if err != nil {
		return nil, err
	}
	pin, err := object(dir, "blob", []byte("22\n"))
	if err != nil {
		return nil, err
	}
	good, err := tree(dir, [3]string{"100644", ".node-version", pin})
	if err != nil {
		return nil, err
	}
	at, err := tree(dir, [3]string{"40000", "folder", large}, [3]string{"100644", "package.json", good}, [3]string{"120000", ".python-version", large}, [3]string{"40000", "zz-good", good})
	if err != nil {
		return nil, err
	}
	return names, head(dir, at)
}

func head(dir, tree string) error {
	id, err := object(dir, "commit", []byte("tree "+tree+"\nauthor a <a@trust.invalid> 1 +0000\ncommitter a <a@trust.invalid> 1 +0000\n\nx\n"))
	if err != nil {
		return err
	}
	_, err = git(dir, "update-ref", "refs/heads/main", id)
	return err
}
