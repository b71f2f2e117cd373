package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wexo/console"
	"wexo/demo"
	"wexo/internal/core/inventory"
	"wexo/internal/host/origin"
	"wexo/internal/host/probe"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/server"
	"wexo/internal/server/store"
	"wexo/internal/terminal"
)

func newDemo(s Streams) *cobra.Command {
	var dir, address string
	var fresh, once bool
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Run the service with a made-up estate to look at",
		Long: "Lays out the repositories and machines of a made-up botanic-garden trust, surveys them and\n" +
			"serves the console. A second start continues with the same data; --fresh starts anew.",
		Example: "  wexo demo --dir ~/demo   # until stopped\n  wexo demo --dir ~/demo --once --fresh",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			d, err := prepareDemo(cmd.Context(), s, dir, address, fresh)
			if err != nil {
				return err
			}
			serving := false
			defer func() {
				if !serving {
					_ = d.service.Close()
				}
			}()
			if err := d.survey(cmd.Context()); err != nil {
				return err
			}
			if err := d.print(cmd.Context(), s); err != nil || once {
				return err
			}
			listener, err := listen(s, address, true)
			if err != nil {
				return err
			}
			link, err := signInLink(cmd.Context(), d.service, 0, "http://"+listener.Addr().String())
			if err != nil {
				return err
			}
			_ = terminal.Printf(s.Out, "\nOpen the console (the link signs in once):\n  %s\nStop with Ctrl-C; start again to continue, with --fresh to begin anew.\n", link)
			serving = true // which closes it
			err = serve(cmd.Context(), d.service, listener)
			if err == nil {
				_, _ = fmt.Fprintln(s.Out, "Stopped.")
			}
			return err
		},
	}
	cmd.Flags().StringVar(&dir, "dir", filepath.Join(os.TempDir(), "wexo-demo"), "keep the demo in this `folder`")
	cmd.Flags().StringVar(&address, "listen", "127.0.0.1:8420", "answer on this `address`, or on the next free port")
	cmd.Flags().BoolVar(&fresh, "fresh", false, "throw away what an earlier start left and begin anew")
	cmd.Flags().BoolVar(&once, "once", false, "lay out, survey and report, but do not serve")
	return cmd
}

// demoEstate is a laid-out demo with its service.
type demoEstate struct {
	dir string
	known
	service  *server.Service
	machines []*inventory.Machine
	new      bool
}

// demoMark is a file that shows a folder holds a complete demo: laid out, filled and
// surveyed. Beside it, the same name with -begun shows that the demo made the folder, so
// that it may be emptied.
const demoMark = ".wexo-demo"

func prepareDemo(ctx context.Context, s Streams, dir, address string, fresh bool) (*demoEstate, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil || !isLoopback(host) {
		return nil, usage("--listen %q: the demo listens on this machine alone, such as on 127.0.0.1:8420", address)
	}
	abs, err := filepath.Abs(dir)
	if err != nil {
		return nil, usage("%v", err)
	}
	d := &demoEstate{dir: abs}
	if d.known, err = knowledge(); err != nil {
		return nil, err
	}
	complete := exists(filepath.Join(abs, demoMark))
	if why := origin.OthersMayWrite(abs); exists(abs) && why != "" && runtime.GOOS != "windows" {
		return nil, usage("%s is not used, since %s; choose another folder with --dir", abs, why)
	}
	if clone := origin.On(origin.Disk(abs), nil, nil).Clone(origin.Slashed(abs)); clone != "" {
		return nil, usage("%s lies in the git repository %s, which may have brought what lies there; choose another folder with --dir", abs, clone)
	}
	switch entries, err := os.ReadDir(abs); {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return nil, usage("%s cannot be the demo's folder (%v); choose another with --dir", abs, err)
	case len(entries) > 0 && !complete && !exists(filepath.Join(abs, demoMark+"-begun")):
		return nil, usage("%s holds files that are not the demo's; choose another folder with --dir", abs)
	}
	if fresh || !complete {
		if err := os.RemoveAll(abs); err != nil {
			return nil, failed("%v", err)
		}
		d.new = true
	}
	if err := d.lay(ctx); err != nil {
		return nil, failed("laying out the demo in %s: %v", abs, err)
	}
	cfg, err := d.configure()
	if err != nil {
		return nil, err
	}
	readers, err := workers(cfg.text)
	if err != nil {
		return nil, err
	}
	d.service, err = server.Open(ctx, server.Options{Workers: readers, Names: []string{"localhost", "127.0.0.1", "::1", strings.ToLower(host)}, Data: filepath.Join(abs, "wexo.db"), Roots: []string{d.repositories()}, AsOf: demo.Day, Clock: demo.Clock(time.Now), Version: Version,
		Book: d.Book, Reader: d.reader, Rules: cfg.Rules, Policy: cfg.Policy, Console: console.Files(),
		Log: slog.New(slog.NewTextHandler(s.Err, &slog.HandlerOptions{Level: slog.LevelWarn}))})
	if err != nil {
		return nil, failed("%v", err)
	}
	return d, nil
}

// configure reads the estate's own configuration, which it lays where it is not there.
func (d *demoEstate) configure() (config, error) {
	var out config
	if err := demo.LayConfiguration(d.dir); err != nil {
		return out, failed("laying out the demo in %s: %v", d.dir, err)
	}
	name := d.configuration()
	text, err := os.ReadFile(name)
	if err != nil {
		return out, failed("%v", err)
	}
	folders, _ := catalogueFolders(text, d.dir)
	dirs, err := catalogueDirs(folders, false)
	if err != nil {
		return out, err
	}
	if d.known, err = knowledgeOf(dirs); err != nil {
		return out, err
	}
	out.Rules, out.Policy, err = parseConfig(d.Catalogue, text, name, map[string]any{})
	out.text = withFolders(text, folders)
	return out, err
}

func (d *demoEstate) configuration() string { return filepath.Join(d.dir, demo.Configuration) }

func exists(name string) bool {
	_, err := os.Lstat(name)
	return err == nil
}

func (d *demoEstate) repositories() string { return filepath.Join(d.dir, "repositories") }

// lay writes the estate where it is new, and reads the machines' inventories where not.
func (d *demoEstate) lay(ctx context.Context) error {
	if !d.new {
		return d.readInventories(ctx)
	}
	if err := os.MkdirAll(d.dir, 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(d.dir, demoMark+"-begun"), nil, 0o644); err != nil {
		return err
	}
	if err := demo.LayRepositories(d.repositories()); err != nil {
		return err
	}
	machines, err := demo.LayMachines(filepath.Join(d.dir, "machines"))
	if err != nil {
		return err
	}
	if err := os.MkdirAll(d.inventories(), 0o755); err != nil {
		return err
	}
	for _, m := range machines {
		inv := probe.Take(context.Background(), d.Catalogue, d.reader, m)
		f, err := os.Create(filepath.Join(d.inventories(), m.Info.Name+".json"))
		if err != nil {
			return err
		}
		if err := writeJSON(f, inv); err != nil {
			return err
		}
		if err := f.Close(); err != nil {
			return err
		}
		d.machines = append(d.machines, inventory.NewMachine(inv, d.Catalogue))
	}
	return nil
}

func (d *demoEstate) inventories() string { return filepath.Join(d.dir, "inventories") }

func (d *demoEstate) readInventories(ctx context.Context) error {
	files, err := filepath.Glob(filepath.Join(d.inventories(), "*.json"))
	if err != nil {
		return err
	}
	for _, file := range files {
		inv, err := readInventory(ctx, file)
		if err != nil {
			return err
		}
		d.machines = append(d.machines, inventory.NewMachine(inv, d.Catalogue))
	}
	return nil
}

// survey fills a new demo's service and surveys it as of several days, so that findings
// have an age; an old one is surveyed once more.
func (d *demoEstate) survey(ctx context.Context) error {
	days := []time.Time{demo.Day}
	if d.new {
		days = append(append([]time.Time{}, demo.Earlier...), demo.Day)
		if err := d.fill(ctx); err != nil {
			return failed("%v", err)
		}
	}
	for _, day := range days {
		if _, err := d.service.Jobs.Start(ctx, day); err != nil {
			return failed("survey: %v", err)
		}
		d.service.Jobs.Wait()
	}
	if ctx.Err() != nil {
		return failed("the demo was stopped before it was complete; the next start begins anew")
	}
	if err := os.WriteFile(filepath.Join(d.dir, demoMark), []byte("Made by: wexo demo\n"), 0o644); err != nil {
		return failed("%v", err)
	}
	return nil
}

func (d *demoEstate) fill(ctx context.Context) error {
	found, problems := repo.Discover([]string{d.repositories()}, d.reader.Marks)
	if len(problems) > 0 {
		return problems[0]
	}
	for _, l := range found {
		err := d.service.Store.AddRepository(ctx, store.Repository{Name: l.Name, Path: l.Path, Kind: string(l.Kind), AddedAt: demo.Day.Format(time.RFC3339)})
		if err != nil {
			return err
		}
	}
	for _, m := range d.machines {
		if before, ok := demo.WeekBefore(m.Inventory); ok {
			if err := d.service.Store.SaveInventory(ctx, before, before.TakenAt); err != nil {
				return err
			}
		}
		if err := d.service.Store.SaveInventory(ctx, m.Inventory, demo.Day); err != nil {
			return err
		}
	}
	return nil
}

// print writes the short report: counts, and where the details are.
func (d *demoEstate) print(ctx context.Context, s Streams) error {
	r, err := d.service.Report(ctx, demo.Day)
	if err != nil {
		return failed("%v", err)
	}
	if err := report.Short(s.Out, r, d.Catalogue, styleFor(s.Out)); err != nil {
		return failed("%v", err)
	}
	_ = terminal.Printf(s.Out, "\nThe same in a terminal:\n  wexo survey --config %s --as-of %s", d.configuration(), demo.Day.Format(time.DateOnly))
	for _, m := range d.machines {
		_ = terminal.Printf(s.Out, " \\\n    --inventory %s", filepath.Join(d.inventories(), m.Name()+".json"))
	}
	_ = terminal.Printf(s.Out, " \\\n    %s\n", d.repositories())
	return nil
}
