package cli

import (
	"context"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/host/probe"
)

// probing says how this machine is probed.
type probing struct {
	noRun bool
	bare  bool // as if no variable chose a version
}

func (p *probing) flags(cmd *cobra.Command) {
	cmd.Flags().BoolVar(&p.noRun, "no-run", false, "run nothing at all: a version that no file tells stays unknown")
}

// take probes a machine, and remembers what its executables said.
func (p probing) take(ctx context.Context, c *catalogue.Catalogue, r *reading.Reader, m probe.Machine) inventory.Inventory {
	m.Run = m.Run && !p.noRun
	if dir, err := os.UserCacheDir(); err == nil && m.Run { // without one nothing is remembered
		m.Said = probe.OpenSaid(filepath.Join(dir, "wexo", "said.json"))
		defer func() { _ = m.Said.Close() }() // who said nothing is asked again
	}
	return probe.Take(ctx, c, r, m)
}

// local probes this machine for some tools, or for all where tools is nil; nothing in the
// folders that are surveyed is run.
func (p probing) local(ctx context.Context, c *catalogue.Catalogue, r *reading.Reader, tools, surveyed []string, sizes bool) inventory.Inventory {
	m := probe.Local(time.Now())
	m.Tools, m.Avoid, m.Sizes, m.Bare = tools, surveyed, sizes, p.bare
	return p.take(ctx, c, r, m)
}

// whole probes this machine for all tools, with the sizes of what they take.
func (p probing) whole(ctx context.Context, k known, checkouts []string) inventory.Inventory {
	m := probe.Local(time.Now())
	m.Sizes, m.Checkouts = true, checkouts
	return p.take(ctx, k.Catalogue, k.reader, m)
}
