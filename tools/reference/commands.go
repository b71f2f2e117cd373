package main

import (
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"wexo/internal/cli"
)

// commands writes every command with its options and examples.
func commands(file string) error {
	if err := os.Setenv("TMPDIR", "/tmp"); err != nil { // a default is made of it
		return err
	}
	root := cli.Command(cli.Streams{})
	var b strings.Builder
	b.WriteString("| command | what it does |\n| --- | --- |\n")
	walk(root, func(c *cobra.Command) {
		fmt.Fprintf(&b, "| [`%s`](#%s) | %s |\n", c.CommandPath(), anchor(c), c.Short)
	})
	b.WriteString("\nOptions of every command:\n\n")
	options(&b, root.PersistentFlags())
	walk(root, func(c *cobra.Command) { section(&b, c) })
	return between(file, "commands", b.String())
}

// walk visits what can be run, in the order of the help.
func walk(c *cobra.Command, visit func(*cobra.Command)) {
	for _, sub := range c.Commands() {
		if sub.Hidden || sub.Name() == "help" {
			continue
		}
		if sub.HasSubCommands() {
			walk(sub, visit)
			continue
		}
		visit(sub)
	}
}

func anchor(c *cobra.Command) string { return strings.ReplaceAll(c.CommandPath(), " ", "-") }

func section(b *strings.Builder, c *cobra.Command) {
	fmt.Fprintf(b, "\n## %s\n\n```\n%s\n```\n\n", c.CommandPath(), strings.TrimSuffix(c.UseLine(), " [flags]"))
	text := c.Long
	if text == "" {
		text = c.Short + "."
	}
	b.WriteString(paragraph(text) + "\n\n")
	var own []*pflag.Flag
	for _, set := range []*pflag.FlagSet{c.LocalFlags(), c.InheritedFlags()} {
		set.VisitAll(func(f *pflag.Flag) {
			if c.Root().PersistentFlags().Lookup(f.Name) == nil && f.Name != "help" {
				own = append(own, f)
			}
		})
	}
	if len(own) > 0 {
		table(b, own)
	}
	b.WriteString("| exit status | |\n| --- | --- |\n")
	for _, s := range cli.Statuses()[strings.TrimPrefix(c.CommandPath(), "wexo ")] {
		fmt.Fprintf(b, "| %d | %s |\n", s.Status, s.Means)
	}
	b.WriteByte('\n')
	if c.Example != "" {
		b.WriteString("<!-- walk: service -->\n```sh\n")
		for line := range strings.Lines(c.Example) {
			b.WriteString(strings.TrimSpace(line) + "\n")
		}
		b.WriteString("```\n")
	}
}

// paragraph is a text of the help as a paragraph: its lines were broken for a terminal.
func paragraph(text string) string {
	text = strings.ReplaceAll(text, "<", "&lt;")
	return strings.ReplaceAll(text, "\n", " ")
}

func options(b *strings.Builder, set *pflag.FlagSet) {
	var list []*pflag.Flag
	set.VisitAll(func(f *pflag.Flag) { list = append(list, f) })
	table(b, list)
}

func table(b *strings.Builder, list []*pflag.Flag) {
	b.WriteString("| option | what it says |\n| --- | --- |\n")
	for _, f := range list {
		name, usage := pflag.UnquoteUsage(f)
		form := "--" + f.Name
		if name != "" {
			form += " " + strings.ToUpper(name)
		}
		if f.DefValue != "" && f.DefValue != "[]" && f.DefValue != "false" && f.DefValue != "0s" {
			usage += "; " + f.DefValue + " where it is left out"
		}
		fmt.Fprintf(b, "| `%s` | %s |\n", form, strings.ReplaceAll(usage, "|", `\|`))
	}
	b.WriteByte('\n')
}
