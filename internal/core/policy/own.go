package policy

import (
	"slices"
	"strings"

	"wexo/internal/core/glob"
)

// What a repository may decide of itself, as the keys of its own rules.
const (
	OwnClaims   = "claims"
	OwnLeaveOut = "leave-out"
	OwnUnpinned = "unpinned-is-fine"
	OwnTags     = "tags"
	OwnEnd      = "planned-end"
	OwnBaseline = "baselines"
	OwnApart    = "apart"
	OwnRules    = "rules"
	OwnBuiltBy  = "built-by"
)

// OwnKinds are the keys of a repository's own rules.
var OwnKinds = []string{OwnClaims, OwnLeaveOut, OwnUnpinned, OwnTags, OwnEnd, OwnBaseline, OwnApart, OwnRules, OwnBuiltBy}

// OwnRule is a rule that a repository makes for itself, with where it stands in its file.
type OwnRule struct {
	Kind string `json:"kind"`
	Text string `json:"text"` // a glob, a day, a tag; a claim's file
	Line int    `json:"line"`
}

// Decides says which kinds of rules repositories may make for themselves. The zero value lets
// them make all, but for what is the lead's: no tag that a repository gives itself chooses a
// policy, and no earlier end holds.
type Decides struct {
	Said  bool
	Kinds []string
}

// Allow reports whether repositories may make rules of a kind.
func (d Decides) Allow(kind string) bool { return !d.Said || slices.Contains(d.Kinds, kind) }

// Or is what is said nearer, or else this.
func (d Decides) Or(near Decides) Decides {
	if near.Said {
		return near
	}
	return d
}

// allowed are the decisions of a repository of itself that may count: those of the kinds that
// are allowed. How bad its findings are, and how early they are told, never is.
func (s Settings) allowed(d Decides) Settings {
	s.Horizon, s.Severities = 0, nil
	for _, kind := range OwnKinds {
		if d.Allow(kind) {
			continue
		}
		switch kind {
		case OwnUnpinned:
			s.Unpinned = nil
		case OwnTags:
			s.Tags = nil
		case OwnEnd:
			s.PlannedEnd = ""
		case OwnBaseline:
			s.Baselines = nil
		case OwnApart:
			s.Apart = nil
		case OwnRules:
			s.Rules = nil
		case OwnBuiltBy:
			s.BuiltBy = nil
		}
	}
	return s
}

// Called is what a repository may be called by in a decision. What it is called in a report
// depends on which others are looked at; where it lies, and what it is, does not.
type Called struct {
	Name     string // in the report
	Path     string // where it lies
	Identity string
}

// Is reports whether a decision's name means the repository: a glob of its folder's name, or,
// where it has slashes, of as many folders of its path; the name in the report; its identity.
func (c Called) Is(text string) bool {
	if text == c.Identity && text != "" {
		return true
	}
	at := strings.TrimSuffix(strings.ReplaceAll(c.Path, `\`, "/"), "/")
	for _, name := range []string{c.Name, strings.TrimSuffix(at, ".git"), at} {
		if matches(text, name) || matches(text, last(name, strings.Count(text, "/")+1)) {
			return true
		}
	}
	return false
}

// last are the last parts of a path.
func last(name string, parts int) string {
	all := strings.Split(name, "/")
	return strings.Join(all[max(len(all)-parts, 0):], "/")
}

func matches(text, name string) bool {
	if name == "" {
		return false
	}
	return glob.Name(text, name)
}
