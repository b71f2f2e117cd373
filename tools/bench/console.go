package main

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"

	"github.com/chromedp/chromedp"

	"wexo/internal/core/catalogue"
)

// onConsole measures the console in a browser, on as many repositories that speak of every
// tool of the catalogue: how soon something is to be seen, and for how long the page halts
// while it is read and scrolled.
func onConsole(dir string, repositories, machines int) error {
	tools, err := makeBroad(dir, repositories)
	if err != nil {
		return err
	}
	s, err := startService(dir)
	if err != nil {
		return err
	}
	defer s.stop()
	var inventories []string
	for i, inv := range largeMachines(machines) {
		data, err := json.Marshal(inv)
		if err != nil {
			return err
		}
		file := filepath.Join(dir, fmt.Sprintf("machine-%02d.json", i))
		if err := os.WriteFile(file, data, 0o644); err != nil {
			return err
		}
		inventories = append(inventories, file)
	}
	if err := s.fill(filepath.Join(dir, "repositories"), inventories); err != nil {
		return err
	}
	ctx, cancel := chromedp.NewExecAllocator(context.Background(), append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath("/usr/bin/chromium"),
		chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800), chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-quic", true))...)
	defer cancel()
	ctx, cancel = chromedp.NewContext(ctx)
	defer cancel()
	fmt.Printf("\n| the console, %d repositories, %d machines, %d tools | at most | measured |\n| --- | ---: | ---: |\n", repositories, machines, tools)
	b := bench{ctx, s}
	if err := b.signIn(); err != nil {
		return err
	}
	for _, page := range []struct{ path, shown string }{{"/", "main h3"}, {"/findings", "main h3"}, {"/matrix", "[role=rowheader]"}} {
		if err := b.open(page.path, page.shown); err != nil {
			return err
		}
	}
	return b.scroll()
}

// makeBroad lays plain folders with a version file for every few tools.
func makeBroad(dir string, repositories int) (tools int, err error) {
	c, err := catalogue.Embedded()
	if err != nil {
		return 0, err
	}
	tools = len(c.Tools())
	made := filepath.Join(dir, "made")
	if _, err := os.Stat(made); err == nil {
		return tools, nil
	}
	for n := range repositories {
		r := rand.New(rand.NewPCG(uint64(n), 11))
		at := filepath.Join(dir, "repositories", fmt.Sprintf("bed-%04d", n))
		if err := os.MkdirAll(at, 0o755); err != nil {
			return tools, err
		}
		for i, t := range c.Tools() {
			if (n+i)%3 > 0 {
				continue
			}
			version := fmt.Sprintf("%d.%d.%d", 1+r.IntN(25), r.IntN(20), r.IntN(10))
			if len(t.Lines) > 0 {
				version = t.Lines[r.IntN(len(t.Lines))].Line
			}
			if err := os.WriteFile(filepath.Join(at, "."+t.Name+"-version"), []byte(version+"\n"), 0o644); err != nil {
				return tools, err
			}
		}
	}
	return tools, os.WriteFile(made, nil, 0o644)
}

// bench is a browser before a service.
type bench struct {
	ctx context.Context
	s   *serviceUnderTest
}

func (b bench) do(actions ...chromedp.Action[chromedp.Void]) error {
	return chromedp.Do(b.ctx, actions...)
}

func (b bench) number(expression string) (float64, error) {
	return chromedp.Run(b.ctx, chromedp.Evaluate[float64](expression, chromedp.EvalAwaitPromise))
}

// signIn gives the browser a session by the owner's token.
func (b bench) signIn() error {
	if err := b.do(chromedp.Navigate(b.s.url + "/sign-in")); err != nil {
		return err
	}
	status, err := b.number(fmt.Sprintf(`fetch("/api/session", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({token: %q})}).then(r => r.status)`, b.s.token))
	if err == nil && status != http.StatusOK {
		err = fmt.Errorf("signing in answered %v", status)
	}
	return err
}

// watch notes every task that takes longer than 50 ms, from the beginning of each page.
const watch = `window.tasks = []; new PerformanceObserver(l => tasks.push(...l.getEntries().map(e => e.duration))).observe({type: "longtask", buffered: true});`

// open loads a page and says when it shows something, and how long its longest task was
// until all is there.
func (b bench) open(path, shown string) error {
	if err := b.do(chromedp.Navigate(b.s.url + path)); err != nil {
		return err
	}
	first, err := b.number(`new Promise(done => { ` + watch + ` const look = () => document.querySelector("` + shown + `") ? done(performance.now()) : requestAnimationFrame(look); look(); })`)
	if err != nil {
		return err
	}
	longest, err := b.number(`new Promise(done => { const still = () => !/read so far/.test(document.body.innerText); const look = () => still() ? setTimeout(() => done(Math.max(0, ...tasks)), 1000) : setTimeout(look, 50); look(); })`)
	if err != nil {
		return err
	}
	fmt.Printf("| `%s`: first view, and the longest task while it is read | 1.5 s | %.2f s and %.0f ms |\n", path, first/1000, longest)
	return nil
}

// scroll moves over the matrix in both directions, and says how long its longest task was.
func (b bench) scroll() error {
	for _, way := range []struct{ name, move string }{
		{"down, 60 screens", "g.scrollTop += 600"}, {"across, to the last tool and back", "g.scrollLeft = Math.abs(((n * 120) % 6000) - 3000)"}, {"jumping", "g.scrollTop = (n * 7919 * 47) % (g.scrollHeight - 700)"},
	} {
		longest, err := b.number(`new Promise(done => { tasks.length = 0; const g = document.querySelector("[role=grid]"); let n = 0; const step = () => { if (n++ === 60) return setTimeout(() => done(Math.max(0, ...tasks)), 500); ` + way.move + `; requestAnimationFrame(step); }; step(); })`)
		if err != nil {
			return err
		}
		fmt.Printf("| the matrix, %s: the longest task | 50 ms | %s |\n", way.name, map[bool]string{true: "under 50 ms", false: fmt.Sprintf("%.0f ms", longest)}[longest == 0])
	}
	if err := b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[role=grid]").scrollTo(0, 0)`), chromedp.Focus(chromedp.CSS(`[data-at="true"]`))); err != nil {
		return err
	}
	rows, err := b.number(`new Promise(done => { const t = performance.now(); const g = document.querySelector("[role=grid]"); document.activeElement.dispatchEvent(new KeyboardEvent("keydown", {key: "End", ctrlKey: true, bubbles: true})); const look = () => document.activeElement?.closest("[role=row]")?.ariaRowIndex === g.ariaRowCount ? done(performance.now() - t) : performance.now() - t > 5000 ? done(-1) : requestAnimationFrame(look); look(); })`)
	if err == nil {
		fmt.Printf("| Ctrl-End: the last cell has the focus | | %.0f ms |\n", rows)
	}
	return err
}
