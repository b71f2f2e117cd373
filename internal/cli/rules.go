package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/survey"
)

// freshness are the options that say whether what repositories said before is remembered.
type freshness struct{ fresh bool }

func (r *freshness) flags(cmd *cobra.Command) {
	cmd.Flags().BoolVar(&r.fresh, "fresh", false, "read every repository anew, whatever is remembered of it")
}

// reader reads repositories by the rules of the configuration. Close its memory afterwards.
func (r *freshness) reader(ctx context.Context, c *catalogue.Catalogue, claims *reading.Reader, cfg config) (survey.Reader, error) {
	out := survey.Reader{Claims: claims, Rules: cfg.Rules}
	if _, here := heldBy(ctx); !here {
		var err error
		if out.Workers, err = workers(cfg.text); err != nil {
			return out, err
		}
	}
	if r.fresh {
		return out, nil
	}
	if dir, err := os.UserCacheDir(); err == nil { // without one nothing is remembered
		out.Memory, _ = survey.OpenMemory(filepath.Join(dir, "wexo", "readings.db"), build(), c, cfg.Rules)
	}
	return out, nil
}

// build tells this program from others that may have written what is remembered: its
// version, and the file it is run from.
func build() string {
	self, err := os.Executable()
	if err != nil {
		return Version
	}
	info, err := os.Stat(self)
	if err != nil {
		return Version
	}
	return fmt.Sprintf("%s %d %d", Version, info.Size(), info.ModTime().UnixNano())
}
