package reading

import (
	"path"
	"regexp"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// reads is a file that another file says holds a tool's version.
type reads struct {
	Tool string `json:"t"`
	File string `json:"f"`
	For  string `json:"h,omitempty"` // the folder that the naming file speaks for
	By   string `json:"b"`           // the naming file
}

// pointer follows a key that names the file in which a tool's version stands.
func (p *pipeline) pointer(tool *catalogue.Tool, n *document.Node) {
	for _, c := range document.Compose(n.Text, p.lookup) {
		text := c.Text
		if c.Open != "" {
			if !strings.HasPrefix(text, c.Open) || !strings.Contains(c.Open, "workspace") {
				p.mention(tool, n.Value(), "the file it names is not known: "+c.Open)
				continue
			}
			text = strings.TrimLeft(strings.TrimPrefix(text, c.Open), "/")
		}
		p.reads(tool, text)
	}
}

func (p *pipeline) reads(tool *catalogue.Tool, file string) {
	file = path.Clean(strings.Trim(strings.TrimPrefix(strings.TrimSpace(file), "./"), `"'`))
	if len(p.out.Reads) >= 64 || file == "." || strings.HasPrefix(file, "..") || path.IsAbs(file) {
		return
	}
	p.out.Reads = append(p.out.Reads, reads{Tool: tool.Name, File: path.Join(p.holds, file), For: p.holds, By: p.file})
}

var outputOf = regexp.MustCompile(`(?:steps|jobs)\.([\w-]+)\.outputs\.([\w-]+)`)

// fromFile is what a step writes: the file whose text it takes, or a version.
const fromFile = `(?:\$\(\s*(?:cat|<|head -n?1|tr -d \S+ <)\s*["']?([\w./-]+)["']?\s*(?:\|[^)]*)?\)|["']?v?(\d[\w.]*)["']?)`

// open tells of a reference that nothing in the file defines; where a step before it wrote
// that value, what it wrote is followed: a version, or the file that holds one.
func (p *pipeline) open(tool *catalogue.Tool, n *document.Node, ref string) {
	m := outputOf.FindStringSubmatch(ref)
	if m == nil || p.runs[m[1]] == nil {
		p.mention(tool, n.Value(), "nothing in the file says what "+ref+" is")
		return
	}
	run := p.runs[m[1]]
	wrote, err := regexp.Compile(`\b` + regexp.QuoteMeta(m[2]) + `(?:=|::)["']?` + fromFile)
	if err != nil || len(run.Text) > MaxShape {
		return
	}
	found := wrote.FindStringSubmatch(run.Text)
	switch {
	case found == nil:
		p.mention(tool, n.Value(), "only a run knows what the step "+m[1]+" gives")
	case found[1] != "":
		p.reads(tool, found[1])
	default:
		p.version(tool, document.Value{Text: found[2], Offset: n.Offset, Size: len(n.Text), Given: &document.Given{Name: m[1] + "." + m[2], Offset: run.Offset}}, input{})
	}
}

// readBy is what names a file as the place of a tool's version.
type readBy struct {
	reads
	tool *catalogue.Tool
}

// pointed gathers which files others name, by their paths.
func (p *pass) pointed() map[string]readBy {
	out := map[string]readBy{}
	for _, s := range p.scans {
		for _, r := range s.Reads {
			if tool, known := p.catalogue.Tool(r.Tool); known {
				if _, taken := out[r.File]; !taken {
					out[r.File] = readBy{r, tool}
				}
			}
		}
	}
	return out
}

// follow reads the named files that nothing else read: the first line of each is the version
// that is set up.
func (p *pass) follow(pointed map[string]readBy) {
	done := map[string]bool{}
	for _, s := range p.scans {
		if len(s.Claims) > 0 || s.Bare != nil {
			done[s.file] = true
		}
	}
	for _, s := range p.scans {
		for _, r := range s.Reads {
			by, known := pointed[r.File]
			if !known || done[r.File] || p.catalogue.Known(path.Base(r.File)) {
				continue
			}
			done[r.File] = true
			found := p.guarded(r.File, claim.Above(r.File), func(s *scanning) { s.namedBy(p, by) })
			p.reading.Claims = append(p.reading.Claims, found.Claims...)
		}
	}
}

// namedBy reads a file that a pipeline takes a version from.
func (s *scanning) namedBy(p *pass, by readBy) {
	data, err := p.readFile(s.file, MaxShape)
	if err != nil {
		return
	}
	if s.Text, err = document.Decode(data); err != nil {
		return
	}
	lines := document.Lines(s.Data)
	if len(lines) == 0 || len(lines) > 4 || !claim.Fits(by.tool, lines[0].Text) {
		return
	}
	c := s.claim(by.tool, claim.Setup, document.Value{Text: lines[0].Text, Offset: lines[0].Offset}, "plain", by.For)
	c.Recognised, c.Why = claim.Shape, by.By+" reads it"
	s.add(c)
}
