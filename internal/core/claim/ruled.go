package claim

import (
	"io/fs"

	"wexo/internal/core/glob"
)

// leavesOut tells whether a file or folder is not to be read.
func (p *pass) leavesOut(file string) bool { return p.anyMatches(p.rules.LeaveOut, file) }

// anyMatches reports whether one of the globs names a file, and spends what that takes.
func (p *pass) anyMatches(globs []string, file string) bool {
	for _, text := range globs {
		p.budget.spend(len(text) + len(file))
		if glob.Match(text, file) {
			return true
		}
	}
	return false
}

// claimsFor are the user's rules that read a file.
func (p *pass) claimsFor(file string) []ClaimRule {
	var out []ClaimRule
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
	if _, err := fs.Lstat(p.tree, RulesFile); err != nil { // not there; a folder that cannot be listed says so itself
		return
	}
	data, err := readLimited(p.tree, RulesFile, MaxShape)
	if err != nil {
		p.problem("", RulesFile, err)
		return
	}
	text, err := decode(data)
	if err != nil {
		p.problem("", RulesFile, err)
		return
	}
	own, decided, problems := ParseRules(text.Data, p.catalogue, false)
	for _, problem := range problems {
		p.problem("", RulesFile, &syntaxError{problem.Line, problem.Column, problem.Reason})
	}
	p.rules = p.rules.with(own)
	p.reading.Settings = decided.Settings
}

// scanRules adds the claims that the user's rules make of a file.
func (p *pass) scanRules(out *scan, file, folder string, data []byte, mine []ClaimRule) {
	if len(mine) == 0 {
		return
	}
	s := p.scanning(file, folder, out)
	var err error
	if s.Text, err = decode(data); err != nil {
		if len(out.Problems) == 0 {
			s.unreadable(err)
		}
		return
	}
	for _, rule := range mine {
		doc, err := parse(rule.Format, source{s.Data, rule.selectors, p.budget})
		if err != nil {
			s.unreadable(err)
			continue
		}
		for _, v := range rule.values(doc, p.budget) {
			c := s.claim(rule.Tool, Role(rule.Role), v, rule.Dialect, folder)
			c.Reading, c.Recognised, c.Why = rule.Reading, Rule, "a rule of yours says so"
			s.add(c)
		}
	}
}
