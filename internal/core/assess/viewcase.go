package assess

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/claim"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
)

// tying prepares what rules and baselines say of a repository.
func (f *Facts) tying(p *Prepared, decided policy.Policy) *tying {
	t := &tying{facts: f, prepared: p, groups: decided.Machines}
	var taken []policy.Rule
	t.book, taken = f.bookWith(p)
	for _, r := range taken {
		t.problem(r.Line, "", "a rule of this name is there already, and a repository adds rules and replaces none")
	}
	for _, name := range p.Settings.Baselines {
		b, known := t.book.Baseline(name)
		if !known {
			t.problem(0, name, t.book.ErrBaseline(name).Error())
			continue
		}
		t.adopted = append(t.adopted, b)
	}
	t.demanded = t.adopted
	for _, b := range t.book.Baselines { // what machines demand holds for repositories with their tag, and for those that they build
		built := slices.ContainsFunc(b.Machines, func(group string) bool {
			return slices.Contains(p.Settings.Tags, group) || slices.Contains(p.Settings.BuiltBy, group)
		})
		if built && !slices.Contains(t.adopted, b) {
			t.demanded = append(t.demanded[:len(t.demanded):len(t.demanded)], b)
		}
	}
	t.readComponents()
	return t
}

// problem adds what is wrong with what a repository decides of itself.
func (t *tying) problem(line int, raw, reason string) {
	p := t.prepared
	p.Problems = append(p.Problems[:len(p.Problems):len(p.Problems)], claim.Problem{Kind: claim.Mistaken, File: userFile, Line: line, Raw: raw, Reason: reason})
}

// userFile is the file in which a repository decides of itself.
const userFile = ".wexo.yaml"

// bookWith is the book with the rules of the user's that hold for a repository, and those of
// the repository's own whose names were taken.
func (f *Facts) bookWith(p *Prepared) (*rule.Book, []policy.Rule) {
	if len(p.Settings.Rules) == 0 {
		return f.Book, nil
	}
	var key strings.Builder
	for _, r := range p.Settings.Rules {
		key.WriteString(r.File + ":" + strconv.Itoa(r.Line) + "\n" + r.Text)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if known, there := f.books[key.String()]; there {
		return known.Book, known.taken
	}
	out := bookOf{Book: f.Book}
	for _, r := range p.Settings.Rules {
		one := ruleOf(f.Book, r)
		switch {
		case one == nil:
		case r.File == userFile && out.Has(one.Name):
			out.taken = append(out.taken, r)
		default:
			out.Book = out.With([]*rule.Rule{one})
		}
	}
	f.books[key.String()] = out
	return out.Book, out.taken
}

// bookOf is the book with some of the user's rules.
type bookOf struct {
	*rule.Book
	taken []policy.Rule
}

// ruleOf is a rule of the user's; nil where it cannot be understood, which was told where it
// was read.
func ruleOf(b *rule.Book, r policy.Rule) *rule.Rule {
	var doc yaml.Node
	if yaml.Unmarshal([]byte(r.Text), &doc) != nil || len(doc.Content) == 0 {
		return nil
	}
	parsed, problems := rule.Parse(b.Catalogue, r.File, &yaml.Node{Kind: yaml.SequenceNode, Content: doc.Content})
	if len(problems) > 0 || len(parsed) != 1 {
		return nil
	}
	parsed[0].Moved(rule.Place{File: r.File, Line: r.Line})
	return parsed[0]
}

// baseline gives a subject what adopted baselines demand of its tool.
func (t *tying) baseline(s *resolve.Subject) {
	for _, b := range t.adopted {
		for _, d := range b.Demands {
			if d.Name == s.Tool.Name {
				s.Baselines = append(s.Baselines, t.facts.Wants.Ranged(s.Tool, d.Text, d.Set))
			}
		}
	}
}

// viewCase finds the case that a folder is.
func (f *Facts) viewCase(c *ViewCase) *ViewCase {
	f.mu.Lock()
	defer f.mu.Unlock()
	key := &caseKey{}
	for _, tool := range c.Tools {
		key.text(strconv.Itoa(tool.serial))
		key.flags(tool.CodeOnly, tool.Own, tool.Decides)
	}
	for _, tie := range c.Ties {
		serial, known := f.serials[tie.Rule]
		if !known {
			serial = len(f.serials)
			f.serials[tie.Rule] = serial
		}
		key.text("tie" + strconv.Itoa(serial))
		for i, e := range tie.Ends {
			key.text(strconv.Itoa(int(e.Of)) + " " + strconv.Itoa(e.N))
			if e.Of == OfPart {
				key.text(tie.Rule.Distinct(i, rule.Value{Set: c.Parts[e.N].Set}))
			}
		}
	}
	for _, p := range c.Parts {
		key.text(p.Name)
		key.flags(p.Sure)
	}
	for i, b := range c.Baselines {
		key.text("baseline" + b.Name)
		key.flags(i < c.Adopted)
		for _, d := range b.Demands {
			for _, p := range c.Parts {
				if p.Name == d.Name {
					key.flags(p.Set.Meets(d.Set), p.Set.SubsetOf(d.Set))
				}
			}
		}
	}
	key.text(strconv.Itoa(c.Horizon) + c.Ends.Format(time.DateOnly))
	if known := f.viewCases[string(key.b)]; known != nil {
		return known
	}
	f.viewCases[string(key.b)] = c
	return c
}
