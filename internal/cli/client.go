package cli

import (
	"context"
	"fmt"
	"net/http"
	"path/filepath"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/unseen"
	"wexo/internal/terminal"
)

// remote is a service that a client command speaks to.
type remote struct {
	server, token, output string
}

func (r *remote) flags(cmd *cobra.Command) {
	f := cmd.PersistentFlags()
	f.StringVar(&r.server, "server", "", "the service's `URL` (or WEXO_SERVER)")
	f.StringVar(&r.token, "token", "", "the service's token (or WEXO_TOKEN)")
	f.StringVar(&r.output, "output", "text", "write text or json")
}

// open makes the generated client.
func (r *remote) open() (*client.ClientWithResponses, error) {
	if r.output != "" {
		if err := oneOf("--output", r.output, outputs...); err != nil {
			return nil, err
		}
	}
	server, token, err := serverOptions(r.server, r.token)
	if err != nil {
		return nil, err
	}
	c, err := client.NewClientWithResponses(server, client.WithRequestEditorFn(func(_ context.Context, q *http.Request) error {
		q.Header.Set("Authorization", "Bearer "+token)
		return nil
	}), client.WithHTTPClient(&http.Client{Transport: answers{http.DefaultTransport}}))
	if err != nil {
		return nil, usage("--server %s: %v", server, err)
	}
	return c, nil
}

func newRepositories(s Streams) *cobra.Command {
	var r remote
	cmd := &cobra.Command{Use: "repositories", Short: "The repositories of a running service"}
	r.flags(cmd)
	cmd.AddCommand(
		&cobra.Command{Use: "list", Short: "List repositories", Example: "  wexo repositories list\n  wexo repositories list --output json", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			got, err := c.ListRepositoriesWithResponse(cmd.Context())
			if err := answered(err, got, http.StatusOK); err != nil {
				return err
			}
			return r.repositories(s, got.JSON200.Repositories)
		}},
		&cobra.Command{Use: "add PATH…", Short: "Add every repository at or below a path of the service's machine", Example: "  wexo repositories add ~/work", Args: cobra.MinimumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			var added []client.Repository
			var gaps []unseen.Gap
			for _, arg := range args {
				path, err := filepath.Abs(arg)
				if err != nil {
					return usage("%v", err)
				}
				got, err := c.AddRepositoriesWithResponse(cmd.Context(), client.AddRepositories{Path: path})
				if err := answered(err, got, http.StatusCreated); err != nil {
					return err
				}
				added = append(added, got.JSON201.Repositories...)
				passed, err := recast[[]unseen.Gap](got.JSON201.Unseen)
				if err != nil {
					return err
				}
				gaps = append(gaps, passed...)
			}
			if err := r.repositories(s, added); err != nil {
				return err
			}
			tellGaps(s, gaps)
			return ending(gaps, nil, false)
		}},
		&cobra.Command{Use: "remove NAME…", Short: "Forget repositories; nothing on disk changes", Example: "  wexo repositories remove moss-index", Args: cobra.MinimumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			for _, name := range args {
				got, err := c.RemoveRepositoryWithResponse(cmd.Context(), name)
				if err := answered(err, got, http.StatusNoContent); err != nil {
					return err
				}
				_ = terminal.Printf(s.Err, "%s is forgotten.\n", name)
			}
			return nil
		}})
	return cmd
}

func (r *remote) repositories(s Streams, list []client.Repository) error {
	if r.output == "json" {
		return writeJSON(s.Out, list)
	}
	w := tabwriter.NewWriter(s.Out, 0, 0, 2, ' ', 0)
	_, _ = fmt.Fprintln(w, "REPOSITORY\tCOMMIT\tREAD\tPATH")
	for _, x := range list {
		commit := x.Commit
		if len(commit) > 10 {
			commit = commit[:10]
		}
		_ = terminal.Printf(w, "%s\t%s\t%s\t%s\n", x.Name, orDash(commit), orDash(x.ReadAt), x.Path)
	}
	return w.Flush()
}

func newTokens(s Streams) *cobra.Command {
	var r remote
	var role, machine string
	cmd := &cobra.Command{Use: "tokens", Short: "The access tokens of a running service"}
	r.flags(cmd)
	add := &cobra.Command{Use: "add NAME", Short: "Make a token and print its secret, once", Example: "  wexo tokens add fern --role reader\n  wexo tokens add seed-agent --role collector --machine seed-agent", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		if err := oneOf("--role", role, "reader", "collector", "lead", "owner"); err != nil {
			return err
		}
		c, err := r.open()
		if err != nil {
			return err
		}
		got, err := c.CreateTokenWithResponse(cmd.Context(), client.NewToken{Name: args[0], Role: client.Role(role), Machine: given(machine)})
		if err := answered(err, got, http.StatusCreated); err != nil {
			return err
		}
		return terminal.Printf(s.Out, "%s\n", got.JSON201.Token)
	}}
	add.Flags().StringVar(&role, "role", "reader", "what it may do: reader, collector (sends inventories), lead or owner")
	add.Flags().StringVar(&machine, "machine", "", "for a collector: the `name` of the machine that it speaks for; else the first that it sends")
	cmd.AddCommand(add, newRecover(s),
		&cobra.Command{Use: "list", Short: "List tokens", Example: "  wexo tokens list", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			got, err := c.ListTokensWithResponse(cmd.Context())
			if err := answered(err, got, http.StatusOK); err != nil {
				return err
			}
			if r.output == "json" {
				return writeJSON(s.Out, got.JSON200.Tokens)
			}
			w := tabwriter.NewWriter(s.Out, 0, 0, 2, ' ', 0)
			_, _ = fmt.Fprintln(w, "ID\tNAME\tROLE\tMACHINE\tMADE\tLAST USED")
			for _, t := range got.JSON200.Tokens {
				_ = terminal.Printf(w, "%d\t%s\t%s\t%s\t%s\t%s\n", t.Id, t.Name, string(t.Role), orDash(text(t.Machine)), t.CreatedAt, orDash(t.LastUsedAt))
			}
			return w.Flush()
		}},
		&cobra.Command{Use: "remove ID", Short: "Revoke a token", Example: "  wexo tokens remove 3", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			var id int64
			if _, err := fmt.Sscan(args[0], &id); err != nil {
				return usage("%q is no token's number; see: wexo tokens list", args[0])
			}
			got, err := c.DeleteTokenWithResponse(cmd.Context(), id)
			return answered(err, got, http.StatusNoContent)
		}})
	return cmd
}

func newFindings(s Streams) *cobra.Command {
	var r remote
	var only choosing
	var cause, q string
	var apart bool
	var limit, offset int
	cmd := &cobra.Command{Use: "findings", Short: "The findings of a running service", Example: "  wexo findings --class end-of-life\n  wexo findings --tool node --severity error --limit 20\n  wexo findings --find 'seed ledger' --output json", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		if err := only.check(); err != nil {
			return err
		}
		c, err := r.open()
		if err != nil {
			return err
		}
		p := client.ListFindingsParams{Limit: &limit, Offset: &offset, Cause: given(cause), Apart: &apart, Q: given(q), Class: some(only.classes),
			Severity: some(only.severities), Tool: some(only.tools), Repository: some(only.repositories), Tag: some(only.tags)}
		if p.AsOf, err = givenDay(cmd); err != nil {
			return err
		}
		got, err := c.ListFindingsWithResponse(cmd.Context(), &p)
		if err := answered(err, got, http.StatusOK); err != nil {
			return err
		}
		return r.findings(s, *got.JSON200)
	}}
	r.flags(cmd)
	only.flags(cmd)
	f := cmd.Flags()
	f.StringVar(&cause, "cause", "", "only those of the cause with this `id`, as the report in JSON gives it")
	f.BoolVar(&apart, "apart", false, "those in folders of test data, examples and vendored code instead of the others")
	f.StringVar(&q, "find", "", "only those with these `words`")
	f.String("as-of", "", "judge as of this `date`")
	f.IntVar(&limit, "limit", 100, "at most so many")
	f.IntVar(&offset, "offset", 0, "leave out so many first")
	return cmd
}

func given(text string) *string {
	if strings.TrimSpace(text) == "" {
		return nil
	}
	return &text
}
