package cli

import (
	"net/http"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/assess"
	"wexo/internal/core/reading"
	"wexo/internal/core/unseen"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/survey"
)

func newReconcile(s Streams) *cobra.Command {
	var l looking
	var by freshness
	var r remote
	var all bool
	cmd := &cobra.Command{
		Use:   "reconcile REPOSITORY[:FOLDER]",
		Short: "Show whether all tools of a folder can hold together, and which versions would",
		Long: "Weighs pins, bounds, lock files, rules and baselines of a folder together. Where they cannot all\n" +
			"hold, prints the smallest choice of them that cannot, each with its place. Then prints the versions\n" +
			"that would hold: supported, for as long as the repository is meant to live, with the fewest changes,\n" +
			"on the most machines. With --all, looks at every folder of every repository below the folders given\n" +
			"and ranks the changes that settle most. Exit status: 0 all can hold, 1 it cannot, 3 the work could\n" +
			"not be done, or it was not decided.",
		Example: "  wexo reconcile ~/work/seed-ledger\n  wexo reconcile ~/work/garden:kiosk --output json\n  wexo reconcile --all ~/work",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := oneOf("--output", r.output, outputs...); err != nil {
				return err
			}
			switch {
			case all:
				return reconcileAll(cmd, s, l, by, args, r.output)
			case len(args) > 1:
				return usage("name one repository, or give --all for all below some folders")
			case r.server != "" || asksService(args[0]):
				return reconcileOnServer(cmd, s, r, args[0])
			}
			return reconcileOne(cmd, s, l, by, args[0], r.output)
		},
	}
	l.flags(cmd)
	by.flags(cmd)
	f := cmd.Flags()
	f.BoolVar(&all, "all", false, "look at every folder of every repository below the folders given")
	f.StringVar(&r.output, "output", "text", "write the answer as text or json")
	f.StringVar(&r.server, "server", "", "ask a running service at this `URL`; REPOSITORY is then a name")
	f.StringVar(&r.token, "token", "", "the service's token (or WEXO_TOKEN)")
	return cmd
}

func reconcileOne(cmd *cobra.Command, s Streams, l looking, by freshness, arg, output string) error {
	got, folder, _, err := takeOne(cmd, l, by, arg)
	if err != nil {
		return err
	}
	result := got.judge.Reads[0].Result
	viewed, joint := got.estate.Reconciling(got.judge).Folder(result, folder)
	if viewed == nil {
		return failed("%s says nothing of any tool there", result.Name)
	}
	answer := got.judge.Report(Version).NewReconciled(result, viewed, joint, got.judge.Day)
	answer.Unseen = unseen.For(got.judge.Gaps(), viewed.Folder, "")
	return writeReconciled(s, answer, output)
}

func writeReconciled(s Streams, r report.Reconciled, output string) error {
	var err error
	if output == "json" {
		err = writeJSON(s.Out, r)
	} else {
		err = report.ReconciledText(s.Out, r, styleFor(s.Out))
	}
	switch {
	case err != nil:
		return failed("the answer cannot be written: %v", err)
	case !r.Decided:
		return &exitError{status: exitWork}
	case !r.Feasible:
		return ending(r.Unseen, &exitError{status: exitFindings}, false)
	}
	return ending(r.Unseen, nil, false)
}

func reconcileAll(cmd *cobra.Command, s Streams, l looking, by freshness, dirs []string, output string) error {
	var below found
	l.named = dirs
	got, _, err := take(cmd, l, by, func(reader *reading.Reader) ([]repo.Location, error) {
		var err error
		below, err = discover(s, reader, dirs)
		return below.locations, err
	}, func(int) func(int, survey.ReadRepository) { return nil })
	if err != nil {
		return err
	}
	tellTaken(cmd, got)
	out := report.NewSettling(got.judge.Day, len(got.judge.Reads))
	words, reconciling := got.judge.Report(Version), got.estate.Reconciling(got.judge)
	for _, read := range got.judge.Reads {
		reconciling.Each(cmd.Context(), read.Result, func(v *assess.Viewed, j *assess.Joint) {
			out.Add(words.NewReconciled(read.Result, v, j, got.judge.Day))
		})
	}
	if cmd.Context().Err() != nil {
		return failed("the search was stopped")
	}
	out.Unseen = append(got.judge.Gaps(), below.gaps...)
	unseen.Sort(out.Unseen)
	out.Rank()
	if output == "json" {
		err = writeJSON(s.Out, out)
	} else {
		err = report.SettlingText(s.Out, out, styleFor(s.Out))
	}
	var answer error
	switch {
	case err != nil:
		return failed("the answer cannot be written: %v", err)
	case out.Apart > 0:
		answer = &exitError{status: exitFindings}
	case out.Undecided > 0:
		answer = &exitError{status: exitWork}
	}
	return ending(out.Unseen, answer, false)
}

// reconcileOnServer prints the joint answer of a repository that a running service knows.
func reconcileOnServer(cmd *cobra.Command, s Streams, r remote, repository string) error {
	api, err := r.open()
	if err != nil {
		return err
	}
	name, folder := splitRepository(repository)
	p := client.GetTogetherParams{Folder: &folder}
	if p.AsOf, err = givenDay(cmd); err != nil {
		return err
	}
	got, err := api.GetTogetherWithResponse(cmd.Context(), name, &p)
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	answer, err := recast[report.Reconciled](*got.JSON200)
	if err != nil {
		return err
	}
	return writeReconciled(s, answer, r.output)
}
