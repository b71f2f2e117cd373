// Command shots takes the pictures in docs/screenshots from a running demo:
//
//	go run ./tools/shots --url LINK --out DIR [--only NAME]
//
// LINK is the demo's one-time sign-in link.
package main

import (
	"cmp"
	"context"
	"flag"
	"fmt"
	"log"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/chromedp/chromedp"
)

// shot is a page with what must be on it before the picture is taken.
type shot struct {
	name, path, wait, theme string
	width, height           int64 // 1280 by 800 where they are left out
}

var shots = []shot{
	{name: "overview-light", path: "/", wait: "Support ending in the next"},
	{name: "overview-dark", path: "/", wait: "Support ending in the next", theme: "dark"},
	{name: "matrix-light", path: "/matrix", wait: "bee-counter"},
	{name: "repository-light", path: "/repositories/weather-mast?machine=potting-bench", wait: "Ladder"},
	{name: "claims-light", path: "/repositories/glasshouse-sensors?tool=python", wait: "Not understood", height: 1150},
	{name: "together-light", path: "/repositories/meadow-app?tool=gradle", wait: "would hold", height: 1250},
	{name: "findings-light", path: "/findings", wait: "29 causes"},
	{name: "machines-light", path: "/machines", wait: "All machines"},
	{name: "machine-light", path: "/machines/potting-bench", wait: "What PATH runs", height: 1500},
	{name: "compare-light", path: "/compare?a=orchid-desk&b=seed-agent", wait: "differ"},
}

func main() {
	link := flag.String("url", "", "the demo's sign-in link")
	out := flag.String("out", "docs/screenshots", "where pictures go")
	only := flag.String("only", "", "take only pictures whose name holds this")
	flag.Parse()
	if err := take(*link, *out, *only); err != nil {
		log.Fatal(err)
	}
}

func take(link, out, only string) error {
	at, err := url.Parse(link)
	if err != nil {
		return err
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath("/usr/bin/chromium"), chromedp.NoSandbox,
		chromedp.DisableGPU, chromedp.WindowSize(1280, 800), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-quic", true), chromedp.Flag("hide-scrollbars", true))
	ctx, cancel := chromedp.NewExecAllocator(context.Background(), options...)
	defer cancel()
	ctx, cancel = chromedp.NewContext(ctx)
	defer cancel()
	base := at.Scheme + "://" + at.Host
	if err := chromedp.Do(ctx, chromedp.Navigate(link), chromedp.WaitVisible(chromedp.Search(`//h1[text()="Overview"]`))); err != nil {
		return fmt.Errorf("signing in: %w", err)
	}
	for _, s := range shots {
		if !strings.Contains(s.name, only) {
			continue
		}
		theme := s.theme
		if theme == "" {
			theme = "light"
		}
		err := chromedp.Do(ctx,
			chromedp.Evaluate[chromedp.Void](`localStorage.setItem("wexo-theme", "`+theme+`")`),
			chromedp.EmulateViewport(cmp.Or(s.width, 1280), cmp.Or(s.height, 800)),
			chromedp.Navigate(base+s.path),
			chromedp.WaitVisible(chromedp.Search(fmt.Sprintf(`//main//*[contains(text(), %q)]`, s.wait))),
			chromedp.Evaluate[chromedp.Void](`document.fonts.ready.then(() => new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r))))`, chromedp.EvalAwaitPromise))
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := os.WriteFile(filepath.Join(out, s.name+".png"), png, 0o644); err != nil {
			return err
		}
	}
	return nil
}
