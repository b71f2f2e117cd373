package cli

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"math/rand/v2"
	"net/http"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/inventory"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

// sending says what is sent, and how often.
type sending struct {
	probing
	name, kind, parent string
	checkouts          []string
	every              time.Duration
	reported           time.Duration // how often something else has it sent
}

func newSend(s Streams, r *remote) *cobra.Command {
	var by sending
	cmd := &cobra.Command{
		Use:   "send [INVENTORY…]",
		Short: "Send this machine's inventory, or those in files; - is standard input",
		Long: "Probes this machine and sends what it has to a running service, or sends the inventories in files,\n" +
			"of which - is standard input. With --every it keeps doing that: at a time that differs a little\n" +
			"from machine to machine, and less often while the service does not answer.",
		Example: "  wexo machines send\n  wexo machines send --every 6h --checkouts ~/work   # until stopped\n  wexo inventory --root image.tar --output json | wexo machines send -",
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := isKind(by.kind); err != nil {
				return err
			}
			c, err := r.open()
			if err != nil {
				return err
			}
			switch {
			case by.reported != 0 && (by.every != 0 || by.reported < time.Minute):
				return usage("--reported-every %s: a minute is the least, and --every tells the same", by.reported)
			case by.every == 0:
				return by.once(cmd.Context(), s, c, args)
			case len(args) > 0:
				return usage("--every probes this machine each time; leave the files out")
			case by.every < time.Minute:
				return usage("--every %s: a minute is the least", by.every)
			}
			ctx := cmd.Context()
			keep(ctx, by.every, func() error { return by.once(ctx, s, c, nil) }, func(err error) { _ = terminal.Printf(s.Err, "wexo: %v\n", err) })
			return nil
		},
	}
	by.probing.flags(cmd)
	f := cmd.Flags()
	f.StringVar(&by.name, "name", "", "send it under this `name` instead of the host's")
	f.StringVar(&by.kind, "kind", "", "the machine's `kind`: laptop, build-agent, image, subsystem or server")
	f.StringVar(&by.parent, "parent", "", "the `name` of the machine that this one is a part of")
	f.StringSliceVar(&by.checkouts, "checkouts", nil, "tell which repositories lie below these `folders`: a laptop matters to those that it holds")
	f.DurationVar(&by.every, "every", 0, "keep sending, once in this `time` (6h)")
	f.DurationVar(&by.reported, "reported-every", 0, "send once, and tell that something else has it sent once in this `time`: a machine that is late is told sooner")
	return cmd
}

// isKind refuses a kind of machines that there is not; none need be given.
func isKind(kind string) error {
	if kind == "" {
		return nil
	}
	return oneOf("--kind", kind, inventory.Kinds[1:]...)
}

// once sends one time.
func (by sending) once(ctx context.Context, s Streams, c *client.ClientWithResponses, files []string) error {
	inventories, err := by.inventories(ctx, s, files)
	if err != nil {
		return err
	}
	for _, inv := range inventories {
		if err := send(ctx, s, c, inv); err != nil {
			return err
		}
	}
	return nil
}

func send(ctx context.Context, s Streams, c *client.ClientWithResponses, inv inventory.Inventory) error {
	body, err := json.Marshal(inv)
	if err != nil {
		return failed("%v", err)
	}
	got, err := c.SendInventoryWithBodyWithResponse(ctx, "application/json", bytes.NewReader(body))
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	_ = terminal.Printf(s.Err, "%s: %s sent.\n", got.JSON200.Name, sentence.Count(got.JSON200.Installations, "installation", "installations"))
	return nil
}

// Waiting after a failure: at first so long, then twice as long each time, and never longer
// than what lies between two reports.
const firstWait = 30 * time.Second

// keep does something once in a while until the context ends. What fails is told and tried
// again.
func keep(ctx context.Context, every time.Duration, once func() error, tell func(error)) {
	wait := firstWait
	for {
		next := every
		if err := once(); err != nil && ctx.Err() == nil {
			tell(err)
			next, wait = min(wait, every), min(2*wait, every)
		} else {
			wait = firstWait
		}
		timer := time.NewTimer(jittered(next))
		select {
		case <-ctx.Done():
			timer.Stop()
			return
		case <-timer.C:
		}
	}
}

// jittered is a time up to a tenth shorter or longer, so that machines that were started
// together do not all come at once.
func jittered(d time.Duration) time.Duration {
	return d + time.Duration((rand.Float64()-0.5)*0.2*float64(d))
}

// inventories are those in files, or that of this machine.
func (by sending) inventories(ctx context.Context, s Streams, files []string) ([]inventory.Inventory, error) {
	var out []inventory.Inventory
	for _, file := range files {
		inv, err := givenInventory(ctx, s, file)
		if err != nil {
			return nil, err
		}
		out = append(out, inv)
	}
	if len(files) == 0 {
		k, err := knowledge()
		if err != nil {
			return nil, err
		}
		out = append(out, by.whole(ctx, k, by.checkouts))
	}
	if by.name != "" && len(out) != 1 {
		return nil, usage("--name goes with one inventory")
	}
	for i := range out {
		m := &out[i].Machine
		if by.name != "" {
			m.Name = by.name
		}
		if by.kind != "" {
			m.Kind = by.kind
		}
		if by.parent != "" {
			m.Parent = by.parent
		}
		if every := cmp.Or(by.every, by.reported); every > 0 {
			out[i].ReportEvery = every.String()
		}
	}
	return out, nil
}

// givenInventory reads an inventory from a file, or from standard input where that is -.
func givenInventory(ctx context.Context, s Streams, file string) (inventory.Inventory, error) {
	if file != "-" {
		return readInventory(ctx, file)
	}
	inv, err := inventory.Read(s.In)
	if err != nil {
		return inv, usage("standard input: %v", err)
	}
	return inv, nil
}
