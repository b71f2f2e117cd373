package claim

import (
	"io/fs"
	"path"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/glob"
)

// Rules are what users say of how their repositories are read: claims in files that Wexo
// does not know, and what to leave out. They win over everything built in.
type Rules struct {
	Claims       []ClaimRule
	LeaveOut     []string // globs of files and folders
	Repositories []RepositoryRules
	// Digest changes with anything that changes what is read; empty where there are no rules.
	Digest string
}

// RepositoryRules are rules for the repositories whose name matches a glob.
type RepositoryRules struct {
	Name string
	Rules
}

// ClaimRule is a claim in a file of the user's.
type ClaimRule struct {
	catalogue.ClaimRule
	Tool      *catalogue.Tool
	selectors selectors
}

// For are the rules for one repository: those for all, with those that name it.
func (r Rules) For(name string) Rules {
	out := r
	out.Repositories = nil
	for _, one := range r.Repositories {
		if ok, err := path.Match(one.Name, name); ok && err == nil {
			out = out.with(one.Rules)
		}
	}
	return out
}

// with adds nearer rules, which come first.
func (r Rules) with(near Rules) Rules {
	var out Rules
	out.Claims = append(append(out.Claims, near.Claims...), r.Claims...)
	out.LeaveOut = append(append(out.LeaveOut, r.LeaveOut...), near.LeaveOut...)
	return out
}

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

// RulesFile is the name of a repository's own rules, in its root folder.
const RulesFile = ".wexo.yaml"

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
	text, _, err := decode(data)
	if err != nil {
		p.problem("", RulesFile, err)
		return
	}
	own, decided, problems := ParseRules(text, p.catalogue, false)
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
	if s.data, s.origin, err = decode(data); err != nil {
		if len(out.Problems) == 0 {
			s.unreadable(err)
		}
		return
	}
	for _, rule := range mine {
		doc, err := parse(rule.Format, source{s.data, rule.selectors, p.budget})
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

// values are what the rule selects; a plain file is its one value.
func (r *ClaimRule) values(doc document, b *budget) []value {
	if r.Format != "plain" {
		return apply(doc, &r.ClaimRule, b)
	}
	var out []value
	for _, v := range doc.find("") {
		if v, ok := narrow(v, r.Pattern, b); ok {
			out = append(out, v)
		}
	}
	return out
}
