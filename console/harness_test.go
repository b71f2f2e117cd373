package console_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"wexo/console"
	"wexo/demo"
	"wexo/internal/cli"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/core/userrule"
	"wexo/internal/server"
)

// TestMain lets this program be the one that reads repositories, as the real one is.
func TestMain(m *testing.M) {
	if len(os.Args) > 1 && os.Args[1] == cli.WorkCommand {
		os.Exit(cli.Run(os.Args[1:], cli.Streams{In: os.Stdin, Out: os.Stdout, Err: os.Stderr}))
	}
	status := m.Run()
	for _, l := range slices.Backward(leave) {
		l()
	}
	os.Exit(status)
}

// patience is how long a condition may take to come true.
const patience = time.Minute

// browser is a signed-out Chromium before a service with the demo.
type browser struct {
	t            *testing.T
	ctx          context.Context
	url          string
	repositories string // where the demo's lie
	service      *server.Service
	open         func() *server.Service
	stop         func()
}

// serve serves the demo on a listener until stop is called.
func (b *browser) serve(listener net.Listener) {
	b.service = b.open()
	serving, cancel := context.WithCancel(context.Background())
	done := make(chan error, 1)
	go func() { done <- b.service.Serve(serving, listener) }()
	b.stop = sync.OnceFunc(func() {
		cancel()
		assert.NoError(b.t, <-done)
	})
}

// startAgain serves at the address that the page knows.
func (b *browser) startAgain() {
	b.t.Helper()
	listener, err := net.Listen("tcp", strings.TrimPrefix(b.url, "http://"))
	require.NoError(b.t, err)
	b.serve(listener)
}

// laid is a demo that was laid out and surveyed, with its data as it was then.
type laid struct {
	dir  string
	data []byte
	err  error
}

// lay lays the demo out in a folder.
func lay(dir string) laid {
	var out bytes.Buffer
	if status := cli.Run([]string{"demo", "--once", "--dir", dir}, cli.Streams{In: strings.NewReader(""), Out: &out, Err: &out}); status != 0 {
		return laid{err: fmt.Errorf("the demo ends with %d: %s", status, out.String())}
	}
	data, err := os.ReadFile(filepath.Join(dir, "wexo.db"))
	return laid{dir, data, err}
}

// shared is the demo of all tests that leave its repositories as they are.
var shared = sync.OnceValue(func() laid {
	dir, err := os.MkdirTemp("", "wexo-console-")
	if err != nil {
		return laid{err: err}
	}
	leave = append(leave, func() { _ = os.RemoveAll(dir) })
	return lay(filepath.Join(dir, "demo"))
})

// open serves the demo and opens a browser that nobody has signed in with. Its repositories are
// shared: who changes them opens a demo of their own.
func open(t *testing.T) *browser {
	t.Helper()
	return openOn(t, shared())
}

func openOn(t *testing.T, at laid) *browser {
	t.Helper()
	require.NoError(t, at.err)
	_, err := fs.Stat(console.Files(), "index.html")
	require.NoError(t, err, "the console is not built; run: make build")
	dir := at.dir
	for _, ending := range []string{"-wal", "-shm"} {
		_ = os.Remove(filepath.Join(dir, "wexo.db"+ending)) // mostly there is none
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "wexo.db"), at.data, 0o600))
	folders := []fs.FS{catalogue.Shipped(), os.DirFS(filepath.Join(dir, "catalogue"))}
	known, err := catalogue.Load(folders...)
	require.NoError(t, err)
	book, err := rule.Load(known, folders...)
	require.NoError(t, err)
	configuration, err := os.ReadFile(filepath.Join(dir, demo.Configuration))
	require.NoError(t, err)
	_, decided, problems := userrule.Parse(configuration, known, true, userrule.Other{Key: "catalogue", Read: func(*yaml.Node) string { return "" }})
	require.Empty(t, problems)
	reader, err := reading.New(book.Catalogue)
	require.NoError(t, err)
	b := &browser{t: t}
	b.open = func() *server.Service {
		service, err := server.Open(t.Context(), server.Options{Data: filepath.Join(dir, "wexo.db"), Roots: []string{filepath.Join(dir, "repositories")}, AsOf: demo.Day, Clock: demo.Clock(time.Now), Version: "test",
			Book: book, Policy: decided, Reader: reader, Console: console.Files(), Log: slog.New(slog.DiscardHandler), FileLinks: map[string]string{"git.trust.invalid": "https://git.trust.invalid/{path}/src/{commit}/{file}#L{line}"}})
		require.NoError(t, err)
		return service
	}
	b.repositories = filepath.Join(dir, "repositories")
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	b.url = "http://" + listener.Addr().String()
	b.serve(listener)

	ctx, cancel := chromedp.NewContext(running(), chromedp.WithNewBrowserContext())
	b.ctx = ctx
	t.Cleanup(func() {
		cancel()
		b.stop()
	})
	b.do(chromedp.EmulateViewport(1280, 800))
	return b
}

// running is one Chromium for all tests; each has a context of its own in it, with cookies
// and storage that are nobody else's.
var running = sync.OnceValue(func() context.Context {
	ctx, cancelAllocator := chromedp.NewExecAllocator(context.Background(), append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(chromium), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-quic", true))...)
	ctx, cancelBrowser := chromedp.NewContext(ctx)
	leave = append(leave, cancelAllocator, cancelBrowser)
	if err := chromedp.Do(ctx); err != nil { // starts it
		fmt.Fprintln(os.Stderr, "the browser tests need Debian's package chromium; run: make tools:", err)
	}
	return ctx
})

const chromium = "/usr/bin/chromium"

// leave is what is to be done when all tests have ended, last first.
var leave []func()

// signedIn signs in by a one-time link.
func signedIn(t *testing.T) *browser {
	t.Helper()
	return open(t).signIn()
}

// signedInToItsOwn signs in to a demo whose repositories the test may change.
func signedInToItsOwn(t *testing.T) *browser {
	t.Helper()
	return openOn(t, lay(filepath.Join(t.TempDir(), "demo"))).signIn()
}

func (b *browser) signIn() *browser {
	t := b.t
	t.Helper()
	code, err := b.service.Store.CreateCode(t.Context(), 0, "fern", "lead", b.service.Clock().Add(time.Hour))
	require.NoError(t, err)
	b.go_("/sign-in?code=" + code)
	b.sees("h1", "Overview")
	return b
}

func (b *browser) do(actions ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	require.NoError(b.t, chromedp.Do(b.ctx, actions...))
}

func (b *browser) go_(path string) {
	b.t.Helper()
	b.do(chromedp.Navigate(b.url + path))
}

func value[T any](b *browser, expression string) T {
	b.t.Helper()
	got, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](expression))
	require.NoError(b.t, err, expression)
	return got
}

// until waits for a JavaScript condition.
func (b *browser) until(what, condition string) {
	b.t.Helper()
	deadline := time.Now().Add(patience)
	for {
		ok, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](`Boolean(`+condition+`)`))
		if err == nil && ok {
			return
		}
		if time.Now().After(deadline) {
			b.t.Fatalf("%s did not come true; at %s the focus is on %s; the page says: %s", what, b.path(), value[string](b, `document.activeElement.outerHTML.slice(0, 200)`), value[string](b, `document.body.innerText.slice(0, 3000)`))
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// sees waits until an element of the selector shows the text.
func (b *browser) sees(selector, text string) {
	b.t.Helper()
	b.until(fmt.Sprintf("%q in %s", text, selector),
		fmt.Sprintf(`[...document.querySelectorAll(%q)].some(e => e.innerText.replace(/\s+/g, " ").includes(%q))`, selector, text))
}

// click clicks the element of the selector that shows the text.
func (b *browser) click(selector, text string) {
	b.t.Helper()
	b.sees(selector, text)
	b.until("a click on "+text, fmt.Sprintf(`(e => e && (e.click(), true))([...document.querySelectorAll(%q)].find(e => e.innerText.replace(/\s+/g, " ").includes(%q)))`, selector, text))
}

func (b *browser) press(keys ...string) {
	b.t.Helper()
	for _, key := range keys {
		if key == kb.Enter {
			b.do(chromedp.Func(enterKey))
			continue
		}
		b.do(chromedp.KeyEvent(key))
	}
}

// enterKey is Enter as a keyboard sends it: what the page prevents does not come a second time.
func enterKey(ctx context.Context, t *chromedp.Target) error {
	for _, p := range []input.DispatchKeyEventParams{{Type: input.DispatchKeyEventTypeKeyDown, Text: "\r"}, {Type: input.DispatchKeyEventTypeKeyUp}} {
		p.Key, p.Code, p.WindowsVirtualKeyCode, p.NativeVirtualKeyCode = "Enter", "Enter", 13, 13
		if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, p); err != nil {
			return err
		}
	}
	return nil
}

// asOf waits until the day of the verdicts is shown.
func (b *browser) asOf(label, day string) {
	b.t.Helper()
	b.sees("header label", label)
	b.until("the day "+day, fmt.Sprintf(`document.querySelector("header label input").value === %q`, day))
}

// focus puts the focus on the element of the selector that shows the text.
func (b *browser) focus(selector, text string) {
	b.t.Helper()
	b.sees(selector, text)
	b.until("the focus on "+text, fmt.Sprintf(`(e => e && (e.focus(), document.activeElement === e))([...document.querySelectorAll(%q)].find(e => e.innerText.replace(/\s+/g, " ").includes(%q)))`, selector, text))
}

// enter presses Enter on the element of the selector that shows the text.
func (b *browser) enter(selector, text string) {
	b.t.Helper()
	b.focus(selector, text)
	b.press(kb.Enter)
}

// back goes back in the history.
func (b *browser) back() {
	b.t.Helper()
	b.do(chromedp.Evaluate[chromedp.Void](`history.back()`))
}

func (b *browser) path() string { return value[string](b, `location.pathname + location.search`) }

// accessible lets axe look at the page.
func (b *browser) accessible(page string) {
	b.t.Helper()
	b.accessibleIn("html", page)
}

// accessibleIn lets axe look at a part of the page: what is open covers others for a while.
func (b *browser) accessibleIn(selector, page string) {
	b.t.Helper()
	axe, err := os.ReadFile("node_modules/axe-core/axe.min.js")
	require.NoError(b.t, err)
	b.do(chromedp.Evaluate[chromedp.Void](string(axe)))
	found, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](
		fmt.Sprintf(`axe.run(%q, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]}).then(r => JSON.stringify(r.violations.map(v => v.id + ": " + v.nodes.map(n => n.html.slice(0, 160) + " " + n.failureSummary).join(" | "))))`, selector), chromedp.EvalAwaitPromise))
	require.NoError(b.t, err)
	var violations []string
	require.NoError(b.t, json.Unmarshal([]byte(found), &violations))
	assert.Empty(b.t, violations, page)
}
