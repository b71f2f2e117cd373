package cli

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/core/userrule"
	"wexo/internal/host/probe"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/survey"
	"wexo/internal/terminal"
)

// looking are the options that say what to read and from where it is seen.
type looking struct {
	inventories []string
	ref         string
	worktree    bool
	named       []string // the folders that a command is pointed at
	whole       bool     // this machine is probed for all tools, with sizes
	part        bool     // only some of the repositories that lie there are looked at
	probing
}

func (l *looking) flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringArrayVar(&l.inventories, "inventory", nil, "judge against the machine in this inventory `file` instead of this one; may be repeated")
	f.String("as-of", "", "judge as of this `date` (2026-11-16) instead of today")
	f.StringVar(&l.ref, "ref", "", "read this git `ref` instead of HEAD")
	f.BoolVar(&l.worktree, "worktree", false, "read the working tree, uncommitted and ignored files too")
	l.probing.flags(cmd)
	cmd.MarkFlagsMutuallyExclusive("ref", "worktree")
}

func (l *looking) reading() repo.Reading { return repo.Reading{Ref: l.ref, Worktree: l.worktree} }

// machines are those of the inventory files; without any, this machine is probed for what
// its repositories ask for, and local is it.
func (l *looking) machines(ctx context.Context, c *catalogue.Catalogue, r *reading.Reader, entries []survey.Entry) (all []*inventory.Machine, local *inventory.Machine, err error) {
	if len(l.inventories) == 0 {
		tools := survey.Tools(entries)
		if l.whole {
			tools = nil
		}
		local = inventory.NewMachine(l.local(ctx, c, r, tools, append(survey.Folders(entries), foldersOf(l.named)...), l.whole), c)
		local.Followed = probe.Followed(local, survey.Paths(entries))
		return []*inventory.Machine{local}, local, nil
	}
	for _, file := range l.inventories {
		inv, err := readInventory(ctx, file)
		if err != nil {
			return nil, nil, err
		}
		if slices.ContainsFunc(all, func(m *inventory.Machine) bool { return m.Name() == inv.Machine.Name }) {
			return nil, nil, usage("%s: another inventory given is of the machine %q too", file, inv.Machine.Name)
		}
		all = append(all, inventory.NewMachine(inv, c))
	}
	slices.SortFunc(all, func(a, b *inventory.Machine) int { return strings.Compare(a.Name(), b.Name()) })
	return all, nil, nil
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

// outputs are the forms in which results are written.
var outputs = []string{"text", "json"}

func newSurvey(s Streams) *cobra.Command {
	var l looking
	var by freshness
	var g gate
	var only choosing
	var r remote
	cmd := &cobra.Command{
		Use:   "survey DIR…",
		Short: "Read every repository under the folders and report",
		Long: "Reads every repository under the folders and reports what is missing, mismatched or out of\n" +
			"support. A folder that is a repository is taken itself, otherwise every repository below it.\n" +
			"Few repositories are shown one by one; of many, the causes are, those that touch most first.\n" +
			"Nothing of a repository is run. Exit status: 0 nothing at or above --fail-on, 1 findings at or\n" +
			"above it, 2 wrong usage, 3 something was not found, not read or not decided, so that what rests on\n" +
			"it is not known: what could not be had at all in any case, what cannot be understood where nothing\n" +
			"was found and --fail-on is not never. With --server, a running service surveys its own\n" +
			"repositories, and its report is printed and judged in the same way.",
		Example: "  wexo survey ~/work\n  wexo survey --inventory agent.json --as-of 2027-05-01 ~/work\n  wexo survey --class end-of-life,support-ending --tool node ~/work\n  wexo survey --worktree --output json ~/work/shop | jq .summary",
		RunE: func(cmd *cobra.Command, args []string) error {
			remote := r.server != "" || len(args) == 0 && os.Getenv("WEXO_SERVER") != ""
			if len(args) == 0 && !remote {
				return usage("name a folder with repositories: wexo survey DIR…")
			}
			if slices.Contains(args, "") {
				return usage("a folder's name is empty; name the folder that is meant, or . for this one")
			}
			if err := oneOf("--output", r.output, outputs...); err != nil {
				return err
			}
			if err := oneOf("--fail-on", g.failOn, append(severities, "never")...); err != nil {
				return err
			}
			if err := only.check(); err != nil {
				return err
			}
			g.output = r.output
			if remote {
				return surveyOnServer(cmd, s, r, g, only, args)
			}
			return runSurvey(cmd, s, l, by, args, g, only)
		},
	}
	l.flags(cmd)
	by.flags(cmd)
	only.flags(cmd)
	cmd.Flags().BoolVar(&g.each, "each", false, "print every finding, those of test data, examples and vendored code too, instead of their causes")
	cmd.Flags().BoolVar(&g.verbose, "verbose", false, "also tell what was not read or not understood, and why")
	cmd.Flags().BoolVar(&g.strict, "strict", false, "count what repositories' own rules take away")
	cmd.Flags().StringVar(&r.output, "output", "text", "write the report as text or json")
	cmd.Flags().StringVar(&g.failOn, "fail-on", "error", "exit with 1 where a finding is at or above: error, warning, note or never")
	cmd.Flags().StringVar(&r.server, "server", "", "survey the repositories of a running service at this `URL` instead")
	cmd.Flags().StringVar(&r.token, "token", "", "the service's token (or WEXO_TOKEN)")
	return cmd
}

// gate is how a survey is told of, and what makes it fail.
type gate struct {
	output, failOn  string
	verbose, strict bool
	each            bool
}

// judged is the exit status that a report calls for.
func (g gate) judged(s report.Summary) error {
	worst := s.Worst()
	if g.strict { // no repository turns its own gate green
		worst = max(worst, s.Taken.Worst())
	}
	if worst >= failLevels[g.failOn] {
		return &exitError{status: exitFindings}
	}
	return nil
}

// ballast is memory that is never touched and so takes none, but lets the collector begin
// later, in bytes: a survey of some thousand repositories makes little that can be collected.
const ballast = 48 << 20

// surveyed is a survey that was read and judged.
type surveyed struct {
	read   []survey.ReadRepository
	judge  *survey.Judgement
	estate *survey.Estate

	rules   userrule.Rules // of the configuration
	config  string         // its file
	entries []survey.Entry
	local   *inventory.Machine // the machine itself; nil where inventories were given
}

// take reads repositories and judges them against the machines.
func take(cmd *cobra.Command, l looking, by freshness, find func(*reading.Reader) ([]repo.Location, error), step func(total int) func(int, survey.ReadRepository)) (surveyed, *catalogue.Catalogue, error) {
	ctx := cmd.Context()
	var out surveyed
	k, cfg, err := configured(cmd, l.named...)
	if err != nil {
		return out, nil, err
	}
	c, reader := k.Catalogue, k.reader
	day, err := cfg.day()
	if err != nil {
		return out, c, err
	}
	reads, err := by.reader(ctx, c, reader, cfg)
	if err != nil {
		return out, c, err
	}
	defer reads.Close()
	reads.Workers.Begin()
	locations, err := find(reader)
	if err != nil {
		return out, c, err
	}
	estate := survey.NewEstate(k.Book, cfg.Policy)
	estate.Rules, estate.File = cfg.Rules, filepath.Base(cfg.file)
	estate.Part = survey.Part{Repositories: l.part || !slices.ContainsFunc(locations, func(l repo.Location) bool { return !l.Named }), Machines: len(l.inventories) == 0}
	out.estate, out.rules, out.config = estate, cfg.Rules, cfg.file
	entries := make([]survey.Entry, len(locations))
	reads.After = func(i int, r survey.ReadRepository) { entries[i] = estate.Prepare(r) }
	out.read, err = reads.Read(ctx, locations, l.reading(), step(len(locations)))
	if err != nil || ctx.Err() != nil {
		return out, c, failed("the survey was stopped")
	}
	machines, local, err := l.machines(ctx, c, reader, entries)
	if err != nil {
		return out, c, err
	}
	out.entries, out.local = entries, local
	out.judge, err = estate.Judge(ctx, entries, estate.Fleet(machines, nil), day, nil)
	if err != nil || ctx.Err() != nil {
		return out, c, failed("the survey was stopped")
	}
	return out, c, nil
}

func runSurvey(cmd *cobra.Command, s Streams, l looking, by freshness, dirs []string, g gate, only choosing) error {
	untouched := make([]byte, ballast)
	defer runtime.KeepAlive(untouched)
	var below found
	var shown *progress
	var chosen assess.Choice
	l.named, l.part = dirs, only.repositories != nil
	got, c, err := take(cmd, l, by, func(reader *reading.Reader) ([]repo.Location, error) {
		var err error
		if below, err = discover(s, reader, dirs); err != nil {
			return nil, err
		}
		if chosen, err = only.of(reader.Catalogue()); err != nil {
			return nil, err
		}
		below.locations, err = only.among(below.locations)
		return below.locations, err
	}, func(total int) func(int, survey.ReadRepository) {
		shown = newProgress(s.Err, total)
		return shown.step
	})
	if shown != nil {
		shown.clear()
	}
	if err != nil {
		return err
	}
	tellPassedOver(s.Err, got.local)
	if g.verbose {
		tellSkipped(s.Err, got.read)
		if below.named() { // of an estate it is a finding
			tellIdle(s.Err, got)
		}
	}
	r := got.judge.Report(Version)
	r.NotSeen(below.gaps)
	if got.local != nil || only.repositories != nil {
		r.WithoutUnneeded() // a few repositories do not tell what else a machine is for
	}
	if err := only.tagged(got.entries); err != nil {
		return err
	}
	all := r.Summary.Count()
	r.Only(chosen)
	if err := write(s.Out, r, c, g); err != nil {
		return failed("the report cannot be written: %v", err)
	}
	if left := only.said(); left != "" {
		_ = terminal.Printf(s.Err, "%s: %d of %s; the others are not told and fail no gate.\n", left, r.Summary.Count(), sentence.Count(all, "finding", "findings"))
	}
	gaps := r.Unseen()
	if g.output != "text" {
		if r.Summary.Unread > 0 {
			_ = terminal.Printf(s.Err, "%s\n", report.Unread(r.Summary))
		}
		tellUnseen(s, gaps)
	}
	if g.output != "text" && r.Summary.Taken.Repositories > 0 {
		_ = terminal.Printf(s.Err, "%s\n", report.TakenBy(r.Summary))
	}
	if cmd.Context().Err() != nil {
		return failed("the survey was stopped")
	}
	return g.ending(r.Summary, gaps)
}

// ending is the exit status that a report calls for, with what was not seen.
func (g gate) ending(s report.Summary, gaps []unseen.Gap) error {
	return ending(gaps, g.judged(s), g.failOn == "never")
}

func write(w io.Writer, r *report.Report, c *catalogue.Catalogue, g gate) error {
	if g.output == "json" {
		return r.WriteJSON(terminal.JSON(w))
	}
	return report.Text(w, r.Telling(), c, styleFor(w), g.each)
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
		_, _ = fmt.Fprintf(p.w, "%sreading %d of %s", p.escape("[G"), n, sentence.Count(p.total, "repository", "repositories"))
	}
}

func (p *progress) escape(code string) string { return "\x1b" + p.mark + code }

func (p *progress) clear() {
	if p.shown {
		_, _ = fmt.Fprint(p.w, p.escape("[G")+p.escape("[K"))
	}
}

// foldersOf are the folders that arguments name, with links followed.
func foldersOf(args []string) []string {
	var out []string
	for _, arg := range args {
		if at, err := realFolder(arg); err == nil {
			out = append(out, filepath.ToSlash(at))
		}
	}
	return out
}
