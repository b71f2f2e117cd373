package cli

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
	"wexo/internal/core/reading"
	"wexo/internal/core/rule"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

// newCatalogue is for those who write catalogue folders of their own.
func newCatalogue(s Streams) *cobra.Command {
	cmd := &cobra.Command{Use: "catalogue", Short: "What is known of tools, and catalogue folders of your own",
		Long: "Tools, rules and baselines of your own stand in catalogue folders: tools/*.yaml, rules/*.yaml and\n" +
			"baselines/*.yaml, one file a tool. To add a tool, print one that is like it (wexo catalogue show\n" +
			"node), change it, put it into tools/ of a folder, check the folder (wexo catalogue check FOLDER),\n" +
			"and name the folder by --catalogue, WEXO_CATALOGUE or catalogue: in wexo.yaml. What stands there adds\n" +
			"to what comes with Wexo, or replaces what has the same name."}
	cmd.AddCommand(newCatalogueCheck(s), newCatalogueShow(s))
	return cmd
}

func newCatalogueCheck(s Streams) *cobra.Command {
	return &cobra.Command{
		Use:   "check FOLDER…",
		Short: "Check the tools, rules and baselines of catalogue folders",
		Long: "Reads catalogue folders as --catalogue does, beside what is known without them, and tells every\n" +
			"mistake with its file and line, and every file that nobody would read. A folder holds tools/*.yaml,\n" +
			"rules/*.yaml and baselines/*.yaml. Exit status: 0 nothing is wrong, 2 something is.",
		Example: "  wexo catalogue check trust",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			dirs, err := catalogueDirs(args, false)
			if err != nil {
				return err
			}
			problems := amiss(withShipped(dirs))
			for _, dir := range dirs {
				problems = append(problems, unread(dir)...)
			}
			for _, p := range problems {
				_ = terminal.Printf(s.Err, "%s\n", p)
			}
			if len(problems) > 0 {
				return usage("%s in %s", sentence.Count(len(problems), "mistake", "mistakes"), nearest.Listed(args, "and"))
			}
			for i, dir := range dirs {
				_ = terminal.Printf(s.Out, "%s: nothing is wrong with its %s\n", args[i], contents(dir))
			}
			return nil
		},
	}
}

// amiss are the mistakes of catalogue folders. Rules can be checked only where the tools that
// they speak of are known.
func amiss(dirs []fs.FS) []string {
	c, err := catalogue.Load(dirs...)
	if err != nil {
		return each(err)
	}
	_, readErr := reading.New(c)
	_, ruleErr := rule.Load(c, dirs...)
	return each(errors.Join(readErr, ruleErr))
}

// each are the errors that were joined, in words.
func each(err error) []string {
	if err == nil {
		return nil
	}
	joined, ok := err.(interface{ Unwrap() []error })
	if !ok {
		return []string{err.Error()}
	}
	var out []string
	for _, one := range joined.Unwrap() {
		out = append(out, each(one)...)
	}
	return out
}

// kindsOfFiles are the folders of a catalogue folder, with what a file in them is.
var kindsOfFiles = []struct{ folder, one, many string }{{"tools", "tool", "tools"}, {"rules", "file of rules", "files of rules"}, {"baselines", "baseline", "baselines"}}

// contents counts what a catalogue folder holds.
func contents(dir fs.FS) string {
	var out []string
	for _, kind := range kindsOfFiles {
		names, _ := fs.Glob(dir, kind.folder+"/*.yaml") // the pattern is one
		if len(names) > 0 {
			out = append(out, sentence.Count(len(names), kind.one, kind.many))
		}
	}
	return nearest.Listed(out, "and")
}

// unread are files of a catalogue folder that look as if they were meant to be read and
// are not.
func unread(dir fs.FS) []string {
	var out []string
	_ = fs.WalkDir(dir, ".", func(name string, d fs.DirEntry, err error) error {
		ending := path.Ext(name)
		if err != nil || d.IsDir() || ending != ".yaml" && ending != ".yml" {
			return nil
		}
		folder := path.Dir(name)
		known := slices.ContainsFunc(kindsOfFiles, func(k struct{ folder, one, many string }) bool { return k.folder == folder })
		switch {
		case known && ending == ".yml":
			out = append(out, catalogue.Called(dir, name)+": files end in .yaml here; this one is not read")
		case !known:
			out = append(out, catalogue.Called(dir, name)+": it lies outside tools/, rules/ and baselines/ and is not read")
		}
		return nil
	})
	if len(out) == 0 && contents(dir) == "" {
		out = append(out, catalogue.Called(dir, ".")+": it holds no tools/*.yaml, rules/*.yaml or baselines/*.yaml")
	}
	return out
}

func newCatalogueShow(s Streams) *cobra.Command {
	return &cobra.Command{
		Use:     "show TOOL",
		Short:   "Print a tool's file, to copy and change in a catalogue folder",
		Long:    "Prints the file that describes a tool: that of a catalogue folder where one does, else the one that\ncomes with Wexo. A file of the same tool in a catalogue folder replaces it.",
		Example: "  wexo catalogue show node\n  wexo catalogue show elixir > trust/tools/elixir.yaml",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, _, err := configured(cmd)
			if err != nil {
				return err
			}
			tool, err := toolNamed(k.Catalogue, args[0])
			if err != nil {
				return err
			}
			if err := terminal.Printf(s.Out, "%s\n", terminal.Lines(strings.Split(strings.TrimRight(string(tool.Text()), "\n"), "\n"))); err != nil {
				return failed("the file cannot be written: %v", err)
			}
			return nil
		},
	}
}
