package claim

import (
	"path"

	"wexo/internal/core/catalogue"
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

// RulesFile is the name of a repository's own rules, in its root folder.
const RulesFile = ".wexo.yaml"

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
