package cli

import (
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
	"wexo/internal/host/repo"
	"wexo/internal/survey"
)

// choosing are the options by which survey and findings leave findings out alike.
type choosing struct {
	classes, severities, tools, repositories, tags []string
}

func (c *choosing) flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringSliceVar(&c.classes, "class", nil, "only findings of these `classes`")
	f.StringSliceVar(&c.severities, "severity", nil, "only findings of these `severities`: error, warning, note")
	f.StringSliceVar(&c.tools, "tool", nil, "only findings on these `tools`, by a name or another of their names")
	f.StringSliceVar(&c.repositories, "repository", nil, "only these `repositories`, by their names")
	f.StringSliceVar(&c.tags, "tag", nil, "only repositories with one of these `tags`")
}

// check refuses classes and severities that there are not; what else is asked for is known
// later.
func (c *choosing) check() error { return classesAndSeverities(c.classes, c.severities) }

// of is what is chosen, with tools by their own names.
func (c *choosing) of(known *catalogue.Catalogue) (assess.Choice, error) {
	out := assess.Choice{Classes: c.classes, Repositories: c.repositories, Tags: c.tags}
	for _, severity := range c.severities {
		out.Severities = append(out.Severities, assess.Severity(severity))
	}
	for _, name := range c.tools {
		tool, there := known.Tool(name)
		switch {
		case there:
			out.Tools = append(out.Tools, tool.Name)
		case slices.Contains(known.Frameworks(), name):
			out.Tools = append(out.Tools, name)
		default:
			return out, unknownTool(name, known)
		}
	}
	return out, nil
}

// among leaves the repositories that are asked for, so that no others are read.
func (c *choosing) among(found []repo.Location) ([]repo.Location, error) {
	if c.repositories == nil {
		return found, nil
	}
	var names []string
	for _, l := range found {
		names = append(names, l.Name)
	}
	for _, name := range c.repositories {
		if !slices.Contains(names, name) {
			return nil, usage("--repository: none is called %q here; %s", name, nearest.Hint(name, names))
		}
	}
	return slices.DeleteFunc(found, func(l repo.Location) bool { return !slices.Contains(c.repositories, l.Name) }), nil
}

// tagged refuses tags that no repository has.
func (c *choosing) tagged(entries []survey.Entry) error {
	var known []string
	for _, e := range entries {
		known = append(known, e.Settings.Tags...)
	}
	slices.Sort(known)
	known = slices.Compact(known)
	for _, tag := range c.tags {
		if !slices.Contains(known, tag) {
			return usage("--tag: no repository has %q; %s", tag, nearest.Hint(tag, known))
		}
	}
	return nil
}

// said is what is left out, in words; empty where nothing is.
func (c *choosing) said() string {
	var out []string
	for _, one := range []struct {
		option string
		list   []string
	}{{"--class", c.classes}, {"--severity", c.severities}, {"--tool", c.tools}, {"--repository", c.repositories}, {"--tag", c.tags}} {
		if one.list != nil {
			out = append(out, one.option+" "+strings.Join(one.list, ","))
		}
	}
	return strings.Join(out, " ")
}

// some is a list for a call; nil where nothing is asked for.
func some(list []string) *[]string {
	if list == nil {
		return nil
	}
	return &list
}

// report are the parameters of a service's report.
func (c *choosing) report() client.GetReportParams {
	return client.GetReportParams{Class: some(c.classes), Severity: some(c.severities), Tool: some(c.tools),
		Repository: some(c.repositories), Tag: some(c.tags)}
}
