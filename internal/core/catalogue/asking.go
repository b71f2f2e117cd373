package catalogue

import (
	"io/fs"
	"slices"
	"strconv"
	"strings"
)

// asked are the arguments with which a tool of anybody's catalogue folder may be asked for its
// version. Whatever executable the folder names, none of these makes it do more than speak of
// itself; a shell's -c, a file's name or a second argument could.
var asked = []string{"--version", "-version", "version", "-V", "-v", "-dumpfullversion"}

// onlyAsks reports whether arguments do no more than ask for a version.
func onlyAsks(args []string) bool { return len(args) == 1 && slices.Contains(asked, args[0]) }

// restricted reports whether the tools of a folder may be asked with few arguments alone.
func restricted(dir fs.FS) bool {
	folder, named := dir.(Folder)
	return named && !folder.Trusted
}

// asking checks the arguments with which a tool is asked for its version.
func (c *checking) asking() {
	if !c.file.restricted {
		return
	}
	for i, source := range c.tool.Installation.Version {
		if source.Run != nil && !onlyAsks(source.Run) {
			c.fail(c.at("installation", "version", strconv.Itoa(i), "run"),
				"%q is run with %q; a tool of a catalogue folder is asked for its version with one of %s alone, unless a configuration that --config or WEXO_CONFIG names says trusted: true",
				strings.Join(c.tool.Installation.Executables, ", "), strings.Join(source.Run, " "), strings.Join(asked, ", "))
		}
	}
}
