package cli

import (
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/unseen"
	"wexo/internal/host/origin"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/terminal"
)

// withShells are the shells for which lines are printed.
var withShells = []string{"sh", "fish", "powershell"}

func newWith(s Streams) *cobra.Command {
	var by freshness
	var l looking
	var shell string
	var nearest, dry bool
	cmd := &cobra.Command{
		Use:   "with FOLDER [-- COMMAND…]",
		Short: "Run a command with the toolchains that a folder asks for first on PATH",
		Long: "Finds what would run in a folder, puts these installations first on PATH and sets the variables\n" +
			"that locate them, and runs a command so; without one it prints the lines for a shell to take over.\n" +
			"What was chosen, where it lies and why that is trusted is told on standard error; with --dry-run\n" +
			"that is all. Nothing on the machine changes, so that two projects\n" +
			"with two versions work side by side. It refuses where nothing installed fits what the folder asks\n" +
			"for; --nearest takes the nearest version instead. Only installations are run, never anything that\n" +
			"lies in a repository. The exit status is the command's.",
		Example: "  wexo with ~/work/shop -- make test\n  eval \"$(wexo with ~/work/seed-ledger)\"\n  wexo with ~/work/garden:kiosk --shell fish | source   # in fish",
		Args: func(cmd *cobra.Command, args []string) error {
			n := len(args)
			if at := cmd.ArgsLenAtDash(); at >= 0 {
				n = at
			}
			if n != 1 {
				return usage("name one folder: wexo with FOLDER [-- COMMAND…]")
			}
			return nil
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := oneOf("--shell", shell, withShells...); err != nil {
				return err
			}
			chosen, err := chooseFor(cmd, s, l, by, args[0], nearest)
			if err != nil {
				return err
			}
			switch {
			case dry:
				return chosen.tell(s, args[1:])
			case len(args) == 1:
				return chosen.print(s, shell)
			}
			return chosen.run(cmd, s, args[1:])
		},
	}
	by.flags(cmd)
	l.probing.flags(cmd)
	cmd.Flags().BoolVar(&l.worktree, "worktree", true, "read the working tree, as it lies there")
	cmd.Flags().String("as-of", "", "look names such as lts up on this `date` instead of today")
	cmd.Flags().StringVar(&shell, "shell", "sh", "print lines for this `shell`: sh, fish or powershell")
	cmd.Flags().BoolVar(&dry, "dry-run", false, "only tell which programs would run, and why they are trusted")
	cmd.Flags().BoolVar(&nearest, "nearest", false, "where nothing fits, take the nearest version that is installed")
	return cmd
}

// environment is what a command runs with.
type environment struct {
	path   []string // put first on PATH
	late   []string // behind these: folders of the system, which hold many other things
	values map[string]string
	order  []string // of the values
}

// chooseFor finds the installations that would run in a folder.
func chooseFor(cmd *cobra.Command, s Streams, l looking, by freshness, arg string, nearest bool) (environment, error) {
	out := environment{values: map[string]string{}}
	dir, folder, err := rootedAt(arg)
	if err != nil {
		return out, err
	}
	l.bare = true
	got, _, c, err := takeOne(cmd, l, by, dir)
	if err != nil {
		return out, err
	}
	result := got.judge.Reads[0].Result
	if gaps := unseen.Blinding(unseen.For(got.judge.Gaps(), folder, "")); len(gaps) > 0 && !nearest {
		return out, failed("%s; what the folder asks for is not known. Mend it, or give --nearest", report.Unseen(gaps))
	}
	trust := trusting(c)
	var refused []string
	way := "wexo reconcile " + arg + " tells why"
	for _, tool := range c.Tools() {
		n, ok := inForce(result, folder, tool)
		if !ok || result.Judged[n].Case.Brought {
			continue
		}
		in, why := chosenFor(got.judge.Fleet, result, n, day.On(got.judge.Day), nearest)
		switch {
		case in != nil:
			first := got.local.Leading(tool.Name, firstOf(got.local, tool)) == in
			_ = terminal.Printf(s.Err, "wexo: %s %s at %s%s%s (%s)\n", tool.Title, orDash(in.Version), in.Path, why, out.add(tool, in, first), trust(in))
		case why != "":
			refused = append(refused, tool.Title+": "+why)
			if !result.Judged[n].Resolved.Conflict {
				way = "install it (wexo needs " + arg + " tells what)"
			}
		}
	}
	switch {
	case len(refused) > 0 && nearest: // there is nothing of it
		_ = terminal.Printf(s.Err, "wexo: without %s\n", strings.Join(refused, "; without "))
	case len(refused) > 0:
		return out, failed("%s; %s, or give --nearest", strings.Join(refused, "; "), way)
	}
	return out, nil
}

func firstOf(m *inventory.Machine, tool *catalogue.Tool) inventory.OnPath {
	first, _ := m.FirstOnPath(tool.Name)
	return first
}

// rootedAt finds the repository that a folder lies in, and the folder in it.
func rootedAt(arg string) (dir, folder string, err error) {
	if dir, folder = splitRepository(arg); folder != "" {
		return dir, folder, nil
	}
	abs, err := filepath.Abs(dir)
	if err != nil || !isFolder(abs) {
		return "", "", failed("%s: no such folder", arg)
	}
	for at := abs; ; at = filepath.Dir(at) {
		if location, err := repo.At(at); err == nil && location.Kind == repo.Git {
			rest, err := filepath.Rel(at, abs)
			if err != nil || rest == "." {
				rest = ""
			}
			return at, filepath.ToSlash(rest), nil
		}
		if at == filepath.Dir(at) {
			return abs, "", nil
		}
	}
}

// inForce is the subject of a tool that holds in a folder: of the folder or of the nearest one
// above that speaks of it.
func inForce(r *assess.Result, folder string, tool *catalogue.Tool) (int, bool) {
	n, err := subjectOf(r, folder, tool)
	return n, err == nil
}

// chosenFor is what would run of a tool, or why nothing may.
func chosenFor(fleet *resolve.Fleet, r *assess.Result, n int, on *day.Day, nearest bool) (*inventory.Installed, string) {
	tool, resolved := r.Subjects[n].Tool, r.Judged[n].Resolved
	tooling := fleet.Among(r.Among).Of(tool)
	if len(tooling.Classes) == 0 {
		return nil, ""
	}
	class := tooling.Classes[0]
	o := tooling.OutcomeOf(resolved, class, on)
	find := func(path, version string) *inventory.Installed {
		for _, in := range class.Installed(tool.Name) {
			if in.Path == path && in.Version == version {
				return in
			}
		}
		return nil
	}
	in := find(o.Path, o.Version)
	switch {
	case in != nil && o.State == resolve.Met:
		return in, by(o.DecidedBy)
	case in != nil && o.State == resolve.Unpinned && resolved.Feasible.Contains(in.Number):
		return in, by(o.DecidedBy)
	case o.State == resolve.Met && in == nil, o.State == resolve.Unpinned && in == nil && !resolved.Conflict && len(resolved.Bounds) == 0:
		return nil, "" // the build brings it, or nobody knows better than PATH
	case o.State == resolve.Absent && !r.Subjects[n].Case.Needed:
		return nil, ""
	}
	if fits := class.Newest(tool.Name, resolved.Feasible, inventory.Build{}); fits != nil && len(resolved.Pins) == 0 {
		return fits, ", which is in the bounds"
	}
	if nearest {
		if near := nearestTo(class, tool, resolved); near != nil {
			return near, ", which is the nearest and not what is asked for"
		}
	}
	if resolved.Conflict {
		return nil, "no version satisfies all that is asked for"
	}
	return nil, "nothing installed is " + resolved.Feasible.WithoutPrereleases().String()
}

// nearestTo is the working installation next to what is asked for: of the same build, the
// newest in the set, the oldest above it, the newest below it.
func nearestTo(class *resolve.Class, tool *catalogue.Tool, r *resolve.Resolved) *inventory.Installed {
	set := r.Feasible
	if len(r.Pins) > 0 && r.Conflict {
		set = r.Pins[0].Set
	}
	near := class.Machine.Nearest(tool.Name, set)
	switch {
	case len(near) == 0:
		return nil
	case set.Contains(near[0].Number):
		return near[0]
	}
	return near[len(near)-1] // rather a newer one
}

func by(rung string) string {
	switch rung {
	case resolve.ByOverride:
		return ", by a variable"
	case resolve.ByDefault:
		return ", by the user's default"
	case resolve.ByPath:
		return ", first on PATH"
	case resolve.ByBaseline:
		return ", by a baseline"
	}
	return ""
}

// add puts an installation first on PATH, unless it is that already, and sets what locates
// it. It says which variables had another value.
func (e *environment) add(tool *catalogue.Tool, in *inventory.Installed, first bool) (instead string) {
	bin := filepath.Dir(in.Path)
	if local := filepath.Join(in.Home, "bin"); in.Home != "" && isFolder(local) {
		bin = local // where it has links to what lies elsewhere
	}
	switch {
	case in.Origin != "system" && !slices.Contains(e.path, bin):
		e.path = append(e.path, bin)
	case in.Origin == "system" && !first && !slices.Contains(e.late, bin):
		e.late = append(e.late, bin)
	}
	for _, o := range tool.Overrides {
		was := os.Getenv(o.Variable)
		if !o.Locates || in.Origin == "system" {
			continue
		}
		if was != "" && was != in.Home {
			instead += ", instead of " + o.Variable + "=" + was
		}
		if _, set := e.values[o.Variable]; !set {
			e.order = append(e.order, o.Variable)
		}
		e.values[o.Variable] = in.Home
	}
	return instead
}

// joined is PATH with the chosen folders first.
func (e *environment) joined() string {
	return strings.Join(append(slices.Concat(e.path, e.late), filepath.SplitList(os.Getenv("PATH"))...), string(os.PathListSeparator))
}

// trusting tells why an installation is trusted to be run.
func trusting(c *catalogue.Catalogue) func(in *inventory.Installed) string {
	machine := origin.On(origin.Disk("/"), nil, sharedFolders(c))
	return func(in *inventory.Installed) string {
		clone := machine.Clone(origin.Slashed(in.Path))
		switch {
		case in.SystemPackage != "":
			return "the system's package " + in.SystemPackage
		case in.Origin == "system":
			return "it is the system's"
		case clone != "":
			return "it lies in " + clone + ", and git does not track it"
		}
		return "installed: no repository tracks it, no source lies around it"
	}
}

// tell says what a command would run; without one there is no more to say.
func (e *environment) tell(s Streams, args []string) error {
	if len(args) == 0 {
		return nil
	}
	at, err := lookUp(args[0], e.joined())
	if err != nil {
		return failed("%s: %v", args[0], err)
	}
	return terminal.Printf(s.Out, "%s\n", strings.Join(append([]string{at}, args[1:]...), " "))
}

// run runs a command in the environment; its exit status becomes Wexo's.
func (e *environment) run(cmd *cobra.Command, s Streams, args []string) error {
	env := os.Environ()
	set := func(name, value string) {
		env = slices.DeleteFunc(env, func(pair string) bool { return strings.HasPrefix(pair, name+"=") })
		env = append(env, name+"="+value)
	}
	for _, name := range e.order {
		set(name, e.values[name])
	}
	path := e.joined()
	set("PATH", path)
	at, err := lookUp(args[0], path)
	if err != nil {
		return failed("%s: %v", args[0], err)
	}
	c := exec.CommandContext(cmd.Context(), at, args[1:]...)
	c.Args[0], c.Env = args[0], env
	c.Stdin, c.Stdout, c.Stderr = s.In, raw(s.Out), raw(s.Err)
	err = c.Run()
	var exit *exec.ExitError
	switch {
	case errors.As(err, &exit):
		return &exitError{status: max(exit.ExitCode(), 1)}
	case err != nil:
		return failed("%s cannot be run: %v", args[0], err)
	}
	return nil
}

// raw is a stream without what Wexo does to its own output: a command speaks for itself.
func raw(w any) interface{ Write([]byte) (int, error) } {
	if through, ok := w.(*terminal.Writer); ok {
		return through.To
	}
	return w.(interface{ Write([]byte) (int, error) })
}

// lookUp finds a command in the folders of a PATH; one with a slash is taken as it is.
func lookUp(name, path string) (string, error) {
	if strings.ContainsRune(name, filepath.Separator) {
		return name, nil
	}
	for _, dir := range filepath.SplitList(path) {
		if dir == "" || !filepath.IsAbs(dir) {
			continue // the folder one happens to be in is no place for programs
		}
		if at, err := exec.LookPath(filepath.Join(dir, name)); err == nil {
			return at, nil
		}
	}
	return "", errors.New("no such command on PATH")
}

// print writes the lines by which a shell takes the environment over.
func (e *environment) print(s Streams, shell string) error {
	var lines []string
	for _, name := range e.order {
		lines = append(lines, assignment(shell, name, e.values[name]))
	}
	if dirs := slices.Concat(e.path, e.late); len(dirs) > 0 {
		lines = append(lines, prefix(shell, dirs))
	}
	for _, line := range lines {
		if err := terminal.Printf(s.Out, "%s\n", line); err != nil {
			return failed("%v", err)
		}
	}
	return nil
}

func assignment(shell, name, value string) string {
	switch shell {
	case "fish":
		return "set -gx " + name + " " + quoteFish(value)
	case "powershell":
		return "$env:" + name + " = " + quotePowerShell(value)
	}
	return "export " + name + "=" + quoteSh(value)
}

// prefix puts folders before what PATH is then.
func prefix(shell string, dirs []string) string {
	switch shell {
	case "fish":
		var quoted []string
		for _, d := range dirs {
			quoted = append(quoted, quoteFish(d))
		}
		return "set -gx PATH " + strings.Join(quoted, " ") + " $PATH"
	case "powershell":
		return "$env:PATH = " + quotePowerShell(strings.Join(dirs, string(os.PathListSeparator))+string(os.PathListSeparator)) + " + $env:PATH"
	}
	return "export PATH=" + quoteSh(strings.Join(dirs, ":")+":") + `"$PATH"`
}

func quoteSh(text string) string { return "'" + strings.ReplaceAll(text, "'", `'\''`) + "'" }

func quoteFish(text string) string {
	return "'" + strings.NewReplacer(`\`, `\\`, "'", `\'`).Replace(text) + "'"
}

func quotePowerShell(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }
