package cli

import (
	"bufio"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/version"
)

func newSatisfies(s Streams) *cobra.Command {
	var stdin bool
	cmd := &cobra.Command{
		Use:   "satisfies DIALECT RANGE VERSION…",
		Short: "Tell which versions are in a range",
		Long: "Prints the versions that are in the range, one a line; exit status 1 where none is.\nDialects: " +
			strings.Join(version.DialectNames(), ", ") + ".\n" +
			"With --stdin, reads JSON lines {\"dialect\",\"range\",\"version\"} and answers each.",
		RunE: func(_ *cobra.Command, args []string) error {
			if stdin {
				return answer(s, satisfiesLine)
			}
			if len(args) < 3 {
				return usage("wexo satisfies DIALECT RANGE VERSION…")
			}
			set, err := version.ParseRange(args[0], version.NoScheme, args[1])
			if err != nil {
				return usage("%v", err)
			}
			any := false
			for _, raw := range args[2:] {
				v, err := set.Scheme().Parse(raw)
				if err != nil {
					return usage("%v", err)
				}
				if set.Contains(v) {
					any = true
					fmt.Fprintln(s.Out, raw)
				}
			}
			if !any {
				return &exitError{status: exitFindings}
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&stdin, "stdin", false, "answer JSON lines from standard input")
	return cmd
}

func newOrder(s Streams) *cobra.Command {
	var stdin bool
	cmd := &cobra.Command{
		Use:   "order SCHEME VERSION…",
		Short: "Sort versions, oldest first",
		Long: "Prints the versions sorted, oldest first.\nSchemes: " + strings.Join(version.SchemeNames(), ", ") + ".\n" +
			"With --stdin, reads JSON lines {\"scheme\",\"a\",\"b\"} and answers each.",
		RunE: func(_ *cobra.Command, args []string) error {
			if stdin {
				return answer(s, orderLine)
			}
			if len(args) < 2 {
				return usage("wexo order SCHEME VERSION…")
			}
			scheme, ok := version.SchemeNamed(args[0])
			if !ok {
				return usage("unknown scheme %q; known are %s", args[0], strings.Join(version.SchemeNames(), ", "))
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
				fmt.Fprintln(s.Out, v.raw)
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&stdin, "stdin", false, "answer JSON lines from standard input")
	return cmd
}

// answer writes one JSON line for each line read.
func answer(s Streams, line func(data []byte) (any, error)) error {
	in := bufio.NewScanner(s.In)
	in.Buffer(nil, 1<<20)
	out := bufio.NewWriterSize(s.Out, 1<<16)
	e := json.NewEncoder(out)
	e.SetEscapeHTML(false)
	for in.Scan() {
		if len(strings.TrimSpace(in.Text())) == 0 {
			continue
		}
		value, err := line(in.Bytes())
		if err != nil {
			value = map[string]string{"error": err.Error()}
		}
		if err := e.Encode(value); err != nil {
			return failed("%v", err)
		}
	}
	if err := in.Err(); err != nil {
		return failed("reading standard input: %v", err)
	}
	return out.Flush()
}

func satisfiesLine(data []byte) (any, error) {
	var q struct{ Dialect, Range, Version string }
	if err := json.Unmarshal(data, &q); err != nil {
		return nil, err
	}
	set, err := version.ParseRange(q.Dialect, version.NoScheme, q.Range)
	if err != nil {
		return nil, err
	}
	v, err := set.Scheme().Parse(q.Version)
	if err != nil {
		return nil, err
	}
	return map[string]bool{"satisfies": set.Contains(v)}, nil
}

func orderLine(data []byte) (any, error) {
	var q struct{ Scheme, A, B string }
	if err := json.Unmarshal(data, &q); err != nil {
		return nil, err
	}
	scheme, ok := version.SchemeNamed(q.Scheme)
	if !ok {
		return nil, fmt.Errorf("unknown scheme %q", q.Scheme)
	}
	a, err := scheme.Parse(q.A)
	if err != nil {
		return nil, err
	}
	b, err := scheme.Parse(q.B)
	if err != nil {
		return nil, err
	}
	return map[string]int{"order": a.Compare(b)}, nil
}
