package cli

import (
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
	"wexo/internal/core/rule"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

func newRules(s Streams) *cobra.Command {
	return &cobra.Command{
		Use:   "rules [NAME [VERSION]]",
		Short: "Show what must go together: all rules, those of a tool or component, or what goes with a version",
		Long: "Lists the rules that are judged by, shipped and of the catalogue folders: with a name those that\n" +
			"speak of it, row by row with their sources; with a version or line what goes with it, in whichever\n" +
			"direction the rules are written.",
		Example: "  wexo rules\n  wexo rules gradle\n  wexo rules java 21\n  wexo rules gradle 8.4",
		Args:    cobra.MaximumNArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, _, err := configured(cmd)
			if err != nil {
				return err
			}
			if len(args) == 0 {
				for _, r := range k.Rules {
					_ = terminal.Printf(s.Out, "%-28s %s\n", r.Name, speaking(k.Catalogue, r))
				}
				return nil
			}
			name := args[0]
			if t, known := k.Catalogue.Tool(name); known {
				name = t.Name
			}
			rules := k.Of(name)
			if len(rules) == 0 {
				return usage("no rule speaks of %q; %s", args[0], nearest.Hint(args[0], spokenOf(k.Book)))
			}
			if len(args) == 2 {
				return k.goesWith(s, rules, name, args[1])
			}
			for _, r := range rules {
				tellRule(s, k.Catalogue, r)
			}
			return nil
		},
	}
}

// speaking names what a rule speaks of.
func speaking(c *catalogue.Catalogue, r *rule.Rule) string {
	var out []string
	for _, e := range r.Ends {
		title := strings.TrimSpace(c.Title(e.Of) + " " + strings.TrimSuffix(e.Label, "word"))
		out = append(out, strings.TrimSpace(title))
	}
	return strings.Join(out, " – ")
}

func tellRule(s Streams, c *catalogue.Catalogue, r *rule.Rule) {
	_ = terminal.Printf(s.Out, "%s: %s (%s)\n", r.Name, speaking(c, r), r.At.File)
	for i := range r.Rows {
		row := &r.Rows[i]
		if !row.Implied {
			source := strings.Trim(row.Source+", "+row.Date, ", ")
			if source != "" {
				source = "  [" + source + "]"
			}
			_ = terminal.Printf(s.Out, "  %s%s\n", sentence.Rows(c, r, []*rule.Row{row}), source)
		}
	}
}

// goesWith tells what rules leave of all else beside a version.
func (k known) goesWith(s Streams, rules []*rule.Rule, name, text string) error {
	scheme, versioned := k.Catalogue.SchemeNamed(name)
	if !versioned {
		return usage("%s has no versions", name)
	}
	is, err := catalogue.Range(scheme, text)
	if err != nil {
		return usage("%v", err)
	}
	told := false
	for _, r := range rules {
		values := make([]rule.Value, len(r.Ends))
		at := r.Speaks(name)
		if at < 0 || len(r.Ends) != 2 {
			continue
		}
		values[at].Set = is
		other := 1 - at
		if r.Ends[other].Label != "" {
			continue
		}
		left := r.Left(other, values).WithoutPrereleases()
		if left.IsAll() {
			continue
		}
		told = true
		_ = terminal.Printf(s.Out, "%s %s goes with %s %s  [%s]\n", k.Catalogue.Title(name), text, k.Catalogue.Title(r.Ends[other].Of), left, r.Name)
	}
	if !told {
		_ = terminal.Printf(s.Out, "Nothing narrows what goes with %s %s.\n", k.Catalogue.Title(name), text)
	}
	return nil
}

// spokenOf are the tools and components that rules speak of, sorted.
func spokenOf(b *rule.Book) []string {
	var out []string
	for _, r := range b.Rules {
		for _, e := range r.Ends {
			out = append(out, e.Of)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
