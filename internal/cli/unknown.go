package cli

import (
	"regexp"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
	"wexo/internal/core/sentence"
	"wexo/internal/core/userrule"
)

// unknownTool refuses a tool that the catalogue does not know, and names the nearest one.
func unknownTool(name string, c *catalogue.Catalogue) error {
	return usage("unknown tool %q; %s", name, userrule.Unknown(name, c))
}

// toolNamed is a tool by its name or another of its names.
func toolNamed(c *catalogue.Catalogue, name string) (*catalogue.Tool, error) {
	if tool, known := c.Tool(name); known {
		return tool, nil
	}
	return nil, unknownTool(name, c)
}

// oneOf refuses the value of an option that is none of those that are known.
func oneOf(option, value string, known ...string) error {
	if slices.Contains(known, value) {
		return nil
	}
	if _, near := nearest.To(value, known); near {
		return usage("%s is %q, which is none that is known; %s", option, value, nearest.Hint(value, known))
	}
	return usage("%s should be %s, and it is %q", option, nearest.Listed(known, "or"), value)
}

// severities are how bad a finding can be.
var severities = []string{string(assess.Error), string(assess.Warning), string(assess.Note)}

// classesAndSeverities refuses classes and severities that there are not.
func classesAndSeverities(classes, bad []string) error {
	for _, class := range classes {
		if err := oneOf("--class", class, assess.ClassNames()...); err != nil {
			return err
		}
	}
	for _, severity := range bad {
		if err := oneOf("--severity", severity, severities...); err != nil {
			return err
		}
	}
	return nil
}

// misspelt refuses a subcommand that there is not. It is set for commands that are nothing
// without one, which would else print their help and end as if all were well.
func misspelt(cmd *cobra.Command, args []string) error {
	var known []string
	for _, sub := range cmd.Commands() {
		if !sub.Hidden {
			known = append(known, sub.Name())
		}
	}
	if len(args) == 0 {
		return usage("%s wants one of %s; %s --help tells more", cmd.CommandPath(), nearest.Listed(known, "or"), cmd.CommandPath())
	}
	return usage("unknown command %q for %s; %s", args[0], cmd.CommandPath(), nearest.Hint(args[0], known))
}

// valueIn finds what the library says of a value that an option does not take.
var valueIn = regexp.MustCompile(`(?s)^invalid argument "(.*)" for "(?:-\w, )?(--[\w-]+)" flag: (.*)$`)

// wanting finds an option that was given without its value.
var wanting = regexp.MustCompile(`^flag needs an argument: (?:'\w' in )?(--?[\w-]+)`)

// flagIn finds an option that nobody knows.
var flagIn = regexp.MustCompile(`^unknown (?:flag|shorthand flag): (.+)$`)

// kinds are what options take, by the library's names.
var kinds = map[string]string{"int": "a whole number", "bool": "true or false", "duration": "a time such as 30m or 24h"}

// misused says what is wrong with options, without the words of the library that read them.
func misused(cmd *cobra.Command, err error) error {
	if m := valueIn.FindStringSubmatch(err.Error()); m != nil {
		should := "a value of another kind"
		if flag := cmd.Flag(strings.TrimPrefix(m[2], "--")); flag != nil {
			should = kinds[flag.Value.Type()]
		}
		return usage("%s should be %s, and it is %q", m[2], should, m[1])
	}
	if m := wanting.FindStringSubmatch(err.Error()); m != nil {
		return usage("%s wants a value", m[1])
	}
	if m := flagIn.FindStringSubmatch(err.Error()); m != nil {
		var known []string
		for _, set := range []*pflag.FlagSet{cmd.Flags(), cmd.InheritedFlags()} {
			set.VisitAll(func(f *pflag.Flag) { known = append(known, "--"+f.Name) })
		}
		name, _, _ := strings.Cut(m[1], "=")
		if _, near := nearest.To(name, known); near {
			return usage("unknown option %s for %s; %s", name, cmd.CommandPath(), nearest.Hint(name, known))
		}
		return usage("unknown option %s for %s; %s --help lists those that there are", m[1], cmd.CommandPath(), cmd.CommandPath())
	}
	return usage("%v", err)
}

// countIn finds what the library says of the number of arguments.
var countIn = regexp.MustCompile(`arg\(s\)|^unknown command`)

// togetherIn finds options that exclude each other.
var togetherIn = regexp.MustCompile(`^if any flags in the group \[([^\]]+)\] are set none of the others can be`)

// counted makes a command say how it is used where it is given another number of arguments
// than it takes.
func counted(cmd *cobra.Command) {
	for _, sub := range cmd.Commands() {
		counted(sub)
	}
	takes := cmd.Args
	if takes == nil {
		return
	}
	cmd.Args = func(cmd *cobra.Command, args []string) error {
		err := takes(cmd, args)
		if err == nil || !countIn.MatchString(err.Error()) {
			return err
		}
		given := sentence.Count(len(args), "argument was", "arguments were")
		return usage("%s given; it is used so: %s", given, strings.TrimSuffix(cmd.UseLine(), " [flags]"))
	}
}

// plainly is what the library says of a command line, in words of our own.
func plainly(err error) string {
	if m := togetherIn.FindStringSubmatch(err.Error()); m != nil {
		var names []string
		for _, name := range strings.Fields(m[1]) {
			names = append(names, "--"+name)
		}
		return nearest.Listed(names, "and") + " exclude each other"
	}
	return err.Error()
}
