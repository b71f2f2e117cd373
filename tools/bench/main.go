// Command bench measures Wexo beside its peers, in one run: a survey of a made estate,
// the first one and one where nothing has changed, beside what git, `rg` and `find` take to
// list the same repositories; and the version algebra beside two Go libraries (as Go
// benchmarks). It prints the tables of docs/performance.md.
package main

import (
	"bytes"
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
)

func main() {
	repositories := flag.Int("repositories", 1000, "how many repositories")
	files := flag.Int("files", 200, "how many files each")
	dir := flag.String("dir", filepath.Join(os.TempDir(), "wexo-bench"), "where the estate is made, and kept for the next run")
	rounds := flag.Int("rounds", 5, "rounds; the median counts")
	only := flag.String("only", "", "measure only this: reading, judging, service or console")
	flag.Parse()
	debug.SetGCPercent(200) // as wexo's own processes do
	// Reading first, while this process is small: what it holds counts in the peak of the
	// processes it starts.
	if *only == "" || *only == "reading" {
		if err := run(*repositories, *files, *dir, *rounds); err != nil {
			log.Fatal(err)
		}
	}
	if err := large(*dir, *only); err != nil {
		log.Fatal(err)
	}
}

// large measures what needs the large estate: judging it, and the service on it.
func large(dir, only string) error {
	if only == "" || only == "judging" {
		if err := judging(filepath.Join(dir, "large"), 5000, 50); err != nil {
			return err
		}
	}
	if only == "" || only == "service" {
		if err := onService(filepath.Join(dir, "large"), 5000, 50); err != nil {
			return err
		}
	}
	if only == "" || only == "console" {
		return onConsole(filepath.Join(dir, "broad"), 5000, 50)
	}
	return nil
}

func run(repositories, files int, dir string, rounds int) error {
	estate := filepath.Join(dir, fmt.Sprintf("%dx%d-locked", repositories, files))
	if err := makeEstate(estate, repositories, files); err != nil {
		return err
	}
	names, err := filepath.Glob(filepath.Join(estate, "*"))
	if err != nil {
		return err
	}
	wexo, err := filepath.Abs("bin/wexo")
	if err != nil {
		return err
	}
	inventory := filepath.Join(dir, "inventory.json")
	data, err := exec.Command(wexo, "inventory", "--output", "json").Output()
	if err != nil {
		return fmt.Errorf("wexo inventory: %w", err)
	}
	if err := os.WriteFile(inventory, data, 0o644); err != nil {
		return err
	}
	// A survey remembers readings in the account's cache; each kind gets one of its own.
	survey := func(remembers bool, more ...string) func() ([]*exec.Cmd, bool) {
		cache := filepath.Join(dir, "cache"+strings.Join(more, ""))
		return func() ([]*exec.Cmd, bool) {
			if !remembers {
				os.RemoveAll(cache)
			}
			args := append([]string{"survey", "--inventory", inventory, "--output", "json", "--fail-on", "never"}, more...)
			cmd := exec.Command(wexo, append(args, estate)...)
			cmd.Env = append(os.Environ(), "XDG_CACHE_HOME="+cache)
			return []*exec.Cmd{cmd}, false
		}
	}
	subjects := []subject{
		{"`git ls-files`, one repository after the other", each(names, func(name string) *exec.Cmd { return exec.Command("git", "-C", name, "ls-files") })},
		{"`git ls-files`, two at a time", together(each(names, func(name string) *exec.Cmd { return exec.Command("git", "-C", name, "ls-files") }))},
		{"`git ls-tree -r HEAD`, one repository after the other", each(names, func(name string) *exec.Cmd { return exec.Command("git", "-C", name, "ls-tree", "-r", "HEAD") })},
		{"`git ls-tree -r HEAD`, two at a time", together(each(names, func(name string) *exec.Cmd { return exec.Command("git", "-C", name, "ls-tree", "-r", "HEAD") }))},
		{"`find` over the estate", func() ([]*exec.Cmd, bool) { return []*exec.Cmd{exec.Command("find", estate)}, false }},
		{"`rg --files --hidden --no-ignore`", func() ([]*exec.Cmd, bool) {
			return []*exec.Cmd{exec.Command("rg", "--files", "--hidden", "--no-ignore", estate)}, false
		}},
		{"`wexo survey`, committed trees", survey(false)},
		{"`wexo survey`, committed trees, unchanged", survey(true)},
		{"`wexo survey --worktree`", survey(false, "--worktree")},
		{"`wexo survey --worktree`, unchanged", survey(true, "--worktree")},
	}
	dropped := dropCaches()
	cold := make([]result, len(subjects))
	for i, s := range subjects {
		dropCaches()
		if cold[i], err = s.measure(); err != nil {
			return err
		}
	}
	warm := make([][]result, len(subjects))
	for range rounds {
		for i, s := range subjects {
			r, err := s.measure()
			if err != nil {
				return err
			}
			warm[i] = append(warm[i], r)
		}
	}
	report(subjects, cold, warm, dropped, len(names), files)
	aims(subjects, cold, warm)
	return algebra()
}

// subject is something that is timed: commands run one after the other, or two at a time.
type subject struct {
	name     string
	commands func() (list []*exec.Cmd, together bool)
}

type result struct {
	took time.Duration
	peak int64 // largest resident memory of one process, in bytes
}

func each(names []string, command func(string) *exec.Cmd) func() ([]*exec.Cmd, bool) {
	return func() ([]*exec.Cmd, bool) {
		var out []*exec.Cmd
		for _, name := range names {
			out = append(out, command(name))
		}
		return out, false
	}
}

func together(one func() ([]*exec.Cmd, bool)) func() ([]*exec.Cmd, bool) {
	return func() ([]*exec.Cmd, bool) { list, _ := one(); return list, true }
}

func (s subject) measure() (result, error) {
	list, two := s.commands()
	workers := 1
	if two {
		workers = 2
	}
	next := make(chan *exec.Cmd)
	var wait sync.WaitGroup
	var mu sync.Mutex
	var r result
	var failed error
	start := time.Now()
	for range workers {
		wait.Go(func() {
			for cmd := range next {
				err := cmd.Run()
				mu.Lock()
				if err != nil {
					failed = fmt.Errorf("%s: %w", s.name, err)
				} else if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
					r.peak = max(r.peak, usage.Maxrss*1024)
				}
				mu.Unlock()
			}
		})
	}
	for _, cmd := range list {
		next <- cmd
	}
	close(next)
	wait.Wait()
	r.took = time.Since(start)
	return r, failed
}

// dropCaches empties the file cache, where this account may; it tells whether it did.
func dropCaches() bool {
	syscall.Sync()
	return os.WriteFile("/proc/sys/vm/drop_caches", []byte("3"), 0o200) == nil
}

func median(list []result) result {
	sorted := slices.Clone(list)
	slices.SortFunc(sorted, func(a, b result) int { return int(a.took - b.took) })
	return sorted[len(sorted)/2]
}

func report(subjects []subject, cold []result, warm [][]result, dropped bool, repositories, files int) {
	fmt.Printf("%d repositories of %d files, %d cores, %s, %s.\n", repositories, files, runtime.NumCPU(), runtime.Version(), time.Now().Format(time.DateOnly))
	if !dropped {
		fmt.Println("The file cache could not be emptied here, so \"cold\" is only the first run.")
	}
	fmt.Println("\n| what | cold | × `git ls-files` | warm (median) | × `git ls-files` | peak memory |\n| --- | ---: | ---: | ---: | ---: | ---: |")
	for i, s := range subjects {
		w := median(warm[i])
		fmt.Printf("| %s | %.2f s | %.2f | %.2f s | %.2f | %d MB |\n", s.name, cold[i].took.Seconds(), ratio(cold[i], cold[0]),
			w.took.Seconds(), ratio(w, median(warm[0])), max(cold[i].peak, w.peak)>>20)
	}
}

// aims prints how far each aim is met: a cold survey beside its peer, an unchanged one
// beside the cold one.
func aims(subjects []subject, cold []result, warm [][]result) {
	at := func(name string) int {
		return slices.IndexFunc(subjects, func(s subject) bool { return s.name == name })
	}
	committed, worktree := at("`wexo survey`, committed trees"), at("`wexo survey --worktree`")
	fmt.Printf("\n| aim | at most | measured |\n| --- | ---: | ---: |\n")
	fmt.Printf("| committed trees, cold, × `git ls-tree -r HEAD` one after the other | 1.5 | %.2f |\n", ratio(cold[committed], cold[at("`git ls-tree -r HEAD`, one repository after the other")]))
	fmt.Printf("| committed trees, cold, × `git ls-tree -r HEAD` two at a time | 1.5 | %.2f |\n", ratio(cold[committed], cold[at("`git ls-tree -r HEAD`, two at a time")]))
	fmt.Printf("| working trees, cold, × `rg --files --hidden --no-ignore` | 1.5 | %.2f |\n", ratio(cold[worktree], cold[at("`rg --files --hidden --no-ignore`")]))
	fmt.Printf("| committed trees, unchanged, × cold | 0.10 | %.2f |\n", ratio(median(warm[committed+1]), cold[committed]))
	fmt.Printf("| working trees, unchanged, × cold | 0.10 | %.2f |\n", ratio(median(warm[worktree+1]), cold[worktree]))
}

func ratio(a, b result) float64 { return a.took.Seconds() / b.took.Seconds() }

// algebra runs the Go benchmarks of the version package and puts each beside the faster peer.
func algebra() error {
	out, err := exec.Command("go", "test", "-run", "^$", "-bench", ".", "-benchmem", "./internal/core/version").Output()
	if err != nil {
		return fmt.Errorf("go test -bench: %w: %s", err, out)
	}
	fmt.Println("\n| benchmark | ns/op | B/op | allocs/op |\n| --- | ---: | ---: | ---: |")
	for line := range bytes.Lines(out) {
		f := strings.Fields(string(line))
		if len(f) >= 8 && strings.HasPrefix(f[0], "Benchmark") {
			name, _, _ := strings.Cut(strings.TrimPrefix(f[0], "Benchmark"), "-2")
			fmt.Printf("| %s | %s | %s | %s |\n", name, f[2], f[4], f[6])
		}
	}
	return nil
}
