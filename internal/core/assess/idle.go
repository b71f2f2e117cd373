package assess

import (
	"slices"

	"wexo/internal/core/claim"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
)

// IdleFinding tells of a line of the configuration that matches nothing: what it was meant for is
// judged as if the line were not there. That is worse than a repository's own rule that does
// nothing: whoever wrote it counts on it.
func IdleFinding(file string, line int, text, reason string, decided policy.Settings, fleet *resolve.Fleet) *Finding {
	f := &Finding{Class: &ruleIdle, Severity: Warning, Repository: &Prepared{}, Among: fleet.Everyone(), Evidence: []Evidence{{file, line, 1, text}},
		Problem: &claim.Problem{Kind: claim.Idle, File: file, Line: line, Column: 1, Raw: text, Reason: reason}}
	f.Fingerprint = f.fingerprint(reason)
	f.weigh(decided)
	return f
}

// weigh gives a finding the severity that is decided for its class.
func (f *Finding) weigh(decided policy.Settings) {
	if severity, ok := decided.Severity(f.Class.Name); ok {
		f.Severity = Severity(severity)
	}
}

// Adopting is what ties a repository to groups of machines.
type Adopting struct{ Tags, BuiltBy []string }

// IdleBaseline is a group that a baseline names and to which nothing belongs.
type IdleBaseline struct {
	File  string
	Line  int
	Group string
}

// IdleBaselines are the groups of baselines to which no machine and no repository belongs.
func (f *Facts) IdleBaselines(repositories []Adopting, p policy.Policy) []IdleBaseline {
	var out []IdleBaseline
	groups := p.MachineTags()
	for _, b := range f.Book.Baselines {
		for _, group := range b.Machines {
			used := slices.Contains(groups, group) || slices.ContainsFunc(repositories, func(a Adopting) bool {
				return slices.Contains(a.Tags, group) || slices.Contains(a.BuiltBy, group)
			})
			if !used {
				out = append(out, IdleBaseline{b.At.File, b.At.Line, group})
			}
		}
	}
	return out
}
