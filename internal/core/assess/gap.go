package assess

import (
	"cmp"
	"fmt"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
	"wexo/internal/core/unseen"
)

// mostGaps is how many gaps of one repository are told one by one; its findings have them all.
const mostGaps = 100

// Gaps are what was not seen of a repository: what of its findings tells so, but for what counts
// apart and for what the estate decided to be a note. They are in the order of the findings; of
// very many, the others are one, which may be of any tool.
func (r *Result) Gaps() []unseen.Gap {
	var out []unseen.Gap
	more, rest := 0, unseen.Gap{Kind: unseen.Unread, Repository: r.Name}
	for _, f := range r.Findings {
		g, is := f.gap()
		switch {
		case !is:
		case len(out) < mostGaps:
			out = append(out, g)
		default:
			more++
			rest.Weight = max(rest.Weight, g.Weight)
		}
	}
	if more > 0 {
		rest.What = fmt.Sprintf("%d things more of it, which its findings name", more)
		out = append(out, rest)
	}
	return out
}

// gap is what a finding tells not to have been seen.
func (f *Finding) gap() (unseen.Gap, bool) {
	whole := f.Problem != nil && f.Problem.File == "" // a repository of which nothing is read is no matter of severity
	if f.Apart || !whole && f.Severity.Rank() < Warning.Rank() || !slices.Contains(blinding, f.Class) {
		return unseen.Gap{}, false
	}
	g := unseen.Gap{Kind: unseen.Unread, Repository: f.Repository.Name, Folder: f.Folder, Weight: unseen.Open}
	if len(f.Evidence) > 0 {
		g.File, g.Line = f.Evidence[0].File, f.Evidence[0].Line
	}
	switch {
	case f.Problem != nil:
		g.What = f.Problem.Reason
		if f.Problem.Kind == claim.Mistaken {
			g.Kind = unseen.Unmatched
		}
		if f.Problem.Lost && f.Problem.Kind != claim.Stale {
			g.Weight = unseen.Lost
		}
		g.Tools = f.Repository.speaking[f.Problem.File]
	case f.Class == &rulesUndecided:
		g.Kind, g.What, g.Tools = unseen.Undecided, "whether all that is said there can hold together", f.Tools()
		g.Weight = unseen.Lost
	default: // a bound that cannot be read
		g.What, g.Tools = f.Verdict.Reason, f.Tools()
	}
	return g, true
}

// Undecided are the places of which it is not known what becomes of what is asked for there: no
// machine matters to the repository, though there are some, or a machine does not tell what runs.
// What comes with another tool is judged by what is known to come with it.
func (r *Result) Undecided(fleet *resolve.Fleet) []unseen.Gap {
	var out []unseen.Gap
	for n, s := range r.Subjects {
		j := r.Judged[n]
		if s.Apart || j.Case.Brought || s.Tool.BundledWith != "" || len(j.Resolved.Pins)+len(j.Resolved.Bounds) == 0 {
			continue
		}
		if r.Among.Len() == 0 {
			return []unseen.Gap{{Kind: unseen.Undecided, Repository: r.Name, Weight: unseen.Open,
				What: "no machine that is looked at builds it or holds it, so that what it asks for is compared with nothing"}}
		}
		var untold resolve.Machines
		for i := range j.Resolved.Outcomes {
			if o := &j.Resolved.Outcomes[i]; o.State == resolve.Unknown && (o.Path != "" || o.DecidedBy == resolve.ByPath) {
				untold = untold.And(o.Machines)
			}
		}
		if untold.Len() > 0 {
			out = append(out, unseen.Gap{Kind: unseen.Undecided, Repository: r.Name, Folder: s.Folder, Weight: unseen.Open, Tools: []string{s.Tool.Name},
				What: fmt.Sprintf("which %s runs there cannot be told on %s", s.Tool.Title, strings.Join(fleet.Names(untold), ", "))})
		}
	}
	return out
}

// unheard are the machines on which it is not known of some tools whether a repository asks for
// them, since something was not seen: of each tool, and of all.
type unheard struct {
	all resolve.Machines
	of  map[string]resolve.Machines
}

func (u *unheard) add(r *Result) {
	for _, f := range r.Findings {
		g, is := f.gap()
		switch {
		case !is:
		case f.Problem != nil && f.Problem.Kind == claim.Stale: // what it said last counts
		case f.Problem != nil && f.Repository.builds[f.Problem.File]: // no machine serves what it sets up
		case g.Tools == nil:
			u.all = u.all.And(r.Among)
		default:
			for _, name := range g.Tools {
				u.of[name] = u.of[name].And(r.Among)
			}
		}
	}
}

// has reports whether a machine's installation of a tool may be asked for unheard.
func (u *unheard) has(machine int, t *catalogue.Tool) bool {
	return u.all.Has(machine) || u.of[t.Name].Has(machine) || u.of[cmp.Or(t.BundledWith, t.Name)].Has(machine)
}

// speaks are the tools of which files with problems could say what is wanted: of each file its
// tools; nil where it could be any.
func speaks(c *catalogue.Catalogue, problems []claim.Problem) map[string][]string {
	out := map[string][]string{}
	for _, p := range problems {
		if p.File == "" {
			continue
		}
		if _, known := out[p.File]; !known {
			out[p.File] = toolsIn(c, p.File)
		}
	}
	return out
}

// setsUp reports whether a file says only what a pipeline or a container sets up for itself: no
// machine serves it.
func setsUp(c *catalogue.Catalogue, file string) bool {
	kind, _ := c.Places().KindOf(file)
	return kind == "pipeline" || kind == "container"
}

// toolsIn are the tools that a file could speak of; nil where it could be any.
func toolsIn(c *catalogue.Catalogue, file string) []string {
	kind, _ := c.Places().KindOf(file)
	if kind != "" {
		return nil
	}
	if tool, known := c.Tool(claim.VersionFile(path.Base(file))); known {
		return []string{tool.Name}
	}
	var out []string
	for _, found := range c.RulesFor(file) {
		if found.Tool == nil {
			return nil
		}
		if !slices.Contains(out, found.Tool.Name) {
			out = append(out, found.Tool.Name)
		}
	}
	return out
}
