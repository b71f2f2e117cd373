package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/metrics"
	"slices"
	"strings"
	"syscall"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/host/repo"
	"wexo/internal/survey"
)

// judging measures what is done with readings that are in memory: on the large estate,
// against fifty machines.
func judging(dir string, repositories, machines int) error {
	inventories, err := makeLarge(dir, repositories, machines)
	if err != nil {
		return err
	}
	// First, while this process is small: what it holds when it starts another counts there.
	rows, err := commands(dir, inventories)
	if err != nil {
		return err
	}
	b, err := rule.Embedded()
	if err != nil {
		return err
	}
	c := b.Catalogue
	reader, err := reading.New(c)
	if err != nil {
		return err
	}
	locations, problems := repo.Discover([]string{filepath.Join(dir, "repositories")}, reader.Marks)
	if len(problems) > 0 {
		return problems[0]
	}
	ctx := context.Background()
	read, err := survey.Reader{Claims: reader}.Read(ctx, locations, repo.Reading{}, nil)
	if err != nil {
		return err
	}
	var fleet []*inventory.Machine
	for _, inv := range largeMachines(machines) {
		fleet = append(fleet, inventory.NewMachine(inv, c))
	}
	m := &measuring{ctx: ctx, book: b, read: read, machines: fleet}
	if err := m.run(); err != nil {
		return err
	}
	for _, row := range rows {
		fmt.Println(row)
	}
	return nil
}

type measuring struct {
	ctx      context.Context
	book     *rule.Book
	read     []survey.ReadRepository
	machines []*inventory.Machine

	estate  *survey.Estate
	entries []survey.Entry
	fleet   *resolve.Fleet
}

var benchDay = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

func (m *measuring) run() error {
	texts, claims := map[string]bool{}, 0
	for _, r := range m.read {
		for _, c := range r.Claims {
			texts[c.Raw], claims = true, claims+1
		}
	}
	before := live()
	peak := watchHeap()
	start := time.Now()
	m.estate = survey.NewEstate(m.book, policy.Policy{})
	for _, r := range m.read {
		m.entries = append(m.entries, m.estate.Prepare(r))
	}
	prepared := time.Since(start)
	m.fleet = m.estate.Fleet(m.machines, nil)
	first, err := m.estate.Judge(m.ctx, m.entries, m.fleet, benchDay, nil)
	if err != nil {
		return err
	}
	all := time.Since(start)
	most := peak() - before
	r := first.Report("bench")
	fmt.Printf("\n%d repositories with %d claims in %d texts, %d machines: %d findings.\n\n| what | at most | measured |\n| --- | ---: | ---: |\n", len(m.read), claims, len(texts), len(m.machines), r.Summary.Count())
	fmt.Printf("| judging from readings in memory | 2 s | %.2f s (%.2f s of it preparing them) |\n", all.Seconds(), prepared.Seconds())
	fmt.Printf("| its memory, at its highest and when it is done | 300 MB | %d and %d MB |\n", most>>20, (live()-before)>>20)
	if err := m.together(first); err != nil {
		return err
	}
	last, err := m.days(first)
	if err != nil {
		return err
	}
	if err := m.changes(last); err != nil {
		return err
	}
	var written counter
	start = time.Now()
	if err := r.WriteJSON(&written); err != nil {
		return err
	}
	fmt.Printf("| the report as JSON | 40 MB and 1 s | %d MB and %.2f s |\n", written>>20, time.Since(start).Seconds())
	runtime.KeepAlive(first)
	return nil
}

// together measures what rules cost: judging with them and without, in turn, and the joint
// answers of all folders, and of one.
func (m *measuring) together(first *survey.Judgement) error {
	judge := func(b *rule.Book) (time.Duration, error) {
		runtime.GC()
		start := time.Now()
		e := survey.NewEstate(b, policy.Policy{})
		entries := make([]survey.Entry, len(m.read))
		for i, r := range m.read {
			entries[i] = e.Prepare(r)
		}
		_, err := e.Judge(m.ctx, entries, e.Fleet(m.machines, nil), benchDay, nil)
		return time.Since(start), err
	}
	var with, without []time.Duration
	for range rounds {
		for _, one := range []struct {
			book *rule.Book
			to   *[]time.Duration
		}{{&rule.Book{Catalogue: m.book.Catalogue}, &without}, {m.book, &with}} {
			took, err := judge(one.book)
			if err != nil {
				return err
			}
			*one.to = append(*one.to, took)
		}
	}
	slices.Sort(with)
	slices.Sort(without)
	half := rounds / 2
	fmt.Printf("| judging with rules and without, median of %d in turn | 15 %% more | %.2f and %.2f s, %+.0f %% |\n", rounds, with[half].Seconds(), without[half].Seconds(), 100*(with[half].Seconds()/without[half].Seconds()-1))
	start := time.Now()
	folders, apart := 0, 0
	reconciling := m.estate.Reconciling(first)
	for _, read := range first.Reads {
		reconciling.Each(context.Background(), read.Result, func(_ *assess.Viewed, j *assess.Joint) {
			if folders++; !j.Feasible {
				apart++
			}
		})
	}
	fmt.Printf("| joint answers of all %d folders, of which %d cannot hold | 5 s | %.2f s |\n", folders, apart, time.Since(start).Seconds())
	var one []time.Duration
	for n := range 200 {
		r := first.Reads[n*len(first.Reads)/200].Result
		start := time.Now()
		m.estate.Reconciling(first).Folder(r, "")
		one = append(one, time.Since(start))
	}
	slices.Sort(one)
	fmt.Printf("| joint answer of one folder, median and slowest of 200 | 20 ms | %.1f and %.1f ms |\n", one[100].Seconds()*1000, one[199].Seconds()*1000)
	return nil
}

// days judges ten other days; the slowest counts.
func (m *measuring) days(first *survey.Judgement) (*survey.Judgement, error) {
	before := live()
	var slowest time.Duration
	var kept []*survey.Judgement
	for n := range 10 {
		start := time.Now()
		next, err := m.estate.Judge(m.ctx, m.entries, m.fleet, benchDay.AddDate(0, 0, 37*(n+1)), first)
		if err != nil {
			return nil, err
		}
		slowest = max(slowest, time.Since(start))
		kept = append(kept, next)
	}
	fmt.Printf("| another day, the slowest of ten | 300 ms | %d ms |\n", slowest.Milliseconds())
	fmt.Printf("| memory that ten days add | | %d MB |\n", (live()-before)>>20)
	runtime.KeepAlive(kept)
	return m.estate.Judge(m.ctx, m.entries, m.fleet, benchDay, first)
}

// changes judges again after one repository, and after one machine, has changed.
func (m *measuring) changes(was *survey.Judgement) error {
	var repository, machine []time.Duration
	for n := range 9 {
		changed := m.read[n*500%len(m.read)]
		changed.Claims = slices.Clone(changed.Claims)[:len(changed.Claims)/2]
		start := time.Now()
		entries := slices.Clone(m.entries)
		entries[n*500%len(entries)] = m.estate.Prepare(changed)
		if _, err := m.estate.Judge(m.ctx, entries, m.fleet, benchDay, was); err != nil {
			return err
		}
		repository = append(repository, time.Since(start))
	}
	for n := range 9 {
		inv := m.machines[n].Inventory
		inv.Installations = slices.Clone(inv.Installations)
		inv.Installations[n].Version = "99.0." + fmt.Sprint(n)
		start := time.Now()
		machines := slices.Clone(m.machines)
		machines[n] = m.estate.Machine(inv)
		if _, err := m.estate.Judge(m.ctx, m.entries, m.estate.Fleet(machines, m.fleet), benchDay, was); err != nil {
			return err
		}
		machine = append(machine, time.Since(start))
	}
	slices.Sort(repository)
	slices.Sort(machine)
	fmt.Printf("| one repository changed, median and slowest of nine | 30 ms | %d and %d ms |\n", repository[4].Milliseconds(), repository[8].Milliseconds())
	fmt.Printf("| one machine changed, median and slowest of nine | 30 ms | %d and %d ms |\n", machine[4].Milliseconds(), machine[8].Milliseconds())
	return nil
}

type counter int64

func (c *counter) Write(p []byte) (int, error) { *c += counter(len(p)); return len(p), nil }

// live is what is held of the heap, in bytes.
func live() int64 {
	runtime.GC()
	var s runtime.MemStats
	runtime.ReadMemStats(&s)
	return int64(s.HeapAlloc)
}

// watchHeap watches the heap until the returned function is called, which gives the most
// that was in use.
func watchHeap() func() int64 {
	sample := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
	done, result := make(chan struct{}), make(chan int64)
	go func() {
		var most int64
		tick := time.NewTicker(2 * time.Millisecond)
		defer tick.Stop()
		for {
			metrics.Read(sample)
			most = max(most, int64(sample[0].Value.Uint64()))
			select {
			case <-done:
				result <- most
				return
			case <-tick.C:
			}
		}
	}()
	return func() int64 { close(done); return <-result }
}

// rounds is how often a command is run; the median counts.
const rounds = 7

// commands measures the command line: the same survey with all machines and with one, in
// turn, since the machine is not always equally fast.
func commands(dir string, inventories []string) (rows []string, err error) {
	wexo, err := filepath.Abs("bin/wexo")
	if err != nil {
		return nil, err
	}
	run := func(output string, machines []string) (time.Duration, int64, error) {
		args := []string{"survey", "--as-of", "2026-11-16", "--fail-on", "never", "--output", output}
		for _, file := range machines {
			args = append(args, "--inventory", file)
		}
		cmd := exec.Command(wexo, append(args, filepath.Join(dir, "repositories"))...)
		cmd.Env = append(os.Environ(), "XDG_CACHE_HOME="+filepath.Join(dir, "cache"))
		cmd.Stdout = io.Discard
		start := time.Now()
		if err := cmd.Run(); err != nil {
			return 0, 0, fmt.Errorf("%s: %w", strings.Join(args, " "), err)
		}
		took, peak := time.Since(start), int64(0)
		if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
			peak = usage.Maxrss * 1024
		}
		return took, peak, nil
	}
	if _, _, err := run("json", inventories[:1]); err != nil { // fills the memory of readings
		return nil, err
	}
	for _, output := range []string{"json", "text"} {
		var one, many []time.Duration
		var most int64
		for range rounds {
			alone, _, err := run(output, inventories[:1])
			if err != nil {
				return nil, err
			}
			all, peak, err := run(output, inventories)
			if err != nil {
				return nil, err
			}
			one, many, most = append(one, alone), append(many, all), max(most, peak)
		}
		slices.Sort(one)
		slices.Sort(many)
		rows = append(rows, fmt.Sprintf("| `wexo survey --output %s`, %d machines beside one | 1.5 × | %.2f × (%.2f s and %.2f s, %d MB) |",
			output, len(inventories), many[rounds/2].Seconds()/one[rounds/2].Seconds(), many[rounds/2].Seconds(), one[rounds/2].Seconds(), most>>20))
	}
	return rows, nil
}
