package cli

import (
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/host/probe"
	"wexo/internal/report"
)

func newInventory(s Streams) *cobra.Command {
	var output string
	var image unpacked
	var by probing
	var checkouts []string
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
			machine.Sizes, machine.Checkouts = true, checkouts
			inv := by.take(cmd.Context(), k.Catalogue, k.reader, machine)
			switch output {
			case "json":
				return writeJSON(s.Out, inv)
			case "text":
				return report.InventoryText(s.Out, inv, k.Catalogue, styleFor(s.Out))
			}
			return usage("--output %q: text and json are written", output)
		},
	}
	f := cmd.Flags()
	f.StringVar(&output, "output", "text", "write the inventory as text or json")
	by.flags(cmd)
	f.StringSliceVar(&checkouts, "checkouts", nil, "list the repositories below these `folders` too")
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

func orDash(s string) string {
	if s == "" {
		return "—"
	}
	return s
}
