package cli

import (
	"fmt"
	"io"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
)

func newInventory(s Streams) *cobra.Command {
	var output string
	cmd := &cobra.Command{
		Use:   "inventory",
		Short: "Find the toolchains of this machine",
		Long: "Finds every installation of the tools that the catalogue knows: under versioned roots, in the\n" +
			"system's own places and on PATH. Versions come from the files an installation leaves; an\n" +
			"executable is asked only where no file tells.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, reader, err := knowledge()
			if err != nil {
				return err
			}
			inv := probe.Take(cmd.Context(), c, reader, probe.Local(time.Now()))
			switch output {
			case "json":
				return writeJSON(s.Out, inv)
			case "text":
				return inventoryText(s.Out, inv, c)
			}
			return usage("--output %q: text and json are written", output)
		},
	}
	cmd.Flags().StringVar(&output, "output", "text", "write the inventory as text or json")
	return cmd
}

func inventoryText(w io.Writer, inv inventory.Inventory, c *catalogue.Catalogue) error {
	fmt.Fprintf(w, "%s: %d installations\n", inv.Machine.Name, len(inv.Installations))
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	m := inventory.NewMachine(inv, c)
	for _, tool := range c.Tools() {
		list := m.Installed(tool.Name)
		first, onPath := m.FirstOnPath(tool.Name)
		if len(list) == 0 && !onPath {
			continue
		}
		fmt.Fprintf(t, "\n%s\t\t\t\n", tool.Title)
		for _, in := range list {
			words := []string{in.Origin}
			for _, word := range []string{in.Vendor, in.Package} {
				if word != "" {
					words = append(words, word)
				}
			}
			if in.Health != "good" {
				words = append(words, in.Health+": "+in.HealthReason)
			}
			fmt.Fprintf(t, "  %s\t%s\t%s\n", orDash(in.Version), in.Path, strings.Join(words, ", "))
		}
		for _, line := range chosen(m, tool.Name, first, onPath) {
			fmt.Fprintf(t, "  %s\n", line)
		}
	}
	return t.Flush()
}

// chosen says what decides outside repositories: overrides, the default, PATH.
func chosen(m *inventory.Machine, tool string, first inventory.OnPath, onPath bool) []string {
	var out []string
	if o, ok := m.Override(tool); ok {
		out = append(out, fmt.Sprintf("overridden by %s=%s", o.Variable, o.Raw))
	}
	if d, ok := m.Default(tool); ok {
		out = append(out, fmt.Sprintf("default %s, from %s", d.Raw, d.Source))
	}
	if onPath {
		line := fmt.Sprintf("first on PATH: %s at %s", orDash(first.Version), first.Path)
		if first.Shim {
			line += " (a shim)"
		}
		out = append(out, line)
	}
	return out
}

func orDash(s string) string {
	if s == "" {
		return "—"
	}
	return s
}
