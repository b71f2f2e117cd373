// Walk follows the README and every page of docs as a new user would: each command that they
// show is run in a home of its own that holds nothing but some made-up repositories, and what
// comes back is compared with what the page says. Links have to lead somewhere. A page that
// lies fails it.
//
// Blocks of a page are told apart by their language. Of "sh" each line is a command; of
// "console" lines behind a $ are, and what follows is what comes back, "…" standing for
// anything. A comment before a block says more: <!-- walk: file NAME --> writes the block to a
// file of the home, <!-- walk: service --> runs it beside a service, <!-- walk: yaml --> checks
// that it is YAML, <!-- walk: whole --> leaves it to a whole walk, which begins with a clean
// clone. Of a command, "# until stopped" says that it goes on by itself, "# status 2" how it
// ends, and "# in fish" that this shell has no part in it.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	quick := flag.Bool("quick", false, "use what is built here, and leave out what begins with a clone")
	only := flag.String("page", "", "walk this page alone")
	flag.Parse()
	if err := run(ctx, *quick, *only); err != nil {
		fmt.Fprintln(os.Stderr, "walk:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, quick bool, only string) error {
	source, err := filepath.Abs(".")
	if err != nil {
		return err
	}
	if !quick {
		clone, err := cloned(ctx, source)
		if err != nil {
			return err
		}
		defer os.RemoveAll(filepath.Dir(clone))
		if err := demo(ctx, clone); err != nil {
			return err
		}
		fmt.Println("make demo                      starts, and its link is answered")
		source = clone
	}
	estate, err := layEstate(ctx, source)
	if err != nil {
		return err
	}
	defer os.RemoveAll(estate)
	pages, err := filepath.Glob(filepath.Join(source, "docs", "*.md"))
	if err != nil {
		return err
	}
	var lies []string
	commands := 0
	for _, file := range append([]string{filepath.Join(source, "README.md")}, pages...) {
		name, err := filepath.Rel(source, file)
		if err != nil {
			return err
		}
		if only != "" && only != name {
			continue
		}
		w := &walker{source: source, estate: estate, page: name, whole: !quick}
		if err := w.walk(ctx, file); err != nil {
			return err
		}
		commands += w.commands
		lies = append(lies, w.lies...)
		fmt.Printf("%-28s %3d commands, %d wrong\n", name, w.commands, len(w.lies))
	}
	for _, lie := range lies {
		fmt.Fprintf(os.Stderr, "\n%s\n", lie)
	}
	if len(lies) > 0 {
		return fmt.Errorf("%d of what the pages say is not so", len(lies))
	}
	if commands == 0 {
		return fmt.Errorf("there is no page %s", strings.TrimSpace(only))
	}
	return ctx.Err()
}
