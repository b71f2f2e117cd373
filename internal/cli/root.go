// Package cli is Wexo's commands, one file a command.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/report"
)

// Version is the version of this build.
const Version = "0.1.0"

// Exit statuses.
const (
	exitFindings = 1 // findings at or above --fail-on
	exitUsage    = 2 // wrong usage or configuration
	exitWork     = 3 // the work could not be done
)

// exitError is an error with the exit status it calls for. An empty message prints nothing.
type exitError struct {
	status  int
	message string
}

func (e *exitError) Error() string { return e.message }

func usage(format string, args ...any) error {
	return &exitError{exitUsage, fmt.Sprintf(format, args...)}
}
func failed(format string, args ...any) error {
	return &exitError{exitWork, fmt.Sprintf(format, args...)}
}

// Streams are where a command reads and writes.
type Streams struct {
	In  io.Reader
	Out io.Writer
	Err io.Writer
}

// Run runs a command line and gives the exit status.
func Run(args []string, s Streams) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := newRoot(s)
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	var exit *exitError
	if !errors.As(err, &exit) {
		fmt.Fprintf(s.Err, "wexo: %v\n", err)
		return exitUsage
	}
	if exit.message != "" {
		fmt.Fprintf(s.Err, "wexo: %s\n", exit.message)
	}
	return exit.status
}

func newRoot(s Streams) *cobra.Command {
	root := &cobra.Command{
		Use:   "wexo",
		Short: "Which version of each tool do repositories ask for, which one runs, and is that sound?",
		Long: "Wexo reads the version files, manifests and editor settings of many repositories,\n" +
			"compares them with the toolchains of many machines, and reports what is missing,\n" +
			"mismatched or out of support, with file, line and remedy.",
		SilenceUsage: true, SilenceErrors: true, Version: Version,
	}
	root.SetIn(s.In)
	root.SetOut(s.Out)
	root.SetErr(s.Err)
	root.CompletionOptions.HiddenDefaultCmd = true
	here := &cobra.Group{ID: "here", Title: "Here, without a service:"}
	service := &cobra.Group{ID: "service", Title: "The service and its clients:"}
	root.AddGroup(here, service)
	add := func(group *cobra.Group, commands ...*cobra.Command) {
		for _, c := range commands {
			c.GroupID = group.ID
			root.AddCommand(c)
		}
	}
	add(here, newSurvey(s), newTrace(s), newInventory(s), newLines(s), newSatisfies(s), newOrder(s), newDemo(s))
	add(service, newServe(s), newRepositories(s), newMachines(s), newFindings(s), newTokens(s))
	root.AddCommand(newWork(s))
	return root
}

// knowledge is the catalogue with a reader made for it.
func knowledge() (*catalogue.Catalogue, *claim.Reader, error) {
	c, err := catalogue.Embedded()
	if err != nil {
		return nil, nil, failed("%v", err)
	}
	r, err := claim.NewReader(c)
	if err != nil {
		return nil, nil, failed("%v", err)
	}
	return c, r, nil
}

// dayOf reads --as-of; empty means today.
func dayOf(text string) (time.Time, error) {
	if text == "" {
		now := time.Now().UTC()
		return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC), nil
	}
	day, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return time.Time{}, usage("--as-of %q is not a date such as 2026-11-16", text)
	}
	return day, nil
}

// styleFor is colour and width for a stream: plain where it is no terminal or NO_COLOR is set.
func styleFor(w io.Writer) report.Style {
	style := report.Style{Width: 100}
	f, ok := w.(*os.File)
	if !ok {
		return style
	}
	width, terminal := terminalWidth(f)
	if terminal && width > 0 {
		style.Width = min(width, 120)
	}
	style.Colour = terminal && os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
	return style
}
