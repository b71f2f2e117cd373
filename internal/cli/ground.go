package cli

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/core/catalogue"
	"wexo/internal/host/origin"
	"wexo/internal/terminal"
)

// configFile is a configuration that counts.
type configFile struct {
	name  string // "" where there is none
	text  []byte
	named bool // an option or a variable names it
}

// configName is what the configuration is called where nobody names another one.
const configName = "wexo.yaml"

// configOf is the configuration that counts for a command: the one that an option or variable
// names; else that of the current folder, where that is the user's own and no part of what is
// surveyed; else that of the user's configuration folder. What somebody's repository or archive
// holds decides nothing: one that is not used is told.
func configOf(cmd *cobra.Command, surveyed []string) (configFile, error) {
	ctx := cmd.Context()
	if name, named := namedConfig(cmd); named {
		text, err := readGiven(ctx, name, maxConfig)
		return configFile{name, text, true}, err
	}
	if exists(configName) {
		why := groundOf(configName, surveyed)
		if why == "" {
			text, err := readGiven(ctx, configName, maxConfig)
			return configFile{name: configName, text: text}, err
		}
		tellOnce(cmd, configName, "%s is not used, since %s; --config %s uses it", configName, why, configName)
	} else if exists(likeConfig) {
		tellOnce(cmd, likeConfig, "%s is not read; the configuration is called %s.", likeConfig, configName)
	}
	return ownConfig(ctx)
}

// ownConfig is the configuration in the user's configuration folder.
func ownConfig(ctx context.Context) (configFile, error) {
	dir, err := os.UserConfigDir()
	if err != nil {
		return configFile{name: configName}, nil // an account without a home has none
	}
	name := filepath.Join(dir, "wexo", configName)
	if _, err := os.Stat(name); errors.Is(err, fs.ErrNotExist) {
		return configFile{name: configName}, nil
	}
	if why := origin.OthersMayWrite(name); why != "" && runtime.GOOS != "windows" {
		return configFile{}, usage("%s is not read, since %s", name, why)
	}
	text, err := readGiven(ctx, name, maxConfig)
	return configFile{name: name, text: text}, err
}

// namedConfig is the configuration that an option or a variable names.
func namedConfig(cmd *cobra.Command) (string, bool) {
	if flag := cmd.Flag("config"); flag != nil && flag.Changed {
		return flag.Value.String(), true
	}
	name := os.Getenv("WEXO_CONFIG")
	return name, name != ""
}

// tellOnce tells something on standard error, once a command.
func tellOnce(cmd *cobra.Command, key, format string, args ...any) {
	if cmd.Annotations == nil {
		cmd.Annotations = map[string]string{}
	}
	if _, told := cmd.Annotations["told "+key]; told {
		return
	}
	cmd.Annotations["told "+key] = ""
	_ = terminal.Printf(cmd.ErrOrStderr(), "wexo: "+format+"\n", args...)
}

// groundOf tells why a file in the current folder decides nothing: the folder is surveyed, or
// part of somebody's repository or archive, or somebody else may write the file. It is "" where
// the file is the user's own.
func groundOf(file string, surveyed []string) string {
	here, err := os.Getwd()
	if err == nil {
		here, err = filepath.EvalSymlinks(here)
	}
	if err != nil {
		return "it cannot be told where it lies"
	}
	for _, dir := range surveyed {
		if real, err := realFolder(dir); err == nil && inFolder(real, here) {
			return "it lies in a folder that is surveyed"
		}
	}
	if why := origin.OthersMayWrite(filepath.Join(here, file)); why != "" && runtime.GOOS != "windows" {
		return why
	}
	c, reader, err := readingKnowledge(nil)
	if err != nil {
		return "it cannot be told where it lies"
	}
	return origin.On(origin.Disk(here), reader, sharedFolders(c)).Folder(origin.Slashed(here))
}

func realFolder(dir string) (string, error) {
	if at, _ := splitRepository(dir); isFolder(at) {
		dir = at
	}
	abs, err := filepath.Abs(dir)
	if err != nil {
		return "", err
	}
	return filepath.EvalSymlinks(abs)
}

// inFolder reports whether a path is a folder or lies below it.
func inFolder(folder, at string) bool {
	rel, err := filepath.Rel(folder, at)
	return err == nil && (rel == "." || rel != ".." && !strings.HasPrefix(rel, ".."+string(filepath.Separator)))
}

// sharedFolders are those of this machine in which things of many origins lie side by side.
func sharedFolders(c *catalogue.Catalogue) func(dir string) bool {
	home, err := os.UserHomeDir()
	if err != nil {
		home = ""
	}
	if real, err := filepath.EvalSymlinks(home); err == nil {
		home = real
	}
	return c.Places().Machines.SharedBy([]string{origin.Slashed(home)})
}

// ownData refuses the data file that nobody named where the current folder is somebody's source:
// a repository or an archive may have brought one.
func (c config) ownData() error {
	if c.dataNamed || !exists(c.Data) {
		return nil
	}
	if why := groundOf(c.Data, nil); why != "" {
		return usage("%s is not used, since %s; if it is yours, name it: --data %s", c.Data, why, c.Data)
	}
	return nil
}
