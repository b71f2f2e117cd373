package pipeline

import (
	"path"
	"regexp"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// pointer follows a key that names the file in which a tool's version stands.
func (p *pipeline) pointer(tool *catalogue.Tool, n *document.Node) {
	for _, c := range p.scopes.compose(n.Text, n.Offset) {
		text := c.Text
		if c.Open != "" {
			if !strings.HasPrefix(text, c.Open) || !strings.Contains(c.Open, "workspace") {
				p.Mention(tool, n.Value(), "the file it names is not known: "+c.Open)
				continue
			}
			text = strings.TrimLeft(strings.TrimPrefix(text, c.Open), "/")
		}
		p.reads(tool, text)
	}
}

func (p *pipeline) reads(tool *catalogue.Tool, file string) {
	file = path.Clean(strings.Trim(strings.TrimPrefix(strings.TrimSpace(file), "./"), `"'`))
	if len(p.Said.Reads) >= 64 || file == "." || strings.HasPrefix(file, "..") || path.IsAbs(file) {
		return
	}
	p.Said.Reads = append(p.Said.Reads, scan.Reads{Tool: tool.Name, File: path.Join(p.holds, file), For: p.holds, By: p.Path})
}

var outputOf = regexp.MustCompile(`(?:steps|jobs)\.([\w-]+)\.outputs\.([\w-]+)`)

// fromFile is what a step writes: the file whose text it takes, or a version.
const fromFile = `(?:\$\(\s*(?:cat|<|head -n?1|tr -d \S+ <)\s*["']?([\w./-]+)["']?\s*(?:\|[^)]*)?\)|["']?v?(\d[\w.]*)["']?)`

// open tells of a reference that nothing in the file defines; where a step before it wrote
// that value, what it wrote is followed: a version, or the file that holds one.
func (p *pipeline) open(tool *catalogue.Tool, n *document.Node, ref string) {
	m := outputOf.FindStringSubmatch(ref)
	if m == nil || p.runs[m[1]] == nil {
		p.Mention(tool, n.Value(), "nothing in the file says what "+ref+" is")
		return
	}
	run := p.runs[m[1]]
	wrote, err := regexp.Compile(`\b` + regexp.QuoteMeta(m[2]) + `(?:=|::)["']?` + fromFile)
	if err != nil || len(run.Text) > scan.MaxShape {
		return
	}
	found := wrote.FindStringSubmatch(run.Text)
	switch {
	case found == nil:
		p.Mention(tool, n.Value(), "only a run knows what the step "+m[1]+" gives")
	case found[1] != "":
		p.reads(tool, found[1])
	default:
		p.version(tool, document.Value{Text: found[2], Offset: n.Offset, Size: len(n.Text), Given: &document.Given{Name: m[1] + "." + m[2], Offset: run.Offset}}, input{})
	}
}
