package reading

import (
	"io/fs"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/glob"
	"wexo/internal/core/userrule"
)

// leavesOut tells whether a file or folder is not to be read.
func (p *pass) leavesOut(file string) bool { return p.anyMatches(p.rules.LeaveOut, file) }

// anyMatches reports whether one of the globs names a file, and spends what that takes.
func (p *pass) anyMatches(globs []string, file string) bool {
	for _, text := range globs {
		p.budget.Spend(len(text) + len(file))
		if glob.Match(text, file) {
			return true
		}
	}
	return false
}

// claimsFor are the user's rules that read a file.
func (p *pass) claimsFor(file string) []userrule.Claim {
	var out []userrule.Claim
	for _, c := range p.rules.Claims {
		if p.anyMatches(c.Files, file) {
			out = append(out, c)
		}
	}
	return out
}

// ownRules reads the repository's rules. Bad ones are a problem of their file; the
// repository is read all the same.
func (p *pass) ownRules() {
	if _, err := fs.Lstat(p.tree, userrule.File); err != nil { // not there; a folder that cannot be listed says so itself
		return
	}
	data, err := readLimited(p.tree, userrule.File, MaxShape)
	if err != nil {
		p.problem("", userrule.File, err)
		return
	}
	text, err := document.Decode(data)
	if err != nil {
		p.problem("", userrule.File, err)
		return
	}
	own, decided, problems := userrule.Parse(text.Data, p.catalogue, false)
	for _, problem := range problems {
		p.problem("", userrule.File, &document.SyntaxError{Line: problem.Line, Column: problem.Column, Reason: problem.Reason})
	}
	p.rules, p.ruled = p.rules.With(own), own.Digest
	p.reading.Settings = decided.Settings
}

// scanRules adds the claims that the user's rules make of a file.
func (p *pass) scanRules(out *scan, file, folder string, data []byte, mine []userrule.Claim) {
	if len(mine) == 0 {
		return
	}
	s := p.scanning(file, folder, out)
	var err error
	if s.Text, err = document.Decode(data); err != nil {
		if len(out.Problems) == 0 {
			s.unreadable(err)
		}
		return
	}
	for _, rule := range mine {
		doc, err := document.Parse(rule.Format, s.source(rule.Selectors))
		if err != nil {
			s.unreadable(err)
			continue
		}
		for _, v := range rule.Values(doc, p.budget) {
			c := s.claim(rule.Tool, claim.Role(rule.Role), v, rule.Dialect, folder)
			c.Reading, c.Recognised, c.Why = rule.Reading, claim.Rule, "a rule of yours says so"
			s.add(c)
		}
	}
}
