package reading

import (
	"io/fs"
	"slices"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/nearest"
	"wexo/internal/core/pipeline"
	"wexo/internal/core/scan"
)

// built reads container files again, each with the arguments that what builds it sets: what
// rests on a default that is never used is no claim.
func (p *pass) built() {
	for _, s := range p.scans {
		for _, set := range s.Sets {
			p.rebuilt(s.file, set)
		}
	}
}

func (p *pass) rebuilt(by string, set scan.Sets) {
	data, file := p.containerFile(set)
	if file == "" {
		return
	}
	set.File = file
	_, holds := p.catalogue.Places().KindOf(file)
	over := map[string]string{}
	for name, arg := range set.Args {
		over[name] = arg.Text
	}
	found := p.guarded(set.File, claim.Above(set.File), func(s *scanning) {
		var err error
		if s.Text, err = document.Decode(data); err == nil {
			pipeline.Container(s.File, holds, over)
		}
	})
	p.budget.Spend(document.StepCost * len(p.reading.Claims))
	p.reading.Claims = slices.DeleteFunc(p.reading.Claims, func(c claim.Claim) bool {
		return c.File == set.File && (rests(&set, &c) || c.Given == nil && set.Args[variableAt(found, &c)].Text != "")
	})
	p.setUnknown(by, &set, found)
	for _, c := range found.Claims {
		if !rests(&set, &c) {
			continue
		}
		arg := set.Args[c.Given.Name]
		c.Given = &claim.Place{Name: c.Given.Name, File: by, Line: arg.Line, Column: arg.Column}
		p.reading.Claims = append(p.reading.Claims, c)
	}
}

// containerFile is the container file that is built, with its name: the first of those it may be
// that is there.
func (p *pass) containerFile(set scan.Sets) (data []byte, file string) {
	for _, file := range []string{set.File, set.Else} {
		kind, _ := p.catalogue.Places().KindOf(file)
		if kind != "container" || !fs.ValidPath(file) {
			continue
		}
		if data, err := p.readFile(file, scan.MaxKnown); err == nil {
			return data, file
		}
	}
	return nil, ""
}

// unusedDefault is why a claim is uncertain that rests on a default which is set to something else
// where the file is built.
const unusedDefault = "a default; what it is set to where it is built is not known"

// setUnknown marks claims that rest on defaults which whoever builds the file sets to what is not
// known: nothing shows that the defaults are ever used.
func (p *pass) setUnknown(by string, set *scan.Sets, found *scan.Said) {
	var names []string
	for name, arg := range set.Args {
		if arg.Text == "" {
			names = append(names, name)
		}
	}
	if len(names) == 0 {
		return
	}
	slices.Sort(names)
	p.budget.Spend(document.StepCost * len(p.reading.Claims))
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		still := slices.ContainsFunc(found.Claims, func(o claim.Claim) bool {
			return o.Tool == c.Tool && o.Line == c.Line && o.Column == c.Column && o.Raw == c.Raw
		})
		if c.File == set.File && c.Role == claim.Setup && !still && c.Purpose == "" {
			c.Purpose, c.Certainty, c.Why = by+" sets "+nearest.Listed(names, "and")+" where it builds the file", claim.Low, unusedDefault
		}
	}
}

// rests reports whether a claim of a container file rests on an argument that is set.
func rests(s *scan.Sets, c *claim.Claim) bool {
	return c.Given != nil && c.Given.File == s.File && s.Args[c.Given.Name].Text != ""
}

// variableAt is the argument behind a claim that stands at the argument's own default, as
// the claim in its place tells when the argument is set.
func variableAt(found *scan.Said, c *claim.Claim) string {
	for _, other := range found.Claims {
		if other.Given != nil && other.Line == c.Line && other.Tool == c.Tool {
			return other.Given.Name
		}
	}
	return ""
}
