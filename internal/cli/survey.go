package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/survey"
	"wexo/internal/terminal"
)

// looking are the options that say what to read and from where it is seen.
type looking struct {
	inventories []string
	asOf        string
	ref         string
	worktree    bool
}

func (l *looking) flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringArrayVar(&l.inventories, "inventory", nil, "judge against the machine in this inventory `file` instead of this one; may be repeated")
	f.StringVar(&l.asOf, "as-of", "", "judge as of this `date` (2026-11-16) instead of today")
	f.StringVar(&l.ref, "ref", "", "read this git `ref` instead of HEAD")
	f.BoolVar(&l.worktree, "worktree", false, "read the working tree, uncommitted and ignored files too")
	cmd.MarkFlagsMutuallyExclusive("ref", "worktree")
}

func (l *looking) reading() repo.Reading { return repo.Reading{Ref: l.ref, Worktree: l.worktree} }

// inputs gathers machines and date; without inventory files this machine is probed.
func (l *looking) inputs(cmd *cobra.Command, c *catalogue.Catalogue, r *claim.Reader) (assess.Inputs, error) {
	day, err := dayOf(l.asOf)
	if err != nil {
		return assess.Inputs{}, err
	}
	in := assess.Inputs{Catalogue: c, Policy: assess.DefaultPolicy(), Day: day}
	if len(l.inventories) == 0 {
		m := inventory.NewMachine(probe.Take(cmd.Context(), c, r, probe.Local(time.Now())), c)
		m.Follow = probe.Follow
		in.Machines = append(in.Machines, m)
	}
	for _, file := range l.inventories {
		inv, err := readInventory(cmd.Context(), file)
		if err != nil {
			return in, err
		}
		if slices.ContainsFunc(in.Machines, func(m *inventory.Machine) bool { return m.Name() == inv.Machine.Name }) {
			return in, usage("%s: another inventory given is of the machine %q too", file, inv.Machine.Name)
		}
		in.Machines = append(in.Machines, inventory.NewMachine(inv, c))
	}
	slices.SortFunc(in.Machines, func(a, b *inventory.Machine) int { return strings.Compare(a.Name(), b.Name()) })
	return in, nil
}

func readInventory(ctx context.Context, file string) (inventory.Inventory, error) {
	data, err := readGiven(ctx, file, maxInventory)
	if err != nil {
		return inventory.Inventory{}, err
	}
	inv, err := inventory.Parse(data)
	if err != nil {
		return inventory.Inventory{}, usage("%s: %v", file, err)
	}
	return inv, nil
}

var failLevels = map[string]int{"error": 3, "warning": 2, "note": 1, "never": 4}

func newSurvey(s Streams) *cobra.Command {
	var l looking
	var by reading
	var verbose, strict bool
	var output, failOn, server, token string
	cmd := &cobra.Command{
		Use:   "survey DIR…",
		Short: "Read every repository under the folders and report",
		Long: "Reads every repository under the folders and reports what is missing, mismatched or out of\n" +
			"support. A folder that is a repository is taken itself, otherwise every repository below it.\n" +
			"Nothing of a repository is run. Exit status: 0 nothing at or above --fail-on, 1 findings at or\n" +
			"above it, 2 wrong usage, 3 the work could not be done: a repository that was named could not be\n" +
			"read, or with --strict any of those found.",
		Example: "  wexo survey ~/work\n  wexo survey --inventory agent.json --as-of 2027-05-01 ~/work\n  wexo survey --worktree --output json . | jq .summary",
		RunE: func(cmd *cobra.Command, args []string) error {
			remote := server != "" || len(args) == 0 && os.Getenv("WEXO_SERVER") != ""
			if len(args) == 0 && !remote {
				return usage("name a folder with repositories: wexo survey DIR…")
			}
			if output != "text" && output != "json" {
				return usage("--output %q: text and json are written", output)
			}
			if failLevels[failOn] == 0 {
				return usage("--fail-on %q: use error, warning, note or never", failOn)
			}
			if remote {
				return surveyOnServer(cmd, s, l, server, token, output, failOn, args)
			}
			return runSurvey(cmd, s, l, by, args, gate{output, failOn, verbose, strict})
		},
	}
	l.flags(cmd)
	by.flags(cmd)
	cmd.Flags().BoolVar(&verbose, "verbose", false, "also tell what was not read, and why")
	cmd.Flags().BoolVar(&strict, "strict", false, "exit with 3 where any repository could not be read, not only one that was named")
	cmd.Flags().StringVar(&output, "output", "text", "write the report as text or json")
	cmd.Flags().StringVar(&failOn, "fail-on", "error", "exit with 1 where a finding is at or above: error, warning, note or never")
	cmd.Flags().StringVar(&server, "server", "", "survey the repositories of a running service at this `URL` instead")
	cmd.Flags().StringVar(&token, "token", "", "the service's token (or WEXO_TOKEN)")
	return cmd
}

// gate is how a survey is told of, and what makes it fail.
type gate struct {
	output, failOn  string
	verbose, strict bool
}

// ballast is memory that is never touched and so takes none, but lets the collector begin
// later, in bytes: a survey of some thousand repositories makes little that can be collected.
const ballast = 48 << 20

func runSurvey(cmd *cobra.Command, s Streams, l looking, by reading, dirs []string, g gate) error {
	untouched := make([]byte, ballast)
	defer runtime.KeepAlive(untouched)
	c, reader, err := knowledge()
	if err != nil {
		return err
	}
	reads, err := by.reader(cmd, c, reader)
	if err != nil {
		return err
	}
	defer reads.Close()
	reads.Workers.Begin()
	in, err := l.inputs(cmd, c, reader)
	if err != nil {
		return err
	}
	locations, problems := repo.Discover(dirs, reader.Marks)
	for _, p := range problems {
		_ = terminal.Printf(s.Err, "wexo: %v\n", p)
	}
	if len(locations) == 0 {
		return failed("no repository found below %s; name a folder that is a repository or holds some", strings.Join(dirs, ", "))
	}
	progress := newProgress(s.Err, len(locations))
	assessed := make([]report.Read, len(locations))
	reads.After = func(i int, r survey.ReadRepository) { assessed[i] = survey.Judge(r, in) }
	read, err := reads.Read(cmd.Context(), locations, l.reading(), progress.step)
	progress.clear()
	if err != nil {
		return failed("the survey was stopped")
	}
	if g.verbose {
		tellSkipped(s.Err, read)
	}
	r := report.Build(Version, assessed, in)
	if err := write(s.Out, r, c, g.output); err != nil {
		return failed("the report cannot be written: %v", err)
	}
	if g.output != "text" && r.Summary.Unread > 0 {
		_ = terminal.Printf(s.Err, "%s\n", report.Unread(r))
	}
	switch {
	case g.unread(problems, locations, read):
		return &exitError{status: exitWork}
	case r.Worst() >= failLevels[g.failOn]:
		return &exitError{status: exitFindings}
	}
	return nil
}

// unread tells whether something was not read that had to be: what was named, or with
// strict anything.
func (g gate) unread(problems []error, locations []repo.Location, read []survey.ReadRepository) bool {
	for _, p := range problems {
		var closed *repo.Closed
		if g.strict || !errors.As(p, &closed) {
			return true
		}
	}
	for i, r := range read {
		if r.Unread != "" && (g.strict || locations[i].Named) {
			return true
		}
	}
	return false
}

// tellSkipped names every folder that was not read, and how much was remembered.
func tellSkipped(w io.Writer, read []survey.ReadRepository) {
	recalled, reread := 0, 0
	for _, r := range read {
		if r.Recalled {
			recalled++
		}
		reread += r.Reread
		for _, skipped := range r.Skipped {
			_ = terminal.Printf(w, "%s: not read: %s/ (%s)\n", r.Name, skipped.Folder, skipped.Why)
		}
	}
	_ = terminal.Printf(w, "%d of %d repositories had not changed since they were read before; %d files were read in the others.\n", recalled, len(read), reread)
}

func write(w io.Writer, r report.Report, c *catalogue.Catalogue, output string) error {
	if output == "json" {
		return r.WriteJSON(terminal.JSON(w))
	}
	return report.Text(w, r, c, styleFor(w))
}

func writeJSON(w io.Writer, value any) error {
	e := json.NewEncoder(terminal.JSON(w))
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(value)
}

// progress is a line on a terminal that counts repositories; elsewhere nothing.
type progress struct {
	w     io.Writer
	mark  string
	total int
	shown bool
}

func newProgress(w io.Writer, total int) *progress {
	p := &progress{total: total}
	if f, mark, ok := fileOf(w); ok {
		p.mark = mark
		if _, terminal := terminalWidth(f); terminal && os.Getenv("NO_COLOR") == "" && total > 20 {
			p.w = w
		}
	}
	return p
}

func (p *progress) step(n int, _ survey.ReadRepository) {
	if p.w != nil && (n%25 == 0 || n == p.total) {
		p.shown = true
		_, _ = fmt.Fprintf(p.w, "%sreading %d of %d repositories", p.escape("[G"), n, p.total)
	}
}

func (p *progress) escape(code string) string { return "\x1b" + p.mark + code }

func (p *progress) clear() {
	if p.shown {
		_, _ = fmt.Fprint(p.w, p.escape("[G")+p.escape("[K"))
	}
}
