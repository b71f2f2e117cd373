package cli

import (
	"cmp"
	"context"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/host/image"
	"wexo/internal/host/probe"
	"wexo/internal/report"
)

func newInventory(s Streams) *cobra.Command {
	var output string
	var which unpacked
	var by probing
	var checkouts []string
	cmd := &cobra.Command{
		Use:   "inventory",
		Short: "Find the toolchains of this machine, or of an unpacked image",
		Long: "Finds every installation of the tools that the catalogue knows: under versioned roots, in the\n" +
			"system's own places and on PATH. Versions come from the files an installation leaves; an\n" +
			"executable is asked only where no file tells, and only where nobody else may write it. With\n" +
			"--root, the machine whose files lie in that folder is probed instead, or the container image in\n" +
			"that archive or folder, and nothing is run.",
		Example: "  wexo inventory\n  wexo inventory --output json > this.json\n  wexo inventory --root ~/unpacked-image --name kiosk-image --kind image\n  wexo inventory --root kiosk-image.tar",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := oneOf("--output", output, outputs...); err != nil {
				return err
			}
			k, _, err := configured(cmd)
			if err != nil {
				return err
			}
			machine, clean, err := which.machine(cmd.Context(), time.Now())
			if err != nil {
				return err
			}
			defer clean()
			machine.Sizes, machine.Checkouts = true, checkouts
			inv := by.take(cmd.Context(), k.Catalogue, k.reader, machine)
			if output == "json" {
				return writeJSON(s.Out, inv)
			}
			return report.InventoryText(s.Out, inv, k.Catalogue, styleFor(s.Out))
		},
	}
	f := cmd.Flags()
	f.StringVar(&output, "output", "text", "write the inventory as text or json")
	by.flags(cmd)
	f.StringSliceVar(&checkouts, "checkouts", nil, "list the repositories below these `folders` too")
	which.flags(cmd)
	return cmd
}

// unpacked says which machine to probe: this one, or one whose files lie in a folder or in
// the layers of an image.
type unpacked struct{ root, name, kind, home, path, system, parent string }

func (u *unpacked) flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringVar(&u.root, "root", "", "probe the machine whose files lie in this `folder`, or the container image in this file or folder")
	f.StringVar(&u.name, "name", "", "the machine's `name`; the host's where it is missing")
	f.StringVar(&u.kind, "kind", "", "the machine's `kind`: laptop, build-agent, image, subsystem or server")
	f.StringVar(&u.parent, "parent", "", "the `name` of the machine that this one is a part of")
	f.StringVar(&u.home, "home", "", "with --root, the user's home `folder` on that machine")
	f.StringVar(&u.path, "path", "", "with --root, PATH on that machine, where its start-up files do not say it")
	f.StringVar(&u.system, "os", "", "with --root, the machine's `system` where its files do not tell: linux, darwin or windows")
}

// machine is what is to be probed. Call clean when that is done.
func (u *unpacked) machine(ctx context.Context, now time.Time) (m probe.Machine, clean func(), err error) {
	clean = func() {}
	if err := isKind(u.kind); err != nil {
		return m, clean, err
	}
	if u.system != "" {
		if err := oneOf("--os", u.system, "linux", "darwin", "windows"); err != nil {
			return m, clean, err
		}
	}
	m = probe.Local(now)
	if u.root != "" {
		if m, clean, err = u.foreign(ctx, now); err != nil {
			return m, clean, err
		}
	}
	if u.name != "" {
		m.Info.Name = u.name
	}
	if u.kind != "" {
		m.Info.Kind = u.kind
	}
	m.Info.Parent = u.parent
	return m, clean, nil
}

func (u *unpacked) foreign(ctx context.Context, now time.Time) (m probe.Machine, clean func(), err error) {
	clean = func() {}
	root, err := filepath.Abs(u.root)
	if err != nil {
		return m, clean, usage("--root %s: %v", u.root, err)
	}
	if _, err := os.Stat(root); err != nil {
		return m, clean, failed("%s: no such file or folder", u.root)
	}
	if !image.Is(root) {
		m = probe.Foreign(root, "", now)
	} else if m, clean, err = unpack(ctx, root, now); err != nil {
		return m, clean, err
	}
	if u.system != "" {
		m.Info.OS = u.system
	}
	if u.home != "" {
		m.Info.Home = u.home
	}
	if u.path != "" {
		by := ":"
		if m.Info.OS == "windows" {
			by = ";"
		}
		m.Path = strings.Split(u.path, by)
	}
	return m, clean, nil
}

// unpack unpacks a container image into a folder that clean takes away.
func unpack(ctx context.Context, at string, now time.Time) (m probe.Machine, clean func(), err error) {
	into, err := os.MkdirTemp("", "wexo-root-")
	if err != nil {
		return m, func() {}, failed("there is no place to unpack %s in: %v", at, err)
	}
	clean = func() { _ = os.RemoveAll(into) }
	about, err := image.Unpack(ctx, at, into)
	if err != nil {
		clean()
		return m, func() {}, failed("%s: %v", at, err)
	}
	m = probe.Foreign(into, about.User, now)
	m.Info.Kind, m.Path = "image", about.Path
	m.Info.Name = cmp.Or(about.Name, strings.TrimSuffix(filepath.Base(at), filepath.Ext(at)))
	m.Info.Arch, m.Info.OS = cmp.Or(about.Arch, m.Info.Arch), cmp.Or(about.OS, m.Info.OS)
	for key, value := range about.Env {
		m.Env[key] = value
	}
	if home := about.Env["HOME"]; home != "" {
		m.Info.Home = home
	}
	return m, clean, nil
}

func orDash(s string) string {
	if s == "" {
		return "—"
	}
	return s
}
