package reading

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/glob"
	"wexo/internal/core/nearest"
	"wexo/internal/core/policy"
	"wexo/internal/core/scan"
	"wexo/internal/core/userrule"
)

// leavesOut tells whether a file or folder is not to be read.
func (p *pass) leavesOut(file string) bool {
	for _, g := range p.rules.LeaveOut {
		if p.anyMatches([]string{g.Text}, file) {
			p.applied[g.At.Ref()] = true
			return true
		}
	}
	return false
}

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
			p.matched[c.At.Ref()]++
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
	data, err := p.readFile(userrule.File, scan.MaxShape)
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
	for _, one := range problems {
		p.report(claim.Problem{Kind: claim.Mistaken, File: userrule.File, Line: one.Line, Column: one.Column, Reason: one.Reason})
	}
	p.refused(decided.Written)
	if !p.rules.Decides.Allow(policy.OwnClaims) {
		own.Claims = nil
	}
	if !p.rules.Decides.Allow(policy.OwnLeaveOut) {
		own.LeaveOut = nil
	}
	p.rules, p.ruled = p.rules.With(own), own.Digest
	p.reading.Settings = decided.Settings
}

// refused tells of rules of the repository's own that the estate does not let it make.
func (p *pass) refused(written []policy.OwnRule) {
	for _, r := range written {
		if !p.rules.Decides.Allow(r.Kind) {
			p.report(claim.Problem{Kind: claim.Idle, File: userrule.File, Line: r.Line, Column: 1,
				Reason: fmt.Sprintf("%s is not for repositories to decide here (repositories-decide)", r.Kind)})
		}
	}
}

// scanRules adds the claims that the user's rules make of a file.
func (p *pass) scanRules(out *scan.Said, file, beside string, data []byte, mine []userrule.Claim) {
	if len(mine) == 0 {
		return
	}
	s := p.scanning(file, beside, out)
	var err error
	if s.Text, err = document.Decode(data); err != nil {
		if len(out.Problems) == 0 {
			s.Unreadable(err)
		}
		return
	}
	for _, rule := range mine {
		doc, err := document.Parse(rule.Format, s.Source(rule.Selectors))
		if err != nil {
			s.Unreadable(err)
			continue
		}
		values := rule.Values(doc, p.budget)
		if len(values) > 0 {
			out.Applied = append(out.Applied, rule.At.Ref())
		}
		folder := beside
		if rule.AppliesTo != nil {
			folder = *rule.AppliesTo
		}
		for _, v := range values {
			c := s.Claim(rule.Tool, claim.Role(rule.Role), v, rule.Dialect, folder)
			c.Reading, c.Recognised, c.Why = rule.Reading, claim.Rule, "a rule of yours says so"
			s.Add(c)
		}
	}
}

// idle tells of the user's rules that changed nothing, where the whole tree was read. Those of
// the estate may well change nothing in one repository; which did is told for the others.
func (p *pass) idle() {
	for _, s := range p.scans {
		for _, at := range s.Applied {
			p.applied[at] = true
		}
	}
	for ref := range p.applied {
		if strings.HasPrefix(ref, "#") { // of the estate's
			p.reading.Applied = append(p.reading.Applied, ref)
		}
	}
	slices.Sort(p.reading.Applied)
	if p.reading.Ended != "" || len(p.told) > 0 {
		return
	}
	for _, c := range p.rules.Claims {
		switch {
		case c.At.File == "":
		case p.matched[c.At.Ref()] == 0:
			p.idles(c.At, fmt.Sprintf("no file that is read here is called %s", nearest.Listed(c.Files, "or")))
		case !p.applied[c.At.Ref()]:
			p.idles(c.At, fmt.Sprintf("nothing is found in %s by what it selects", filesOf(p.matched[c.At.Ref()], c.Files)))
		case c.AppliesTo != nil && !p.isFolder(*c.AppliesTo):
			p.idles(c.At, fmt.Sprintf("it applies to %s, and there is no such folder", *c.AppliesTo))
		}
	}
	for _, g := range p.rules.LeaveOut {
		if g.At.File != "" && !p.applied[g.At.Ref()] {
			p.idles(g.At, fmt.Sprintf("%q leaves out nothing that would be read", g.Text))
		}
	}
}

func (p *pass) idles(at userrule.Place, reason string) {
	p.report(claim.Problem{Kind: claim.Idle, File: at.File, Line: at.Line, Column: 1, Reason: reason})
}

func filesOf(n int, globs []string) string {
	if n == 1 {
		return "the one file called " + nearest.Listed(globs, "or")
	}
	return fmt.Sprintf("the %d files called %s", n, nearest.Listed(globs, "or"))
}

func (p *pass) isFolder(name string) bool {
	info, err := fs.Stat(p.tree, dot(name))
	return err == nil && info.IsDir()
}

// astray tells of a file that somebody may take for rules and that nobody reads.
func (p *pass) astray(file, folder, name string) {
	if name == userrule.File && folder == "" || !slices.Contains(userrule.Like, name) {
		return
	}
	p.report(claim.Problem{Kind: claim.Idle, Folder: folder, File: file, Reason: "rules are read from " + userrule.File + " in the repository's root folder alone"})
}
