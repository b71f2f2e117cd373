// Reference writes what documentation says of commands, tools and keys from the program
// itself: docs/commands.md from the commands, the table of tools in docs/tools.md and the
// tables of keys in docs/adding-a-tool.md from the catalogue, the line of trust in docs/security.md, and the console's words from
// docs/glossary.md.
package main

import (
	"bytes"
	"errors"
	"fmt"
	"os"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "reference:", err)
		os.Exit(1)
	}
}

func run() error {
	return errors.Join(commands("docs/commands.md"), tools("docs/tools.md"), keys("docs/adding-a-tool.md"), glossary("docs/glossary.md", "console/src/glossary.gen.ts"), line("docs/security.md"))
}

// between puts text in place of what stands between two marks of a file.
func between(file, name, text string) error {
	begin, end := fmt.Sprintf("<!-- %s: written by make generate -->\n", name), fmt.Sprintf("<!-- end of %s -->\n", name)
	data, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	before, rest, ok := bytes.Cut(data, []byte(begin))
	_, after, closed := bytes.Cut(rest, []byte(end))
	if !ok || !closed {
		return fmt.Errorf("%s has no place for %s", file, name)
	}
	return os.WriteFile(file, fmt.Appendf(nil, "%s%s%s%s%s", before, begin, text, end, after), 0o644)
}
