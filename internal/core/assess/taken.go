package assess

import (
	"path"
	"slices"

	"wexo/internal/core/claim"
	"wexo/internal/core/glob"
	"wexo/internal/core/policy"
)

// Taken is what a rule that a repository makes for itself takes away: what would be claimed, and
// found, without it. Whoever relies on a report is told.
type Taken struct {
	policy.OwnRule
	Claims   int              `json:"claims"`
	Findings map[Severity]int `json:"bySeverity"`
}

// Count is how many findings a rule takes away.
func (t Taken) Count() int {
	n := 0
	for _, count := range t.Findings {
		n += count
	}
	return n
}

// Taken compares a repository with what it is without its own rules, and tells which of them
// takes away what, in their order. Plain is nil where it has no such rules.
func (r *Result) Taken(plain *Result) []Taken {
	if plain == nil {
		return nil
	}
	written := r.Reading.Settings.Written
	b := &blame{written: written, known: map[blamedFor]int{}}
	out := make([]Taken, len(written))
	for i, w := range written {
		out[i] = Taken{OwnRule: w, Findings: map[Severity]int{}}
	}
	held := map[claimedAt]bool{}
	for _, c := range r.Claims {
		held[claimed(c)] = true
	}
	for _, c := range plain.Claims {
		if i := b.of(blamedFor{c.File, c.Folder, "", c.Tool}); !held[claimed(c)] && i >= 0 {
			out[i].Claims++
		}
	}
	counted := map[string]bool{}
	for _, f := range r.Findings {
		if !f.Apart {
			counted[f.Fingerprint] = true
		}
	}
	for _, f := range plain.Findings {
		if f.Apart || counted[f.Fingerprint] {
			continue
		}
		if i := b.of(blamedFor{f.file(), f.Folder, f.Class.Name, f.toolName()}); i >= 0 {
			out[i].Findings[f.Severity]++
		}
	}
	return slices.DeleteFunc(out, func(t Taken) bool { return t.Claims == 0 && t.Count() == 0 })
}

// claimedAt is where a claim stands, and of what.
type claimedAt struct {
	tool, file   string
	role         claim.Role
	line, column int
}

func claimed(c claim.Claim) claimedAt { return claimedAt{c.Tool, c.File, c.Role, c.Line, c.Column} }

func (f *Finding) file() string {
	if len(f.Evidence) == 0 {
		return ""
	}
	return f.Evidence[0].File
}

// blame finds which rule takes something away.
type blame struct {
	written []policy.OwnRule
	known   map[blamedFor]int
	looked  int // globs that were compared
}

// blamedFor is what was taken away, as far as it shows by which rule.
type blamedFor struct{ file, folder, class, tool string }

// mostLooked is how many globs are compared for one repository, which wrote them: beyond, the
// first rule that could is told.
const mostLooked = 50_000

func (b *blame) of(what blamedFor) int {
	at, known := b.known[what]
	if !known {
		at = b.blamed(what)
		b.known[what] = at
	}
	return at
}

// reaches reports whether a glob names a file, or a folder that it lies in.
func (b *blame) reaches(text, file string) bool {
	for at := file; at != "." && at != ""; at = path.Dir(at) {
		if b.looked == mostLooked {
			return false
		}
		b.looked++
		if glob.Match(text, at) {
			return true
		}
	}
	return false
}

// blamed is the rule that takes something away: one that names the file, its folder or its tool;
// else the first that could. Below zero where there is none.
func (b *blame) blamed(what blamedFor) int {
	written, file, folder, class, tool := b.written, what.file, what.folder, what.class, what.tool
	names := func(kind string, is func(policy.OwnRule) bool) int {
		return slices.IndexFunc(written, func(w policy.OwnRule) bool { return w.Kind == kind && is(w) })
	}
	any := func(policy.OwnRule) bool { return true }
	tries := []int{
		names(policy.OwnLeaveOut, func(w policy.OwnRule) bool { return b.reaches(w.Text, file) || b.reaches(w.Text, folder) }),
		names(policy.OwnApart, func(w policy.OwnRule) bool { return b.reaches(w.Text, folder) }),
		names(policy.OwnUnpinned, func(w policy.OwnRule) bool { return w.Text == tool && class == "pin-missing" }),
		names(policy.OwnClaims, func(w policy.OwnRule) bool { return b.reaches(w.Text, file) }),
	}
	if class == "support-ending" {
		tries = append(tries, names(policy.OwnEnd, any))
	}
	for _, kind := range []string{policy.OwnBuiltBy, policy.OwnRules, policy.OwnBaseline, policy.OwnClaims, policy.OwnLeaveOut, policy.OwnApart, policy.OwnUnpinned, policy.OwnTags, policy.OwnEnd} {
		tries = append(tries, names(kind, any))
	}
	for _, i := range tries {
		if i >= 0 {
			return i
		}
	}
	return -1
}
