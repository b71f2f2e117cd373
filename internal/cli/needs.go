package cli

import (
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/remedy"
	"wexo/internal/core/unseen"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/survey"
)

// needsOutputs are the forms in which needs are written.
var needsOutputs = []string{"text", "json", "markdown", "list"}

func newNeeds(s Streams) *cobra.Command {
	var l looking
	var by freshness
	var r remote
	cmd := &cobra.Command{
		Use:   "needs [MACHINE] [REPOSITORY…]",
		Short: "What to install on a machine so that repositories run there, and what could go",
		Long: "Lists what a machine lacks, a toolchain a line, with who asks for it and the version to take: the\n" +
			"newest supported one that all who ask admit, with as few installations as will do, and rules kept.\n" +
			"Then lists the installations that serve none of the repositories and that nothing on the machine\n" +
			"points at, with their sizes and what would go with them. Without MACHINE it is this machine, or\n" +
			"the one of --inventory; without REPOSITORY the folder one is in. With --server, MACHINE is one of\n" +
			"a running service's, and its repositories are meant, or those named.",
		Example: "  wexo needs\n  wexo needs ~/work --output markdown\n  wexo needs --inventory agent.json ~/work --output list\n  wexo needs --server http://127.0.0.1:8420 seed-agent",
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := oneOf("--output", r.output, needsOutputs...); err != nil {
				return err
			}
			if r.server != "" || len(args) > 0 && asksService(args[0]) {
				return needsOnServer(cmd, s, r, args)
			}
			return runNeeds(cmd, s, l, by, args, r.output)
		},
	}
	l.flags(cmd)
	by.flags(cmd)
	cmd.Flags().StringVar(&r.output, "output", "text", "write text, json, markdown (a checklist) or list (tool, version, vendor and kind, parted by tabs)")
	cmd.Flags().StringVar(&r.server, "server", "", "ask a running service at this `URL`")
	cmd.Flags().StringVar(&r.token, "token", "", "the service's token (or WEXO_TOKEN)")
	return cmd
}

func runNeeds(cmd *cobra.Command, s Streams, l looking, by freshness, args []string, output string) error {
	name := ""
	if len(args) > 0 && !isFolder(args[0]) {
		name, args = args[0], args[1:]
	}
	if len(args) == 0 {
		args = []string{"."}
	}
	l.whole, l.named = true, args
	var below found
	got, c, err := take(cmd, l, by, func(reader *reading.Reader) ([]repo.Location, error) {
		var err error
		below, err = discover(s, reader, args)
		return below.locations, err
	}, func(int) func(int, survey.ReadRepository) { return nil })
	if err != nil {
		return err
	}
	machines := got.judge.Fleet.Machines
	at := 0
	if name != "" {
		at = slices.IndexFunc(machines, func(m *inventory.Machine) bool { return m.Name() == name })
	} else if len(machines) > 1 {
		return usage("several inventories are given; name the machine that is meant: wexo needs MACHINE …")
	}
	if at < 0 {
		return usage("there is no folder and no machine %q; machines are %s", name, namesOf(machines))
	}
	results := make([]*assess.Result, len(got.judge.Reads))
	for i, read := range got.judge.Reads {
		results[i] = read.Result
	}
	needs, err := remedy.Of(cmd.Context(), got.judge.Needing(results, at))
	if err != nil {
		return failed("the search for what is needed was stopped")
	}
	said := report.NewNeeds(needs, machines[at].Name(), got.judge.Day)
	said.Taken = report.TakenOf(got.judge.Reads)
	said.Unseen = append(report.UnseenOn(got.judge.Reads, at), below.gaps...)
	unseen.Sort(said.Unseen)
	if err := writeNeeds(s, said, c, output); err != nil {
		return failed("what is needed cannot be written: %v", err)
	}
	if output == "json" || output == "list" {
		tellUnseen(s, said.Unseen)
	}
	return needed(said)
}

func namesOf(machines []*inventory.Machine) string {
	var out []string
	for _, m := range machines {
		out = append(out, m.Name())
	}
	return strings.Join(out, ", ")
}

func writeNeeds(s Streams, n report.Needs, c *catalogue.Catalogue, output string) error {
	switch output {
	case "json":
		return writeJSON(s.Out, n)
	case "markdown":
		return report.NeedsMarkdown(s.Out, n, c)
	case "list":
		return report.NeedsList(s.Out, n)
	}
	return report.NeedsText(s.Out, n, c, styleFor(s.Out))
}

// needsOnServer asks a service for the needs of one of its machines.
func needsOnServer(cmd *cobra.Command, s Streams, r remote, args []string) error {
	if len(args) == 0 {
		return usage("name one of the service's machines: wexo needs MACHINE; wexo machines list shows them")
	}
	output := r.output
	r.output = "json"
	api, err := r.open()
	if err != nil {
		return err
	}
	p := client.GetMachineNeedsParams{}
	if len(args) > 1 {
		rest := args[1:]
		p.Repository = &rest
	}
	if p.AsOf, err = givenDay(cmd); err != nil {
		return err
	}
	got, err := api.GetMachineNeedsWithResponse(cmd.Context(), args[0], &p)
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	n, err := recast[report.Needs](got.JSON200)
	if err != nil {
		return err
	}
	k, err := knowledge()
	if err != nil {
		return err
	}
	if err := writeNeeds(s, n, k.Catalogue, output); err != nil {
		return failed("what is needed cannot be written: %v", err)
	}
	if output == "json" || output == "list" {
		tellUnseen(s, n.Unseen)
	}
	return needed(n)
}

// needed is the exit status that needs call for: of a machine to which nothing matters that was
// read it is not known what it needs.
func needed(n report.Needs) error {
	if n.Asking == 0 {
		return &exitError{status: exitWork}
	}
	return ending(n.Unseen, nil, false)
}
