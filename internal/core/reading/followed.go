package reading

import (
	"path"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// readBy is what names a file as the place of a tool's version.
type readBy struct {
	scan.Reads
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
	data, err := p.readFile(s.Path, scan.MaxShape)
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
	c := s.Claim(by.tool, claim.Setup, document.Value{Text: lines[0].Text, Offset: lines[0].Offset}, "plain", by.For)
	c.Recognised, c.Why = claim.Shape, by.By+" reads it"
	s.Add(c)
}
