package reading

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/pipeline"
	"wexo/internal/core/scan"
)

// environment is the file beside a file of services from which what starts them takes names.
const environment = ".env"

// environments reads files of services again that have an environment file beside them: it decides
// over the fallbacks that they write behind its names.
func (p *pass) environments() {
	for i := range p.scans {
		if kind, holds := p.catalogue.Places().KindOf(p.scans[i].file); kind == "compose" {
			p.started(&p.scans[i], holds)
		}
	}
}

// started reads a file of services as it is where the names of the environment file are given.
func (p *pass) started(s *scanned, holds string) {
	beside := path.Join(path.Dir(s.file), environment)
	names := p.names(beside)
	if len(names) == 0 {
		return
	}
	texts := map[string]string{}
	for name, n := range names {
		texts[name] = n.Text
	}
	data, err := p.readFile(s.file, scan.MaxKnown)
	if err != nil {
		return
	}
	found := p.guarded(s.file, claim.Above(s.file), func(f *scanning) {
		if f.Text, err = document.Decode(data); err == nil {
			pipeline.ReadGiven(f.File, "compose", holds, texts)
		}
	})
	said := *s.Said // what is remembered of the file stays as the file alone says
	said.Sets = found.Sets
	s.Said = &said
	type stands struct { // where a fallback did, until the name is given
		tool string
		line int
	}
	given := map[stands]bool{}
	for i := range found.Claims {
		if c := &found.Claims[i]; c.Given != nil {
			given[stands{c.Tool, c.Line}] = true
		}
	}
	p.budget.Spend(document.StepCost * len(p.reading.Claims))
	p.reading.Claims = slices.DeleteFunc(p.reading.Claims, func(c claim.Claim) bool {
		return c.File == s.file && c.Given == nil && given[stands{c.Tool, c.Line}]
	})
	for _, c := range found.Claims {
		if c.Given == nil {
			continue
		}
		n := names[c.Given.Name]
		c.Begin, c.End = 0, 0 // the text stands in the other file
		c.Given = &claim.Place{Name: c.Given.Name, File: beside, Line: n.Line, Column: n.Column}
		p.reading.Claims = append(p.reading.Claims, c)
	}
}

// mostNames is how many names of an environment file are known.
const mostNames = 256

// names are what an environment file sets, a line each.
func (p *pass) names(file string) map[string]scan.Named {
	data, err := p.readFile(file, scan.MaxShape)
	if err != nil {
		return nil
	}
	p.budget.Spend(len(data))
	text, err := document.Decode(data)
	if err != nil {
		return nil
	}
	out := map[string]scan.Named{}
	for i, line := range strings.SplitN(string(text.Data), "\n", mostNames) {
		name, value, ok := strings.Cut(line, "=")
		name = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(name), "export "))
		value, _, _ = strings.Cut(value, " #")
		value = strings.Trim(strings.TrimSpace(value), `"'`)
		if ok && name != "" && name[0] != '#' && value != "" && len(value) < 256 && !document.Refers(value) {
			out[name] = scan.Named{Text: value, Line: i + 1, Column: strings.Index(line, value) + 1}
		}
	}
	return out
}
