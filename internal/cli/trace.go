package cli

import (
	"os"
	"path"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/survey"
)

func newTrace(s Streams) *cobra.Command {
	var l looking
	var by reading
	var output, server, token string
	cmd := &cobra.Command{
		Use:   "trace REPOSITORY[:FOLDER] TOOL",
		Short: "Show why a version runs: claims, ladder and findings of one folder and tool",
		Long: "Shows what a repository says of a tool, what that allows together, and the ladder that leads to\n" +
			"the version that runs on each machine: the first rung that names a version decides.",
		Example: "  wexo trace ~/work/seed-ledger java\n  wexo trace ~/work/garden:kiosk node",
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if output != "text" && output != "json" {
				return usage("--output %q: text and json are written", output)
			}
			c, reader, err := knowledge()
			if err != nil {
				return err
			}
			tool, known := c.Tool(args[1])
			if !known {
				return usage("unknown tool %q; known are %s", args[1], toolNames(c))
			}
			if server != "" || os.Getenv("WEXO_SERVER") != "" && !isFolder(args[0]) {
				return traceOnServer(cmd, s, l, server, token, args[0], tool, c, output)
			}
			dir, folder := splitRepository(args[0])
			location, err := repo.At(dir)
			if err != nil {
				return failed("%v", err)
			}
			in, err := l.inputs(cmd, c, reader)
			if err != nil {
				return err
			}
			reads, err := by.reader(cmd, c, reader)
			if err != nil {
				return err
			}
			defer reads.Close()
			read, err := reads.Read(cmd.Context(), []repo.Location{location}, l.reading(), nil)
			if err != nil {
				return failed("reading was stopped")
			}
			if err := openProblem(read[0]); err != nil {
				return err
			}
			assessed := survey.Assess(cmd.Context(), read, in)
			t, err := traceOf(report.Build(Version, assessed, in), folder, tool)
			if err != nil {
				return err
			}
			return writeTrace(s, t, c, output)
		},
	}
	l.flags(cmd)
	by.flags(cmd)
	cmd.Flags().StringVar(&output, "output", "text", "write the trace as text or json")
	cmd.Flags().StringVar(&server, "server", "", "ask a running service at this `URL`; REPOSITORY is then a name")
	cmd.Flags().StringVar(&token, "token", "", "the service's token (or WEXO_TOKEN)")
	return cmd
}

func writeTrace(s Streams, t report.Trace, c *catalogue.Catalogue, output string) error {
	if output == "json" {
		return writeJSON(s.Out, t)
	}
	return report.TraceText(s.Out, t, c, styleFor(s.Out))
}

// openProblem is why a repository could not be read at all.
func openProblem(r survey.ReadRepository) error {
	if r.Unread != "" {
		return failed("%s: %s", r.Name, r.Unread)
	}
	return nil
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

// traceOf finds the tool in the folder or in the nearest folder above that speaks of it.
func traceOf(r report.Report, folder string, tool *catalogue.Tool) (report.Trace, error) {
	repository := r.Repositories[0]
	for at := folder; ; at = parentOf(at) {
		for _, f := range repository.Folders {
			if f.Path != at {
				continue
			}
			for _, t := range f.Tools {
				if t.Tool == tool.Name {
					return report.Trace{Repository: repository.Name, Folder: at, Tool: t, Findings: findingsOf(r.Findings, t, at)}, nil
				}
			}
		}
		if at == "" {
			break
		}
	}
	var has, folders []string
	for _, f := range repository.Folders {
		for _, t := range f.Tools {
			has = append(has, strings.TrimSuffix(t.Tool+" in "+f.Path, " in "))
			if t.Tool == tool.Name {
				folders = append(folders, repository.Name+":"+f.Path)
			}
		}
	}
	switch {
	case len(has) == 0:
		return report.Trace{}, failed("%s says nothing of any tool", repository.Name)
	case len(folders) > 0:
		return report.Trace{}, failed("%s says nothing of %s there; ask for %s", repository.Name, tool.Title, strings.Join(folders, " or "))
	}
	return report.Trace{}, failed("%s says nothing of %s; it speaks of %s", repository.Name, tool.Title, strings.Join(has, ", "))
}

// findingsOf are the findings that stand in the folder or rest on a claim in force there.
func findingsOf(all []assess.Finding, t report.Tool, folder string) []assess.Finding {
	var out []assess.Finding
	for _, f := range all {
		if f.Tool != t.Tool {
			continue
		}
		if f.Folder == folder || slices.ContainsFunc(f.Evidence, func(e assess.Evidence) bool {
			return slices.ContainsFunc(t.Claims, func(c report.Claim) bool { return c.File == e.File && c.Role == "pin" })
		}) {
			out = append(out, f)
		}
	}
	return out
}

func parentOf(folder string) string {
	if i := strings.LastIndexByte(folder, '/'); i >= 0 {
		return folder[:i]
	}
	return ""
}

func toolNames(c *catalogue.Catalogue) string {
	var names []string
	for _, t := range c.Tools() {
		names = append(names, t.Name)
	}
	return strings.Join(names, ", ")
}
