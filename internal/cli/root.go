// Package cli is Wexo's commands, one file a command.
package cli

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/report"
	"wexo/internal/terminal"
)

// Version is the version of this build.
const Version = "0.2.0"

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
	return &exitError{status: exitUsage, message: fmt.Sprintf(format, terminal.Cleaned(args)...)}
}
func failed(format string, args ...any) error {
	return &exitError{status: exitWork, message: fmt.Sprintf(format, terminal.Cleaned(args)...)}
}

// Streams are where a command reads and writes.
type Streams struct {
	In  io.Reader
	Out io.Writer
	Err io.Writer
}

// Run runs a command line and gives the exit status. All that is written passes a
// terminal.Writer; where standard output cannot be written, the status says so.
func Run(args []string, s Streams) int { return RunIn(context.Background(), args, s) }

// RunIn is Run in a context, such as one that Holding gives.
func RunIn(ctx context.Context, args []string, s Streams) int {
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	context.AfterFunc(ctx, stop) // who asks twice is not kept waiting

	if len(args) > 0 && args[0] == WorkCommand { // speaks to a program
		return tell(s.Err, run(ctx, s, args))
	}
	signal.Ignore(syscall.SIGPIPE) // a closed output is an error of writing, and no sudden end
	mark := rand.Text()
	out, errOut := &terminal.Writer{To: s.Out, Mark: mark}, &terminal.Writer{To: s.Err, Mark: mark}
	s.Out, s.Err = out, errOut
	err := run(ctx, s, args)
	if out.Err() == nil {
		return tell(s.Err, err)
	}
	if !errors.Is(out.Err(), syscall.EPIPE) {
		_ = terminal.Printf(s.Err, "wexo: standard output cannot be written: %v\n", out.Err())
	}
	return exitWork
}

func run(ctx context.Context, s Streams, args []string) error {
	root := newRoot(s)
	root.SetArgs(args)
	return root.ExecuteContext(ctx)
}

// tell says what went wrong and gives the exit status that it calls for.
func tell(w io.Writer, err error) int {
	var exit *exitError
	switch {
	case err == nil:
		return 0
	case !errors.As(err, &exit):
		_ = terminal.Printf(w, "wexo: %s\n", plainly(err))
		return exitUsage
	case exit.message != "":
		_, _ = fmt.Fprintf(w, "wexo: %s\n", exit.message)
	}
	return exit.status
}

// Command is all commands, for those who write about them.
func Command(s Streams) *cobra.Command { return newRoot(s) }

func newRoot(s Streams) *cobra.Command {
	root := &cobra.Command{
		Use:   "wexo",
		Short: "Which version of each tool do repositories ask for, which one runs, and is that sound?",
		Long: "Wexo reads the version files, manifests and editor settings of many repositories,\n" +
			"compares them with the toolchains of many machines, and reports what is missing,\n" +
			"mismatched or out of support, with file, line and remedy.",
		SilenceUsage: true, SilenceErrors: true, Version: Version,
	}
	root.PersistentFlags().String("config", "wexo.yaml", "read rules and configuration from this `file`; a repository's own, or that of a folder that is surveyed, counts only so")
	root.PersistentFlags().StringSlice(catalogueKey, nil, "know also the tools, rules and baselines in these `folders`")
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
	add(here, newSurvey(s), newTrace(s), newReconcile(s), newNeeds(s), newWith(s), newRules(s), newInventory(s), newLines(s), newSatisfies(s), newOrder(s), newCatalogue(s), newDemo(s))
	add(service, newServe(s), newRepositories(s), newMachines(s), newFindings(s), newTokens(s), newSessions(s))
	root.AddCommand(newWork(s))
	root.Args = func(cmd *cobra.Command, args []string) error {
		if len(args) == 0 {
			return nil
		}
		return misspelt(cmd, args)
	}
	root.RunE = func(cmd *cobra.Command, _ []string) error { return cmd.Help() }
	for _, cmd := range root.Commands() {
		if cmd.HasSubCommands() {
			cmd.Args, cmd.RunE = cobra.ArbitraryArgs, misspelt
		}
		counted(cmd)
	}
	root.SetFlagErrorFunc(misused)
	return root
}

// dayOf reads a date that an option, a variable or a key names; empty means today.
func dayOf(from, text string) (time.Time, error) {
	if text == "" {
		now := time.Now().UTC()
		return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC), nil
	}
	day, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return time.Time{}, usage("%s should be a date such as 2026-11-16, and it is %q", from, text)
	}
	return day, nil
}

// styleFor is colour and width for a stream: plain where it is no terminal or NO_COLOR is set.
func styleFor(w io.Writer) report.Style {
	style := report.Style{Width: 100}
	f, mark, ok := fileOf(w)
	if !ok {
		return style
	}
	width, isTerminal := terminalWidth(f)
	if isTerminal && width > 0 {
		style.Width = min(width, 120)
	}
	style.Colour = isTerminal && os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
	style.Mark = mark
	return style
}

// fileOf is the file behind a stream, and the mark with which sequences pass to it.
func fileOf(w io.Writer) (*os.File, string, bool) {
	mark := ""
	if through, ok := w.(*terminal.Writer); ok {
		w, mark = through.To, through.Mark
	}
	f, ok := w.(*os.File)
	return f, mark, ok
}
