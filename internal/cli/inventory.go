package cli

import (
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
	"wexo/internal/terminal"
)

func newInventory(s Streams) *cobra.Command {
	var output string
	var image unpacked
	cmd := &cobra.Command{
		Use:   "inventory",
		Short: "Find the toolchains of this machine, or of an unpacked image",
		Long: "Finds every installation of the tools that the catalogue knows: under versioned roots, in the\n" +
			"system's own places and on PATH. Versions come from the files an installation leaves; an\n" +
			"executable is asked only where no file tells. With --root, the machine whose files lie in that\n" +
			"folder is probed instead, and nothing is run.",
		Example: "  wexo inventory\n  wexo inventory --output json > this.json\n  wexo inventory --root ./unpacked-image --name kiosk-image --kind image --home /root",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			k, _, err := configured(cmd)
			if err != nil {
				return err
			}
			machine, err := image.machine(time.Now())
			if err != nil {
				return err
			}
			inv := probe.Take(cmd.Context(), k.Catalogue, k.reader, machine)
			switch output {
			case "json":
				return writeJSON(s.Out, inv)
			case "text":
				return inventoryText(s.Out, inv, k.Catalogue)
			}
			return usage("--output %q: text and json are written", output)
		},
	}
	f := cmd.Flags()
	f.StringVar(&output, "output", "text", "write the inventory as text or json")
	f.StringVar(&image.root, "root", "", "probe the machine whose files lie in this `folder`")
	f.StringVar(&image.name, "name", "", "the machine's `name`; the host's where it is missing")
	f.StringVar(&image.kind, "kind", "", "the machine's `kind`: laptop, build-agent, image, subsystem or server")
	f.StringVar(&image.home, "home", "/root", "with --root, the user's home `folder` on that machine")
	f.StringVar(&image.path, "path", "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin", "with --root, PATH on that machine")
	return cmd
}

// unpacked says which machine to probe: this one, or one whose files lie in a folder.
type unpacked struct{ root, name, kind, home, path string }

func (u unpacked) machine(now time.Time) (probe.Machine, error) {
	m := probe.Local(now)
	if u.root != "" {
		root, err := filepath.Abs(u.root)
		if err != nil || !isFolder(root) {
			return m, failed("%s: no such folder", u.root)
		}
		m.Files, m.Run, m.Env, m.Info.Home, m.Path = root, false, nil, u.home, strings.Split(u.path, ":")
		m.Info.Name, m.Info.Arch = filepath.Base(root), ""
	}
	if u.name != "" {
		m.Info.Name = u.name
	}
	m.Info.Kind = u.kind
	return m, nil
}

func inventoryText(w io.Writer, inv inventory.Inventory, c *catalogue.Catalogue) error {
	_ = terminal.Printf(w, "%s: %d installations\n", inv.Machine.Name, len(inv.Installations))
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	m := inventory.NewMachine(inv, c)
	for _, tool := range c.Tools() {
		list := m.Installed(tool.Name)
		first, onPath := m.FirstOnPath(tool.Name)
		if len(list) == 0 && !onPath {
			continue
		}
		_ = terminal.Printf(t, "\n%s\t\t\t\n", tool.Title)
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
			_ = terminal.Printf(t, "  %s\t%s\t%s\n", orDash(in.Version), in.Path, strings.Join(words, ", "))
		}
		for _, line := range chosen(m, tool.Name, first, onPath) {
			_ = terminal.Printf(t, "  %s\n", line)
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
