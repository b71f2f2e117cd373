package api

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/nearest"
	"wexo/internal/core/userrule"
	"wexo/internal/server/view"
)

// unnamed refuses a parameter that names nothing, and names the nearest that there is.
func unnamed(parameter, what, value string, known []string) error {
	return problem(http.StatusBadRequest, fmt.Sprintf("The parameter %s names %s that is not known: %.60q; %s", parameter, what, value, stopped(nearest.Hint(value, known))))
}

// stopped is a text that ends as a sentence does.
func stopped(text string) string {
	if strings.HasSuffix(text, "?") {
		return text
	}
	return text + "."
}

// toolNamed is the name of a tool that is called by one of its names.
func (s *Server) toolNamed(name string) (string, error) {
	if tool, known := s.Catalogue.Tool(name); known {
		return tool.Name, nil
	}
	return "", problem(http.StatusBadRequest, fmt.Sprintf("The parameter tool names one that is not known: %.60q; %s", name, stopped(userrule.Unknown(name, s.Catalogue))))
}

// repositoryIn refuses a repository that a view does not have.
func repositoryIn(v *view.View, name string) error {
	var known []string
	for _, r := range v.Reads {
		if r.Name == name {
			return nil
		}
		known = append(known, r.Name)
	}
	return unnamed("repository", "one", name, known)
}

// named puts the tool's own name in place of another one of its names, and refuses a tool or
// a repository that is not there.
func (s *Server) named(v *view.View, repository, tool *string) error {
	if repository != nil {
		if err := repositoryIn(v, *repository); err != nil {
			return err
		}
	}
	if tool == nil {
		return nil
	}
	name, err := s.toolNamed(*tool)
	if err == nil {
		*tool = name
	}
	return err
}

// chosenBy are the parameters by which findings, causes and the report are chosen alike.
type chosenBy struct {
	classes, repositories, tools, tags *[]string
	severities                         *Severities
}

// of is the choice, unless it names what is not there.
func (p chosenBy) of(s *Server, v *view.View) (assess.Choice, error) {
	out := assess.Choice{Classes: value(p.classes), Repositories: value(p.repositories), Tags: value(p.tags)}
	for _, class := range out.Classes {
		if _, known := assess.ClassNamed(class); !known {
			return out, unnamed("class", "a class of findings", class, assess.ClassNames())
		}
	}
	for _, severity := range value(p.severities) {
		out.Severities = append(out.Severities, assess.Severity(severity))
	}
	for _, name := range value(p.tools) {
		tool, err := s.toolNamed(name)
		if err != nil {
			if !slices.Contains(s.Catalogue.Frameworks(), name) { // findings on what goes together are also of components
				return out, err
			}
			tool = name
		}
		out.Tools = append(out.Tools, tool)
	}
	for _, name := range out.Repositories {
		if err := repositoryIn(v, name); err != nil {
			return out, err
		}
	}
	for _, tag := range out.Tags {
		if known := tagsIn(v); !slices.Contains(known, tag) {
			return out, unnamed("tag", "one", tag, known)
		}
	}
	return out, nil
}

// tagsIn are the tags of all repositories, sorted.
func tagsIn(v *view.View) []string {
	out := []string{}
	for _, r := range v.Reads {
		out = append(out, r.Settings.Tags...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// words are those that a text has to hold.
func words(q *string) []string { return strings.Fields(strings.ToLower(value(q))) }
