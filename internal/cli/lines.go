package cli

import (
	"fmt"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

func newLines(s Streams) *cobra.Command {
	cmd := &cobra.Command{
		Use:     "lines [TOOL]",
		Short:   "Show release lines with their support phases",
		Example: "  wexo lines\n  wexo lines node\n  wexo lines python --as-of 2027-05-01",
		Args:    cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, cfg, err := configured(cmd)
			if err != nil {
				return err
			}
			today, err := cfg.day()
			if err != nil {
				return err
			}
			c := k.Catalogue
			tools := c.Tools()
			if len(args) == 1 {
				tool, err := toolNamed(c, args[0])
				if err != nil {
					return err
				}
				tools = []*catalogue.Tool{tool}
			}
			w := tabwriter.NewWriter(s.Out, 0, 0, 2, ' ', 0)
			_, _ = fmt.Fprintln(w, "TOOL\tLINE\tNAME\tRELEASED\tSUPPORT ENDS\tPHASE")
			on := day.On(today)
			for _, tool := range tools {
				for _, l := range tool.Lines {
					_ = terminal.Printf(w, "%s\t%s\t%s\t%s\t%s\t%s\n", tool.Name, l.Line, orDash(l.Name), l.Released.Format(time.DateOnly), endText(l), l.PhaseOn(on))
				}
			}
			return w.Flush()
		},
	}
	cmd.Flags().String("as-of", "", "tell the phases on this `date` instead of today")
	return cmd
}

func endText(l *catalogue.Line) string {
	switch waits := l.Awaits(); {
	case waits > 0:
		return "when " + sentence.Count(waits, "newer one is out", "newer ones are out")
	case l.End.IsZero():
		return "not announced"
	}
	return l.End.Format(time.DateOnly)
}
