package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/survey"
	"wexo/internal/terminal"
)

// reading are the options that say by which rules repositories are read, and whether what
// they said before is remembered.
type reading struct {
	config string
	fresh  bool
}

func (r *reading) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&r.config, "config", "wexo.yaml", "read rules and configuration from this `file`")
	cmd.Flags().BoolVar(&r.fresh, "fresh", false, "read every repository anew, whatever is remembered of it")
}

// reader reads repositories by the rules of the configuration file, which need not be
// there unless it was named. Close its memory afterwards.
func (r *reading) reader(cmd *cobra.Command, c *catalogue.Catalogue, claims *claim.Reader) (survey.Reader, error) {
	rules, data, err := readRules(cmd.Context(), c, r.config, cmd.Flags().Changed("config"))
	out := survey.Reader{Claims: claims, Rules: rules}
	if err != nil {
		return out, err
	}
	if out.Workers, err = workers(data); err != nil || r.fresh {
		return out, err
	}
	if dir, err := os.UserCacheDir(); err == nil { // without one nothing is remembered
		out.Memory, _ = survey.OpenMemory(filepath.Join(dir, "wexo", "readings.db"), build(), c, data)
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

// readRules reads the rules of an estate's configuration file. Errors name the file, the
// line and what was expected.
func readRules(ctx context.Context, c *catalogue.Catalogue, file string, named bool) (claim.Rules, []byte, error) {
	data, err := configText(ctx, file, named)
	if err != nil {
		return claim.Rules{}, nil, err
	}
	rules, err := parseRules(c, data, file)
	return rules, data, err
}

// configText is what stands in the configuration file, which need not be there unless it
// was named.
func configText(ctx context.Context, file string, named bool) ([]byte, error) {
	if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) && !named {
		return nil, nil
	}
	return readGiven(ctx, file, maxConfig)
}

// parseRules reads the rules of an estate's configuration, which stands in a file.
func parseRules(c *catalogue.Catalogue, data []byte, file string) (claim.Rules, error) {
	others := make([]string, 0, len(configKeys))
	for key := range configKeys {
		others = append(others, key)
	}
	rules, problems := claim.ParseRules(data, c, true, others...)
	if len(problems) == 0 {
		return rules, nil
	}
	var lines []string
	for _, p := range problems {
		lines = append(lines, fmt.Sprintf("%s:%d: %s", file, p.Line, p.Reason))
	}
	return rules, usage("%s", terminal.Lines(lines))
}
