// Classes writes what docs and console know of finding classes, from the table that judges
// by them: the table in docs/findings.md, and console/src/classes.gen.ts. A class that is
// not called, explained or drawn is an error.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"

	"wexo/internal/core/assess"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "classes:", err)
		os.Exit(1)
	}
}

func run() error {
	for _, c := range assess.Classes() {
		if c.Title == "" || c.Short == "" || c.Help == "" || c.Mark == "" {
			return fmt.Errorf("%s lacks a title, a short title, help or a mark", c.Name)
		}
	}
	return errors.Join(docs("docs/findings.md"), console("console/src/classes.gen.ts"))
}

// The table stands between these.
const begin, end = "<!-- classes: written by make generate -->\n", "<!-- end of classes -->\n"

func docs(file string) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	before, rest, ok := bytes.Cut(text, []byte(begin))
	_, after, closed := bytes.Cut(rest, []byte(end))
	if !ok || !closed {
		return fmt.Errorf("%s has no place for the classes", file)
	}
	var b bytes.Buffer
	b.Write(before)
	b.WriteString(begin + "| class | severity | when |\n| --- | --- | --- |\n")
	for _, c := range assess.Classes() {
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", c.Name, c.Severity, c.Help)
	}
	b.WriteString(end)
	b.Write(after)
	return os.WriteFile(file, b.Bytes(), 0o644)
}

func console(file string) error {
	var b bytes.Buffer
	b.WriteString("// Written by make generate from the table of finding classes.\n\nexport const classes = {\n")
	for _, c := range assess.Classes() {
		fmt.Fprintf(&b, "  %s: {\n    title: %s,\n    short: %s,\n    mark: %s,\n    severity: %s,\n    help: %s,\n  },\n",
			quoted(c.Name), quoted(c.Title), quoted(c.Short), quoted(c.Mark), quoted(string(c.Severity)), quoted(strings.ReplaceAll(c.Help, "`", "")))
	}
	b.WriteString("} as const;\n")
	return os.WriteFile(file, b.Bytes(), 0o644)
}

func quoted(text string) string {
	data, err := json.Marshal(text)
	if err != nil {
		return `""`
	}
	return string(data)
}
