package main

import (
	"fmt"
	"strings"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/sentence"
)

// tools writes the table of tools: how each is called, ordered and written, whether it needs
// a pin, and what is known of its support.
func tools(file string) error {
	c, err := catalogue.Embedded()
	if err != nil {
		return err
	}
	var b strings.Builder
	b.WriteString("| tool | also called | order | pins are written | a pin is needed | support |\n| --- | --- | --- | --- | --- | --- |\n")
	for _, t := range c.Tools() {
		fmt.Fprintf(&b, "| %s (`%s`) | %s | %s | %s | %s | %s |\n", t.Title, t.Name, code(t.Names), t.SchemeName, t.Dialect, pinned(c, t), support(t))
	}
	return between(file, "tools", b.String())
}

func code(names []string) string {
	var out []string
	for _, name := range names {
		out = append(out, "`"+name+"`")
	}
	return strings.Join(out, ", ")
}

func pinned(c *catalogue.Catalogue, t *catalogue.Tool) string {
	switch {
	case t.BundledWith != "":
		return "no: it comes with " + c.Title(t.BundledWith)
	case t.BoundsSuffice:
		return "not where a manifest bounds it"
	case len(t.Uses) == 0:
		return "no: no file shows that it is used without saying which"
	}
	return "yes"
}

// support is what is known of a tool's lines.
func support(t *catalogue.Tool) string {
	if len(t.Lines) == 0 {
		return "not recorded"
	}
	text := fmt.Sprintf("%s, %s to %s", sentence.Count(len(t.Lines), "line", "lines"), t.Lines[0].Line, t.Lines[len(t.Lines)-1].Line)
	if n := t.Support.Newest; n > 0 {
		text += fmt.Sprintf("; the newest %s", sentence.Count(n, "is supported", "are supported"))
		for _, l := range t.Lines {
			if !l.LongTerm.IsZero() {
				text += ", and those with long-term support to their dates"
				break
			}
		}
	}
	return text + "; as of " + t.Checked.Format(time.DateOnly)
}
