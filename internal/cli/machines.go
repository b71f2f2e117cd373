package cli

import (
	"fmt"
	"net/http"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

func newMachines(s Streams) *cobra.Command {
	var r remote
	cmd := &cobra.Command{Use: "machines", Short: "The machines of a running service"}
	r.flags(cmd)
	cmd.AddCommand(newSend(s, &r), newUnit(s, &r), newMachineList(s, &r), newMachineChanges(s, &r),
		&cobra.Command{Use: "remove NAME…", Short: "Forget machines; nothing on them changes", Example: "  wexo machines remove orchid-desk", Args: cobra.MinimumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			for _, name := range args {
				got, err := c.RemoveMachineWithResponse(cmd.Context(), name)
				if err := answered(err, got, http.StatusNoContent); err != nil {
					return err
				}
				_ = terminal.Printf(s.Err, "%s is forgotten.\n", name)
			}
			return nil
		}})
	return cmd
}

func newMachineList(s Streams, r *remote) *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List machines: when they reported, and how much can run on them", Example: "  wexo machines list", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := r.open()
		if err != nil {
			return err
		}
		got, err := c.ListMachinesWithResponse(cmd.Context())
		if err := answered(err, got, http.StatusOK); err != nil {
			return err
		}
		if r.output == "json" {
			return writeJSON(s.Out, got.JSON200)
		}
		w := tabwriter.NewWriter(s.Out, 0, 0, 2, ' ', 0)
		_, _ = fmt.Fprintln(w, "MACHINE\tKIND\tSYSTEM\tTAGS\tREADY FOR\tINSTALLATIONS\tREPORTED")
		for _, m := range got.JSON200.Machines {
			reported := m.TakenAt.UTC().Format(minutely)
			if m.Stale {
				reported += ", late"
			}
			installations := fmt.Sprint(m.Installations)
			if m.Broken > 0 {
				installations += fmt.Sprintf(", %d broken", m.Broken)
			}
			_ = terminal.Printf(w, "%s\t%s\t%s/%s\t%s\t%d of %d\t%s\t%s\n", m.Name, orDash(m.Kind), m.Os, m.Arch, orDash(strings.Join(m.Tags, ", ")), m.Ready, m.Repositories, installations, reported)
		}
		if err := w.Flush(); err != nil {
			return failed("%v", err)
		}
		for _, g := range got.JSON200.Groups {
			late := ""
			if g.Stale > 0 {
				late = fmt.Sprintf(", %d of them late", g.Stale)
			}
			_ = terminal.Printf(s.Out, "\n%s (%s): ready for %d of %s, %s%s", g.Title, g.Tag, g.Ready, sentence.Count(g.Repositories, "repository", "repositories"), sentence.Count(len(g.Machines), "machine", "machines"), late)
		}
		if len(got.JSON200.Groups) > 0 {
			_, _ = fmt.Fprintln(s.Out)
		}
		return nil
	}}
}

func newMachineChanges(s Streams, r *remote) *cobra.Command {
	var since string
	cmd := &cobra.Command{Use: "changes NAME", Short: "What came to a machine, went and changed since the inventory before, or since a day", Example: "  wexo machines changes potting-bench\n  wexo machines changes potting-bench --since 2026-11-09", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := r.open()
		if err != nil {
			return err
		}
		p := client.GetMachineChangesParams{}
		if since != "" {
			day, err := dayOf("--since", since)
			if err != nil {
				return err
			}
			p.Since = dateOf(day)
		}
		got, err := c.GetMachineChangesWithResponse(cmd.Context(), args[0], &p)
		if err := answered(err, got, http.StatusOK); err != nil {
			return err
		}
		if r.output == "json" {
			return writeJSON(s.Out, got.JSON200)
		}
		return changesText(s, *got.JSON200)
	}}
	cmd.Flags().StringVar(&since, "since", "", "compare with what it had on this `date`")
	return cmd
}

// toTheMinute is a time of the API for people; the text itself where it is none.
func toTheMinute(text string) string {
	at, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return text
	}
	return at.UTC().Format(minutely)
}

// minutely is how times are told, in UTC.
const minutely = "2006-01-02 15:04"

func changesText(s Streams, c client.MachineChanges) error {
	if c.From == "" {
		return terminal.Printf(s.Out, "%s: nothing older is kept to compare with.\n", c.Machine)
	}
	_ = terminal.Printf(s.Out, "%s, from %s to %s\n", c.Machine, toTheMinute(c.From), toTheMinute(c.To))
	if len(c.Came)+len(c.Went)+len(c.Changed) == 0 {
		return terminal.Printf(s.Out, "  nothing has changed\n")
	}
	for _, x := range c.Came {
		_ = terminal.Printf(s.Out, "  + %s %s %s\n", x.Title, x.Now, whatOf(x))
	}
	for _, x := range c.Went {
		_ = terminal.Printf(s.Out, "  - %s %s %s\n", x.Title, x.Before, whatOf(x))
	}
	for _, x := range c.Changed {
		_ = terminal.Printf(s.Out, "  ~ %s %s: %s, was %s\n", x.Title, whatOf(x), x.Now, x.Before)
	}
	return nil
}

// whatOf says what a change is of.
func whatOf(c client.Change) string {
	switch c.What {
	case client.ChangeWhatInstallation:
		return "at " + c.Path
	case client.ChangeWhatHealth:
		return "health of " + c.Path
	case client.ChangeWhatPath:
		return "on PATH"
	case client.ChangeWhatDefault:
		return "by default, from " + c.Path
	case client.ChangeWhatOverride:
		return "by the variable " + c.Path
	}
	return "by the proxy " + c.Path
}
