package cli

import (
	"os"
	"path"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/reading"
	"wexo/internal/core/unseen"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/survey"
)

func newTrace(s Streams) *cobra.Command {
	var l looking
	var by freshness
	var r remote
	cmd := &cobra.Command{
		Use:   "trace REPOSITORY[:FOLDER] TOOL",
		Short: "Show why a version runs: claims, ladder and findings of one folder and tool",
		Long: "Shows what a repository says of a tool, what that allows together, and the ladder that leads to\n" +
			"the version that runs on each machine: the first rung that names a version decides. Machines\n" +
			"with the same ladder are shown together.",
		Example: "  wexo trace ~/work/seed-ledger java\n  wexo trace ~/work/garden:kiosk node",
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := oneOf("--output", r.output, outputs...); err != nil {
				return err
			}
			k, _, err := configured(cmd, args[0])
			if err != nil {
				return err
			}
			c := k.Catalogue
			tool, err := toolNamed(c, args[1])
			if err != nil {
				return err
			}
			if r.server != "" || asksService(args[0]) {
				return traceOnServer(cmd, s, r, args[0], tool, c)
			}
			return runTrace(cmd, s, l, by, args[0], tool, r.output)
		},
	}
	l.flags(cmd)
	by.flags(cmd)
	cmd.Flags().StringVar(&r.output, "output", "text", "write the trace as text or json")
	cmd.Flags().StringVar(&r.server, "server", "", "ask a running service at this `URL`; REPOSITORY is then a name")
	cmd.Flags().StringVar(&r.token, "token", "", "the service's token (or WEXO_TOKEN)")
	return cmd
}

// takeOne reads and judges the one repository that an argument names, with its folder.
func takeOne(cmd *cobra.Command, l looking, by freshness, arg string) (got surveyed, folder string, c *catalogue.Catalogue, err error) {
	dir, folder := splitRepository(arg)
	location, err := repo.At(dir)
	if err != nil {
		return got, folder, nil, failed("%v", err)
	}
	if l.ref == "" && !isFolder(filepath.Join(dir, filepath.FromSlash(folder))) && location.Kind != repo.Bare {
		return got, folder, nil, failed("%s has no folder %s", location.Name, folder)
	}
	l.named = []string{location.Path}
	got, c, err = take(cmd, l, by, func(*reading.Reader) ([]repo.Location, error) { return []repo.Location{location}, nil },
		func(int) func(int, survey.ReadRepository) { return nil })
	if err == nil {
		tellTaken(cmd, got)
	}
	if err == nil && got.read[0].Unread != "" {
		err = failed("%s: %s", got.read[0].Name, got.read[0].Unread)
	}
	return got, folder, c, err
}

func runTrace(cmd *cobra.Command, s Streams, l looking, by freshness, arg string, tool *catalogue.Tool, output string) error {
	got, folder, c, err := takeOne(cmd, l, by, arg)
	if err != nil {
		return err
	}
	result := got.judge.Reads[0].Result
	n, err := subjectOf(result, folder, tool)
	if err != nil {
		return err
	}
	said := got.judge.Report(Version).NewTrace(result, n, got.judge.Day)
	said.Unseen = unseen.For(got.judge.Gaps(), folder, tool.Name)
	return writeTrace(s, said, c, output)
}

func writeTrace(s Streams, t report.Trace, c *catalogue.Catalogue, output string) error {
	var err error
	if output == "json" {
		err = writeJSON(s.Out, t)
	} else {
		err = report.TraceText(s.Out, t, c, styleFor(s.Out))
	}
	if err != nil {
		return failed("the trace cannot be written: %v", err)
	}
	return ending(t.Unseen, nil, false)
}

// splitRepository parts DIR:FOLDER; a folder of that whole name wins.
func splitRepository(arg string) (dir, folder string) {
	if isFolder(arg) {
		return arg, ""
	}
	if i := strings.LastIndexByte(arg, ':'); i > 0 {
		return arg[:i], strings.Trim(path.Clean("/"+arg[i+1:]), "/")
	}
	return arg, ""
}

func isFolder(name string) bool {
	info, err := os.Stat(name)
	return err == nil && info.IsDir()
}

// subjectOf finds the tool in the folder or in the nearest folder above that speaks of it.
func subjectOf(r *assess.Result, folder string, tool *catalogue.Tool) (int, error) {
	for at := folder; ; at = claim.Above(at) {
		for i, s := range r.Subjects {
			if s.Folder == at && s.Tool.Name == tool.Name {
				return i, nil
			}
		}
		if at == "" {
			break
		}
	}
	var has, folders []string
	for _, s := range r.Subjects {
		has = append(has, strings.TrimSuffix(s.Tool.Name+" in "+s.Folder, " in "))
		if s.Tool.Name == tool.Name {
			folders = append(folders, r.Name+":"+s.Folder)
		}
	}
	return 0, saysNothing(r.Name, tool, has, folders)
}

// saysNothing tells that a repository does not speak of a tool there, and where it does.
func saysNothing(name string, tool *catalogue.Tool, has, folders []string) error {
	switch {
	case len(has) == 0:
		return failed("%s says nothing of any tool", name)
	case len(folders) > 0:
		return failed("%s says nothing of %s there; ask for %s", name, tool.Title, strings.Join(folders, " or "))
	}
	return failed("%s says nothing of %s; it speaks of %s", name, tool.Title, strings.Join(has, ", "))
}
