package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"os"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"wexo/internal/server/store"
	"wexo/internal/terminal"
)

// newSessions lists and ends the sessions of consoles.
func newSessions(s Streams) *cobra.Command {
	var r remote
	cmd := &cobra.Command{Use: "sessions", Short: "The consoles that are signed in to a running service"}
	r.flags(cmd)
	cmd.AddCommand(
		&cobra.Command{Use: "list", Short: "List sessions", Example: "  wexo sessions list", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			got, err := c.ListSessionsWithResponse(cmd.Context())
			if err := answered(err, got, http.StatusOK); err != nil {
				return err
			}
			if r.output == "json" {
				return writeJSON(s.Out, got.JSON200.Sessions)
			}
			w := tabwriter.NewWriter(s.Out, 0, 0, 2, ' ', 0)
			_, _ = fmt.Fprintln(w, "ID\tNAME\tROLE\tBEGUN WITH\tBEGUN\tENDS")
			for _, x := range got.JSON200.Sessions {
				_ = terminal.Printf(w, "%d\t%s\t%s\t%s\t%s\t%s\n", x.Id, x.Name, string(x.Role), x.From, orDash(x.CreatedAt), x.ExpiresAt)
			}
			return w.Flush()
		}},
		&cobra.Command{Use: "remove ID", Short: "Sign a console out", Example: "  wexo sessions remove 2", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			c, err := r.open()
			if err != nil {
				return err
			}
			var id int64
			if _, err := fmt.Sscan(args[0], &id); err != nil {
				return usage("%q is no session's number; see: wexo sessions list", args[0])
			}
			got, err := c.EndSessionWithResponse(cmd.Context(), id)
			return answered(err, got, http.StatusNoContent)
		}})
	return cmd
}

// newRecover makes an owner's token where everybody is locked out. Whoever may write the
// data file could do the same by hand.
func newRecover(s Streams) *cobra.Command {
	cmd := &cobra.Command{Use: "recover", Short: "Make a new owner's token on the service's own machine",
		Long: "Writes a new owner's token into the service's data file and prints it, once. It needs no token and\n" +
			"no running service, but has to be run where the data file lies, by an account that may write it.",
		Example: "  wexo tokens recover --data wexo.db", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, cfg, err := configured(cmd)
			if err != nil {
				return err
			}
			if err := cfg.ownData(); err != nil {
				return err
			}
			data := cfg.Data
			if _, err := os.Stat(data); errors.Is(err, fs.ErrNotExist) {
				return usage("there is no data file %s; name the service's with --data", data)
			}
			if store.Aliased(data) {
				return failed("%s has other names, and a service serves it by one of them; name it as the service does", data)
			}
			db, err := store.Open(cmd.Context(), data)
			if err != nil {
				return failed("%v", err)
			}
			defer db.Close()
			_, secret, err := db.CreateToken(cmd.Context(), "recovered owner", "owner", "", time.Now())
			if err != nil {
				return failed("%v", err)
			}
			return terminal.Printf(s.Out, "An owner's token, shown once: %s\n", secret)
		}}
	cmd.Flags().String("data", "wexo.db", "the service's SQLite `file`")
	return cmd
}

// text is what an optional text holds.
func text(t *string) string {
	if t == nil {
		return ""
	}
	return *t
}
