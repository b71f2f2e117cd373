package rule

import (
	"errors"
	"fmt"
	"io/fs"
	"runtime"
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"
	"golang.org/x/sync/errgroup"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/nearest"
)

// Book is all rules and baselines. It is read-only and may be shared.
type Book struct {
	Catalogue *catalogue.Catalogue
	Rules     []*Rule // sorted by name
	Baselines []*Baseline
	of        map[string][]*Rule // of each end's tool or component
	joined    sync.Map           // rules that speak of the same two things, as one
}

// Joined is several rules on the same two things as one rule, with the ends of the first.
func (b *Book) Joined(rules []*Rule) *Rule {
	if len(rules) == 1 {
		return rules[0]
	}
	var key strings.Builder
	for _, r := range rules {
		key.WriteString(r.Name + " ")
	}
	if known, ok := b.joined.Load(key.String()); ok {
		return known.(*Rule)
	}
	out := &Rule{Name: key.String(), Ends: rules[0].Ends}
	for _, r := range rules {
		for _, row := range r.Rows {
			row.When, row.Need = out.moved(r, row.When), out.moved(r, row.Need)
			out.Rows = append(out.Rows, row)
		}
	}
	known, _ := b.joined.LoadOrStore(key.String(), out)
	return known.(*Rule)
}

// moved are terms of another rule at the ends of this one.
func (r *Rule) moved(from *Rule, terms []Term) []Term {
	out := slices.Clone(terms)
	for i := range out {
		out[i].End = r.end(from.Ends[out[i].End])
	}
	return out
}

// Load reads rules/*.yaml and baselines/*.yaml of catalogue folders. What stands in a later
// folder replaces what has the same name in an earlier one. Errors name file and line.
func Load(c *catalogue.Catalogue, folders ...fs.FS) (*Book, error) {
	b := (&Book{Catalogue: c}).With(derived(c))
	var problems []Problem
	for _, dir := range folders {
		rules, baselines, found := readFolder(c, dir)
		problems = append(problems, found...)
		problems = append(problems, check(rules)...)
		b = b.with(rules, baselines)
	}
	if len(folders) > 1 {
		problems = append(problems, b.twice(problems)...)
	}
	return b, join(problems)
}

// twice are contradictions between what stands in different folders.
func (b *Book) twice(told []Problem) []Problem {
	var out []Problem
	for _, p := range check(b.Rules) {
		if !slices.Contains(told, p) {
			out = append(out, p)
		}
	}
	return out
}

// join is all problems as one error; nil where there is none.
func join(problems []Problem) error {
	var out []error
	for _, p := range problems {
		out = append(out, p)
	}
	return errors.Join(out...)
}

func readFolder(c *catalogue.Catalogue, dir fs.FS) (rules []*Rule, baselines []*Baseline, problems []Problem) {
	each := func(pattern string, read func(file string, n *yaml.Node)) {
		names, err := fs.Glob(dir, pattern)
		if err != nil {
			problems = append(problems, Problem{Place: Place{File: pattern}, Reason: err.Error()})
		}
		for i, d := range documents(dir, names) {
			if d.problem != nil {
				problems = append(problems, *d.problem)
			} else if d.root != nil {
				read(catalogue.Called(dir, names[i]), d.root)
			}
		}
	}
	each("rules/*.yaml", func(file string, n *yaml.Node) {
		p := &parser{catalogue: c, file: file}
		if n.Kind != yaml.SequenceNode {
			p.fail(n, "a file of rules should be a list, and this is %s", catalogue.KindOf(n))
		} else {
			rules = append(rules, p.rules(n)...)
		}
		problems = append(problems, p.problems...)
	})
	each("baselines/*.yaml", func(file string, n *yaml.Node) {
		b, found := ParseBaseline(c, file, n)
		problems = append(problems, found...)
		if b != nil && len(found) == 0 {
			baselines = append(baselines, b)
		}
	})
	return rules, baselines, problems
}

// parsed is a file's one document, or what is wrong with it.
type parsed struct {
	root    *yaml.Node
	problem *Problem
}

// documents parses files side by side: every command begins with it.
func documents(dir fs.FS, names []string) []parsed {
	out := make([]parsed, len(names))
	var g errgroup.Group
	g.SetLimit(2 * runtime.GOMAXPROCS(0))
	for i, name := range names {
		g.Go(func() error {
			out[i].root, out[i].problem = document(dir, name)
			return nil
		})
	}
	_ = g.Wait() // each file keeps its own problem
	return out
}

// document is the one document of a YAML file; nil where it is empty.
func document(dir fs.FS, name string) (*yaml.Node, *Problem) {
	called := catalogue.Called(dir, name)
	data, err := fs.ReadFile(dir, name)
	if err != nil {
		return nil, &Problem{Place: Place{File: called}, Reason: err.Error()}
	}
	root, err := catalogue.Document(data, called)
	var broken catalogue.Problem
	if errors.As(err, &broken) {
		return nil, &Problem{Place: Place{broken.File, broken.Line}, Reason: broken.Reason}
	}
	return root, nil
}

// With is the book with more rules: those with a name that is taken replace.
func (b *Book) With(rules []*Rule) *Book {
	if len(rules) == 0 {
		return b
	}
	return b.with(rules, nil)
}

func (b *Book) with(rules []*Rule, baselines []*Baseline) *Book {
	out := &Book{Catalogue: b.Catalogue, Rules: slices.Clone(b.Rules), Baselines: slices.Clone(b.Baselines), of: map[string][]*Rule{}}
	for _, r := range rules {
		out.Rules = slices.DeleteFunc(out.Rules, func(o *Rule) bool { return o.Name == r.Name })
	}
	for _, one := range baselines {
		out.Baselines = slices.DeleteFunc(out.Baselines, func(o *Baseline) bool { return o.Name == one.Name })
	}
	out.Rules, out.Baselines = append(out.Rules, rules...), append(out.Baselines, baselines...)
	slices.SortStableFunc(out.Rules, func(a, b *Rule) int { return strings.Compare(a.Name, b.Name) })
	slices.SortStableFunc(out.Baselines, func(a, b *Baseline) int { return strings.Compare(a.Name, b.Name) })
	for _, r := range out.Rules {
		for _, e := range r.Ends {
			if list := out.of[e.Of]; len(list) == 0 || list[len(list)-1] != r {
				out.of[e.Of] = append(list, r)
			}
		}
	}
	return out
}

// Has reports whether a rule has a name.
func (b *Book) Has(name string) bool {
	return slices.ContainsFunc(b.Rules, func(r *Rule) bool { return r.Name == name })
}

// Of are the rules that speak of a tool or component.
func (b *Book) Of(name string) []*Rule { return b.of[name] }

// Baseline finds a baseline by its name.
func (b *Book) Baseline(name string) (*Baseline, bool) {
	for _, one := range b.Baselines {
		if one.Name == name {
			return one, true
		}
	}
	return nil, false
}

// BaselineNames lists the baselines, sorted.
func (b *Book) BaselineNames() []string {
	out := make([]string, len(b.Baselines))
	for i, one := range b.Baselines {
		out[i] = one.Name
	}
	return out
}

// ErrBaseline says that a baseline is not known, and which are.
func (b *Book) ErrBaseline(name string) error {
	return fmt.Errorf("no baseline is called %q; %s", name, nearest.Hint(name, b.BaselineNames()))
}
