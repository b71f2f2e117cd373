package userrule

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/document"
	"wexo/internal/core/glob"
	"wexo/internal/core/policy"
)

// decision reads what is decided by one key.
func (p *parser) decision(key string, v *yaml.Node, s *policy.Settings) {
	switch key {
	case "unpinned-is-fine":
		for _, item := range p.few(v, key, p.items(v, key)) {
			s.Unpinned = append(s.Unpinned, p.unpinned(item)...)
		}
	case "apart":
		s.Apart = p.aparts(v)
	case "tags":
		s.Tags = p.texts(v, key)
	case "built-by":
		s.BuiltBy, s.BuiltByLine = p.texts(v, key), v.Line
	case "baselines":
		s.Baselines = p.texts(v, key)
	case "rules":
		s.Rules = p.together(v)
	case "planned-end":
		if _, err := time.Parse(time.DateOnly, v.Value); err != nil {
			p.problem(v, "planned-end should be a date such as 2027-05-01, and it is %q", document.Clip(v.Value))
			return
		}
		s.PlannedEnd = v.Value
	case "horizon":
		days, err := strconv.Atoi(v.Value)
		if err != nil || days < 1 || days > mostHorizon {
			p.problem(v, "horizon should be a number of days from 1 to %d, and it is %s", mostHorizon, kindOf(v))
			return
		}
		s.Horizon = days
	case "severities":
		p.severities(v, s)
	default:
		for _, o := range p.others {
			if should := ""; o.Key == key {
				if should = o.Read(v); should != "" {
					p.problem(v, "%s should be %s, and it is %s", key, should, kindOf(v))
				}
			}
		}
	}
}

// aparts are globs of folders, each with a "!" before it where they do not count apart.
func (p *parser) aparts(n *yaml.Node) []string {
	texts := p.texts(n, "apart")
	for _, text := range texts {
		if err := glob.Check(strings.TrimPrefix(text, "!")); err != nil {
			p.problem(n, "apart should hold globs of folders inside the repository, with a ! before those that do not count apart, and %q %v", document.Clip(text), err)
		}
	}
	return texts
}

// mostHorizon is ten years, in days.
const mostHorizon = 3650

// severities maps classes of findings to how bad they are; which classes there are is
// known where findings are.
func (p *parser) severities(n *yaml.Node, s *policy.Settings) {
	if n.Kind != yaml.MappingNode {
		p.problem(n, "severities should map classes of findings to error, warning or note, and it is %s", kindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, v := n.Content[i], n.Content[i+1]
		if !slices.Contains([]string{"error", "warning", "note"}, v.Value) {
			p.problem(v, "the severity of %s should be error, warning or note, and it is %s", document.Clip(key.Value), kindOf(v))
			continue
		}
		s.Severities = append(s.Severities, policy.Weighting{Class: key.Value, Severity: v.Value, Line: key.Line})
	}
}

func (p *parser) unpinned(n *yaml.Node) []policy.Unpinned {
	u := policy.Unpinned{Tool: n.Value}
	at := n
	if n.Kind == yaml.MappingNode {
		p.fields(n, "an entry of unpinned-is-fine", []string{"tool", "folders"}, func(key string, v *yaml.Node) {
			if key == "tool" {
				u.Tool, at = v.Value, v
			} else {
				u.Folders = p.globs(v, key)
			}
		})
	}
	tool, known := p.catalogue.Tool(u.Tool)
	if !known {
		p.unknownTool(at, u.Tool)
		return nil
	}
	u.Tool = tool.Name
	return []policy.Unpinned{u}
}
