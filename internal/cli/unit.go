package cli

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/terminal"
)

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
		Example: "  wexo machines unit --server https://wexo.trust.invalid --every 6h\n  wexo machines unit --server https://wexo.trust.invalid --dir ~/units",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			server := r.server
			if server == "" {
				server = os.Getenv("WEXO_SERVER")
			}
			if server == "" || strings.ContainsAny(server, " \t\n\"'\\%$") {
				return usage("--server: name the service's URL, such as https://wexo.trust.invalid")
			}
			if err := isKind(by.kind); err != nil {
				return err
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
	args := []string{self, "machines", "send", "--kind", by.kind, "--reported-every", by.every.String()}
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
	if dir != "" {
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return failed("the folder %s cannot be made: %v", dir, errors.Unwrap(err))
		}
	}
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
