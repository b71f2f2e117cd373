package pipeline

import (
	"bytes"
	"cmp"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// says reads a text that names a tool and its version by itself: a command such as gcc-12,
// or variables as a shell is given them.
func (p *pipeline) says(n *document.Node, above []string) {
	group := ""
	for _, of := range []string{"matrix", "env"} {
		if name := cmp.Or(n.Key, lastOf(above)); group == "" && slices.Contains(above, of) && name != "" {
			group = of + "." + strings.ToLower(name)
		}
	}
	if !slices.Contains(p.words.Titles, strings.ToLower(n.Key)) {
		p.commands(n.Value(), group)
	}
	if strings.Contains(n.Text, "\n") || strings.Contains(n.Text, " ") {
		p.Installs(n.Text, p.within(n), p.holds, "")
		p.scriptSets(n)
	}
	if !p.defines(cmp.Or(n.Key, lastOf(above))) && (n.Key != "" || lastOf(above) != "matrix") {
		p.scripted(n)
		return
	}
	p.assigned(n, n.Text, 0, true)
}

// scripted reads the variables that a script sets to commands with their versions, as in
// CC=gcc-12 ./configure.
func (p *pipeline) scripted(n *document.Node) {
	at := p.within(n)
	scan.Assignments(n.Text, func(name, value string, offset int) {
		from := strings.LastIndex(n.Text[:offset], name)
		v := at(from)
		if v.Size == 0 {
			v.Offset += offset - from
		}
		v.Text = value
		for _, c := range p.Commanded(v) {
			c.Folder = p.holds
			c.Certainty, c.Why = claim.Medium, "a variable in a script"
			p.Add(c)
		}
	})
}

// assigned reads what the variables in a text say, also those that a variable's own text
// sets, as in COMPILER="CC=gcc-12 && CXX=g++-12".
func (p *pipeline) assigned(n *document.Node, text string, from int, inner bool) {
	scan.Assignments(text, func(name, value string, at int) {
		v := document.Value{Text: value, Offset: n.Offset + from + at}
		if n.Written != 0 && n.Written != len(n.Text) {
			v.Offset, v.Size = n.Offset, -1
		}
		if inner && strings.Contains(value, "=") {
			p.assigned(n, value, from+at, false)
			return
		}
		in := input{group: "env." + strings.ToLower(name)}
		if tool, known := p.Catalogue.Tool(name); known {
			p.called = append(p.called, called{tool, v, in.group})
			return
		}
		if tool, known := p.InputKey(name); known && !document.Refers(value) {
			p.version(tool, v, in)
			return
		}
		p.commands(v, in.group)
	})
}

func lastOf(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return list[len(list)-1]
}

// commands reads a text that is a command with its version, also where references give
// the version, as in gcc-${{ matrix.version }}.
func (p *pipeline) commands(v document.Value, group string) {
	if !document.Refers(v.Text) {
		p.command(v, group)
		return
	}
	if len(v.Text) > 80 || strings.ContainsAny(document.Mask(v.Text), " \t\n") {
		return
	}
	for _, c := range p.scopes.compose(v.Text, v.Offset) {
		if c.Open != "" || c.From == nil || c.Whole != nil {
			continue // what is not known, or told of where it leads to
		}
		one := document.Value{Text: c.Text, Offset: v.Offset, Size: -1, Given: c.From} // written nowhere as such
		p.command(one, cmp.Or(c.Choice, group))
	}
}

// command reads a text that is nothing but a command with its version.
func (p *pipeline) command(v document.Value, group string) {
	for _, c := range p.Commanded(v) {
		if !p.More() {
			return
		}
		c.OneOf, c.Folder = group, p.holds
		if tool, known := p.Catalogue.Tool(c.Tool); known {
			c.Purpose = p.purpose(tool, cmp.Or(c.Means, c.Raw))
		}
		p.Add(c)
	}
}

// within gives the place of a part of a scalar's text. Where the text is written in several
// lines, the part is looked for behind those found before.
func (p *pipeline) within(n *document.Node) func(int) document.Value {
	after := n.Offset
	return func(at int) document.Value {
		if n.Written == 0 || n.Written == len(n.Text) {
			return document.Value{Offset: n.Offset + at}
		}
		word, _, _ := strings.Cut(strings.TrimLeft(n.Text[at:], " "), " ")
		word, _, _ = strings.Cut(word, "\n")
		if i := bytes.Index(p.Data[min(after, len(p.Data)):], []byte(word)); i >= 0 && word != "" {
			after += i
			return document.Value{Offset: after}
		}
		return document.Value{Offset: n.Offset, Size: -1}
	}
}

// called is a variable that has a tool's own name.
type called struct {
	tool  *catalogue.Tool
	value document.Value
	group string
}

// calledAlone reads the variables with a tool's own name that nothing in the file refers to,
// where their values are versions.
func (p *pipeline) calledAlone() {
	for _, c := range p.called {
		dialect, ok := p.VariableDialect(c.tool, c.value.Text)
		if !ok || !claim.NumberLike(c.value.Text) || !p.More() {
			continue
		}
		one := p.setup(c.tool, c.value, dialect, input{group: c.group})
		one.Certainty, one.Why = claim.Medium, "a variable with the tool's name"
		p.Add(one)
	}
}

// leaveOut keeps what a matrix names only to leave it out, or to let it fail.
func (p *pipeline) leaveOut(n *document.Node, key, why string) {
	for _, c := range n.Children {
		of := cmp.Or(c.Key, key)
		if c.Kind != document.Scalar {
			p.leaveOut(c, of, why)
			continue
		}
		tool, known := p.InputKey(of)
		if !known {
			tool, known = p.Catalogue.Tool(of)
		}
		if known && strings.ContainsFunc(c.Text, unicode.IsDigit) {
			p.Mention(tool, c.Value(), why)
		}
	}
}
