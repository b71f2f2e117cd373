package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
	"wexo/internal/terminal"
)

func newSatisfies(s Streams) *cobra.Command {
	var stdin, why bool
	var scheme string
	cmd := &cobra.Command{
		Use:   "satisfies DIALECT RANGE VERSION…",
		Short: "Tell which versions are in a range",
		Long: "Prints the versions that are in the range, one a line; exit status 1 where none is. With --why, tells of the\n" +
			"others on standard error why they are not.\nDialects: " + strings.Join(version.DialectNames(), ", ") + ".\n" +
			"With --stdin, reads JSON lines {\"dialect\",\"range\",\"version\"} and answers each.",
		Example: "  wexo satisfies npm '^18.17 || >=20.5' 18.16.1 20.11.1\n  wexo satisfies --scheme java plain 17 17.0.2 21 --why",
		RunE: func(cmd *cobra.Command, args []string) error {
			if stdin {
				return answerLines(cmd.Context(), s, newSatisfiesAnswer)
			}
			if len(args) < 3 {
				return usage("wexo satisfies DIALECT RANGE VERSION…")
			}
			set, read, err := rangeOf(args[0], scheme, args[1])
			if err != nil {
				return usage("%v", err)
			}
			return printMembers(s, set, read, args[2:], why)
		},
	}
	cmd.Flags().BoolVar(&stdin, "stdin", false, "answer JSON lines from standard input")
	cmd.Flags().BoolVar(&why, "why", false, "tell why a version is not in the range")
	cmd.Flags().StringVar(&scheme, "scheme", "", "the order of the versions, for dialects that take any; default: the dialect's own")
	return cmd
}

// rangeOf reads a range, and gives the way to read versions for it: strictly as the
// dialect does, unless a scheme is named.
func rangeOf(dialect, schemeName, raw string) (version.Set, func(string) (version.Version, error), error) {
	scheme, read := version.NoScheme, func(raw string) (version.Version, error) { return version.ParseVersion(dialect, raw) }
	if schemeName != "" {
		known := false
		if scheme, known = version.SchemeNamed(schemeName); !known {
			return version.Set{}, nil, unknownScheme(schemeName)
		}
		read = scheme.Parse
	}
	set, err := version.ParseRange(dialect, scheme, raw)
	return set, read, err
}

func unknownScheme(name string) error {
	return fmt.Errorf("unknown scheme %q; %s", name, nearest.Hint(name, version.SchemeNames()))
}

func printMembers(s Streams, set version.Set, read func(string) (version.Version, error), raws []string, why bool) error {
	found := false
	for _, raw := range raws {
		v, err := read(raw)
		if err != nil {
			return usage("%v", err)
		}
		reason := set.Explain(v)
		if reason == "" {
			found = true
			_ = terminal.Printf(s.Out, "%s\n", raw)
		} else if why {
			_ = terminal.Printf(s.Err, "%s is %s.\n", raw, reason)
		}
	}
	if !found {
		return &exitError{status: exitFindings}
	}
	return nil
}

func newOrder(s Streams) *cobra.Command {
	var stdin bool
	cmd := &cobra.Command{
		Use:   "order SCHEME VERSION…",
		Short: "Sort versions, oldest first",
		Long: "Prints the versions sorted, oldest first.\nSchemes: " + strings.Join(version.SchemeNames(), ", ") + ".\n" +
			"With --stdin, reads JSON lines {\"scheme\",\"a\",\"b\"} and answers each.",
		Example: "  wexo order pep440 3.13.0rc2 3.9.18 3.13.0\n  wexo order java 1.8.0_292 17.0.9+9 11.0.2",
		RunE: func(cmd *cobra.Command, args []string) error {
			if stdin {
				return answerLines(cmd.Context(), s, newOrderAnswer)
			}
			if len(args) < 2 {
				return usage("wexo order SCHEME VERSION…")
			}
			scheme, ok := version.SchemeNamed(args[0])
			if !ok {
				return usage("%v", unknownScheme(args[0]))
			}
			type written struct {
				version.Version
				raw string
			}
			var list []written
			for _, raw := range args[1:] {
				v, err := scheme.Parse(raw)
				if err != nil {
					return usage("%v", err)
				}
				list = append(list, written{v, raw})
			}
			slices.SortStableFunc(list, func(a, b written) int { return a.Compare(b.Version) })
			for _, v := range list {
				_ = terminal.Printf(s.Out, "%s\n", v.raw)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&stdin, "stdin", false, "answer JSON lines from standard input")
	return cmd
}
