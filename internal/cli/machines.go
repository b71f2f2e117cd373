package cli

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/inventory"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

func newMachines(s Streams) *cobra.Command {
	var r remote
	cmd := &cobra.Command{Use: "machines", Short: "The machines of a running service"}
	r.flags(cmd)
	cmd.AddCommand(newSend(s, &r), newUnit(s, &r), newMachineList(s, &r), newMachineChanges(s, &r),
		&cobra.Command{Use: "remove NAME…", Short: "Forget machines; nothing on them changes", Args: cobra.MinimumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
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

// sending says what is sent, and how often.
type sending struct {
	probing
	name, kind, parent string
	checkouts          []string
	every              time.Duration
}

func newSend(s Streams, r *remote) *cobra.Command {
	var by sending
	cmd := &cobra.Command{
		Use:   "send [INVENTORY…]",
		Short: "Send this machine's inventory, or those in files; - is standard input",
		Long: "Probes this machine and sends what it has to a running service, or sends the inventories in files,\n" +
			"of which - is standard input. With --every it keeps doing that: at a time that differs a little\n" +
			"from machine to machine, and less often while the service does not answer.",
		Example: "  wexo machines send\n  wexo machines send --every 6h --checkouts ~/work\n  wexo inventory --root image.tar --output json | wexo machines send -",
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			switch {
			case by.every == 0:
				return by.once(cmd.Context(), s, c, args)
			case len(args) > 0:
				return usage("--every probes this machine each time; leave the files out")
			case by.every < time.Minute:
				return usage("--every %s: a minute is the least", by.every)
			}
			return by.keep(cmd.Context(), s, c)
		},
	}
	by.probing.flags(cmd)
	f := cmd.Flags()
	f.StringVar(&by.name, "name", "", "send it under this `name` instead of the host's")
	f.StringVar(&by.kind, "kind", "", "the machine's `kind`: laptop, build-agent, image, subsystem or server")
	f.StringVar(&by.parent, "parent", "", "the `name` of the machine that this one is a part of")
	f.StringSliceVar(&by.checkouts, "checkouts", nil, "tell which repositories lie below these `folders`: a laptop matters to those that it holds")
	f.DurationVar(&by.every, "every", 0, "keep sending, once in this `time` (6h)")
	return cmd
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
	_ = terminal.Printf(s.Err, "%s: %d installations sent.\n", got.JSON200.Name, got.JSON200.Installations)
	return nil
}

// Waiting after a failure: at first so long, then twice as long each time, and never longer
// than what lies between two reports.
const firstWait = 30 * time.Second

// keep sends again and again until the context ends. What fails is told and tried again.
func (by sending) keep(ctx context.Context, s Streams, c *client.ClientWithResponses) error {
	wait := firstWait
	for {
		next := by.every
		if err := by.once(ctx, s, c, nil); err != nil && ctx.Err() == nil {
			_ = terminal.Printf(s.Err, "wexo: %v\n", err)
			next, wait = min(wait, by.every), min(2*wait, by.every)
		} else {
			wait = firstWait
		}
		timer := time.NewTimer(jittered(next))
		select {
		case <-ctx.Done():
			timer.Stop()
			return nil
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
		if by.every > 0 {
			out[i].ReportEvery = by.every.String()
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

// newUnit prints what makes a machine with systemd send its inventory.
func newUnit(s Streams, r *remote) *cobra.Command {
	var by sending
	var dir string
	cmd := &cobra.Command{
		Use:   "unit",
		Short: "Print a systemd service and timer that send this machine's inventory",
		Long: "Prints a systemd service and a timer that send this machine's inventory every so often, or writes\n" +
			"both into a folder with --dir. The token is read from a file that only the administrator may\n" +
			"read; the comments say how to make it.",
		Example: "  wexo machines unit --server https://wexo.trust.invalid --every 6h\n  wexo machines unit --server https://wexo.trust.invalid --dir /etc/systemd/system",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			server := r.server
			if server == "" {
				server = os.Getenv("WEXO_SERVER")
			}
			if server == "" || strings.ContainsAny(server, " \t\n\"'\\%$") {
				return usage("--server: name the service's URL, such as https://wexo.trust.invalid")
			}
			if by.every < time.Minute {
				return usage("--every %s: a minute is the least", by.every)
			}
			self, err := os.Executable()
			if err != nil {
				return failed("%v", err)
			}
			return writeUnits(s, dir, units(self, server, by))
		},
	}
	f := cmd.Flags()
	f.StringVar(&dir, "dir", "", "write both files into this `folder` instead of printing them")
	f.DurationVar(&by.every, "every", 6*time.Hour, "send once in this `time`")
	f.StringVar(&by.name, "name", "", "send it under this `name` instead of the host's")
	f.StringVar(&by.kind, "kind", "build-agent", "the machine's `kind`: laptop, build-agent, image, subsystem or server")
	f.StringSliceVar(&by.checkouts, "checkouts", nil, "tell which repositories lie below these `folders`")
	return cmd
}

// unit is one file of systemd.
type unit struct{ name, text string }

const unitName = "wexo-inventory"

func units(self, server string, by sending) []unit {
	args := []string{self, "machines", "send", "--kind", by.kind}
	if by.name != "" {
		args = append(args, "--name", by.name)
	}
	for _, c := range by.checkouts {
		args = append(args, "--checkouts", c)
	}
	for i, a := range args {
		args[i] = quoteUnit(a)
	}
	return []unit{
		{unitName + ".service", fmt.Sprintf(`# The token: echo WEXO_TOKEN=… > /etc/wexo/token; chmod 600 /etc/wexo/token
# wexo tokens add NAME --role collector makes one.
[Unit]
Description=Send this machine's toolchains to Wexo
Wants=network-online.target
After=network-online.target

[Service]
Type=oneshot
Environment=WEXO_SERVER=%s
EnvironmentFile=/etc/wexo/token
ExecStart=%s
ProtectSystem=strict
ProtectHome=read-only
PrivateTmp=yes
NoNewPrivileges=yes
CacheDirectory=wexo
Environment=XDG_CACHE_HOME=/var/cache
`, server, strings.Join(args, " "))},
		{unitName + ".timer", fmt.Sprintf(`[Unit]
Description=Send this machine's toolchains to Wexo every %[1]s

[Timer]
OnBootSec=5min
OnUnitActiveSec=%[2]ds
RandomizedDelaySec=%[3]ds
Persistent=yes

[Install]
WantedBy=timers.target
`, strings.TrimSuffix(strings.TrimSuffix(by.every.String(), "0s"), "0m"), int(by.every.Seconds()), int(by.every.Seconds()/10))},
	}
}

// quoteUnit is an argument of a command in a unit.
func quoteUnit(text string) string {
	text = strings.NewReplacer("%", "%%", "$", "$$").Replace(text)
	if strings.ContainsAny(text, " \t\"'\\;") {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(text) + `"`
	}
	return text
}

func writeUnits(s Streams, dir string, list []unit) error {
	for i, u := range list {
		if dir == "" {
			if i > 0 {
				_ = terminal.Printf(s.Out, "\n")
			}
			if err := terminal.Printf(s.Out, "# %s\n%s\n", u.name, terminal.Lines(strings.Split(strings.TrimRight(u.text, "\n"), "\n"))); err != nil {
				return failed("%v", err)
			}
			continue
		}
		at := filepath.Join(dir, u.name)
		if err := os.WriteFile(at, []byte(u.text), 0o644); err != nil {
			return failed("%s cannot be written: %v", at, errors.Unwrap(err))
		}
		_ = terminal.Printf(s.Err, "%s is written.\n", at)
	}
	if dir != "" {
		_ = terminal.Printf(s.Err, "Start it: systemctl enable --now %s.timer\n", unitName)
	}
	return nil
}

func newMachineList(s Streams, r *remote) *cobra.Command {
	return &cobra.Command{Use: "list", Short: "List machines: when they reported, and how much can run on them", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
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
	cmd := &cobra.Command{Use: "changes NAME", Short: "What came to a machine, went and changed since the inventory before, or since a day", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		c, err := r.open()
		if err != nil {
			return err
		}
		p := client.GetMachineChangesParams{}
		if since != "" {
			day, err := dayOf(since)
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
