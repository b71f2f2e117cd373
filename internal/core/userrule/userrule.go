// Package userrule is what users write in wexo.yaml, and in a repository's .wexo.yaml: how
// their repositories are read, and what they decide of them. A mistake is told with its
// line and column, and what else stands in the file holds.
package userrule

import (
	"strconv"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
	"wexo/internal/core/policy"
)

// Rules are what users say of how their repositories are read: claims in files that Wexo
// does not know, and what to leave out. They win over everything built in.
type Rules struct {
	Claims       []Claim
	LeaveOut     []Glob
	Repositories []Repository
	// Decides says which rules repositories may make for themselves.
	Decides policy.Decides
	// Digest changes with anything that changes what is read; empty where there are no rules.
	Digest string
}

// Glob names files and folders, and stands at a place of the rules.
type Glob struct {
	Text string
	At   Place
}

// Place is where a rule stands. Its File is empty in the configuration of the estate.
type Place struct {
	File string
	Line int
	N    int // among the rules of the file, which stays the same when lines move
}

// Ref names the rule in what is remembered of files that were read by it.
func (p Place) Ref() string { return p.File + "#" + strconv.Itoa(p.N) }

// Repository are rules for the repositories whose name matches a glob.
type Repository struct {
	Name string
	Rules
}

// Claim is a claim in a file of the user's.
type Claim struct {
	catalogue.ClaimRule
	Tool      *catalogue.Tool
	Selectors document.Selectors
	// AppliesTo is the folder that the claim speaks for; that of the file where it is nil.
	AppliesTo *string
	At        Place
}

// For are the rules for one repository: those for all, with those that name it.
func (r Rules) For(called policy.Called) Rules {
	out := r
	out.Repositories = nil
	for _, one := range r.Repositories {
		if called.Is(one.Name) {
			out = out.With(one.Rules)
		}
	}
	return out
}

// Places are where the rules stand by which something is read, those for single repositories
// too.
func (r Rules) Places() []Place {
	var out []Place
	for _, c := range r.Claims {
		out = append(out, c.At)
	}
	for _, g := range r.LeaveOut {
		out = append(out, g.At)
	}
	for _, one := range r.Repositories {
		out = append(out, one.Rules.Places()...)
	}
	return out
}

// With adds nearer rules, which come first.
func (r Rules) With(near Rules) Rules {
	var out Rules
	out.Claims = append(append(out.Claims, near.Claims...), r.Claims...)
	out.LeaveOut = append(append(out.LeaveOut, r.LeaveOut...), near.LeaveOut...)
	out.Decides = r.Decides.Or(near.Decides)
	return out
}

// File is the name of a repository's own rules, in its root folder.
const File = ".wexo.yaml"

// Like are names that somebody may give such a file who means that one.
var Like = []string{File, ".wexo.yml", ".wexo.json", ".wexo.toml"}

// Values are what the rule selects; a plain file is its one value.
func (r *Claim) Values(doc document.Document, b *document.Budget) []document.Value {
	if r.Format != "plain" {
		return document.Select(doc, r.Selection(), b)
	}
	var out []document.Value
	for _, v := range doc.Find("") {
		if v, ok := document.Narrow(v, r.Pattern.Regexp, b); ok {
			out = append(out, v)
		}
	}
	return out
}
