package userrule

import (
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/document"
	"wexo/internal/core/glob"
	"wexo/internal/core/policy"
	"wexo/internal/core/rule"
)

// together reads rules of what must go together. What is kept of each is its text: by then
// it is known to be understood.
func (p *parser) together(n *yaml.Node) []policy.Rule {
	items := p.few(n, "rules", p.items(n, "rules"))
	file := File
	if p.estate {
		file = "wexo.yaml"
	}
	_, problems := rule.Parse(p.catalogue, file, &yaml.Node{Kind: yaml.SequenceNode, Content: items, Line: n.Line, Column: n.Column})
	bad := map[int]bool{}
	for _, problem := range problems {
		p.problems = append(p.problems, Problem{problem.Line, problem.Column, problem.Reason})
		bad[problem.Line] = true
	}
	var out []policy.Rule
	for i, item := range items {
		end := n.Line + 1<<20
		if i+1 < len(items) {
			end = items[i+1].Line
		}
		if anyIn(bad, item.Line, end) {
			continue
		}
		text, err := yaml.Marshal(item)
		if err == nil {
			out = append(out, policy.Rule{Text: string(text), File: file, Line: item.Line})
		}
	}
	return out
}

// anyIn reports whether a line from one to before another is among some.
func anyIn(lines map[int]bool, from, to int) bool {
	for line := range lines {
		if line >= from && line < to {
			return true
		}
	}
	return false
}

// machines maps globs of machines' names to what is decided of them.
func (p *parser) machines(n *yaml.Node) {
	if n.Kind != yaml.MappingNode {
		p.problem(n, "machines should map names to what is decided of them, and it is %s", kindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		name := n.Content[i].Value
		if err := glob.CheckName(name); err != nil {
			p.problem(n.Content[i], "%q is no glob of a machine's name", document.Clip(name))
			continue
		}
		m := policy.Machines{Name: name, Line: n.Content[i].Line}
		p.fields(n.Content[i+1], "a machine", []string{"tags", "report-within"}, func(key string, v *yaml.Node) {
			if key == "tags" {
				m.Tags = p.texts(v, key)
			} else {
				m.Within = p.duration(v, key)
			}
		})
		p.tagged = append(p.tagged, m)
	}
}

// mostWithin is the longest time in which a machine may be expected to report.
const mostWithin = 366 * 24 * time.Hour

// duration reads a time such as 36h or 7d.
func (p *parser) duration(n *yaml.Node, key string) time.Duration {
	text := n.Value
	if days, ok := strings.CutSuffix(text, "d"); ok {
		if count, err := strconv.Atoi(days); err == nil {
			text = strconv.Itoa(24*count) + "h"
		}
	}
	d, err := time.ParseDuration(text)
	if err != nil || d < time.Minute || d > mostWithin {
		p.problem(n, "%s should be a time such as 36h or 7d, and it is %s", key, kindOf(n))
		return 0
	}
	return d
}

// groupTitles maps tags of machines to what groups are called.
func (p *parser) groupTitles(n *yaml.Node) {
	if n.Kind != yaml.MappingNode {
		p.problem(n, "groups should map tags of machines to titles, and it is %s", kindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		if v := n.Content[i+1]; v.Kind != yaml.ScalarNode || v.Value == "" {
			p.problem(v, "the title of the group %s should be a text, and it is %s", document.Clip(n.Content[i].Value), kindOf(v))
			continue
		}
		p.groups = append(p.groups, policy.Group{Tag: n.Content[i].Value, Title: n.Content[i+1].Value, Line: n.Content[i].Line})
	}
}
