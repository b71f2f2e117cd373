package reading

import (
	"regexp"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// says reads a text that names a tool and its version by itself: a command such as gcc-12,
// or variables as a shell is given them.
func (p *pipeline) says(n *document.Node, above []string) {
	group := ""
	for i := len(above) - 1; i >= 0 && group == ""; i-- {
		if above[i] == "matrix" || above[i] == "env" || above[i] == "compiler" {
			group = above[i]
			if n.Key != "" {
				group += "." + strings.ToLower(n.Key)
			} else if len(above)-1 > i {
				group += "." + strings.ToLower(above[len(above)-1])
			}
		}
	}
	p.command(n.Value(), group)
	if n.Key != "" || len(above) == 0 || !definers[above[len(above)-1]] && above[len(above)-1] != "matrix" {
		return
	}
	assignments(n.Text, func(name, value string, at int) {
		v := document.Value{Text: value, Offset: n.Offset + at}
		if n.Written != 0 && n.Written != len(n.Text) {
			v.Offset, v.Size = n.Offset, -1
		}
		in := input{group: "env." + strings.ToLower(name)}
		if tool, known := p.inputKey(name); known && !document.Refers(value) {
			p.version(tool, v, in)
			return
		}
		p.command(v, in.group)
	})
}

// command reads a text that is nothing but a command with its version.
func (p *pipeline) command(v document.Value, group string) {
	for _, c := range p.commanded(v) {
		if !p.more() {
			return
		}
		c.OneOf, c.Folder = group, p.holds
		p.add(c)
	}
}

var commandLike = regexp.MustCompile(`^[A-Za-z][A-Za-z+_.-]*-?\d[\d.]*$`)

// commanded are the claims of a text that is nothing but a command with its version.
func (s *scanning) commanded(v document.Value) []claim.Claim {
	v.Text = strings.TrimSpace(v.Text)
	if len(v.Text) > 40 || !commandLike.MatchString(v.Text) {
		return nil
	}
	var out []claim.Claim
	for _, tool := range s.reader.catalogue.Tools() {
		for _, pattern := range tool.Commands {
			m := pattern.FindStringSubmatchIndex(v.Text)
			if m == nil || m[0] != 0 || m[1] != len(v.Text) {
				continue
			}
			var parts []string
			for g := 2; g+1 < len(m); g += 2 {
				if m[g] >= 0 {
					parts = append(parts, v.Text[m[g]:m[g+1]])
				}
			}
			v.Means = strings.Join(parts, ".")
			out = append(out, s.claim(tool, claim.Setup, v, "plain", s.folder))
			break
		}
	}
	return out
}
