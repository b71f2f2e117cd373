package userrule

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"path"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
	"wexo/internal/core/policy"
)

// Problem is a place in a file of rules that cannot be understood.
type Problem struct {
	Line, Column int
	Reason       string // what stands there and what was expected
}

func (p Problem) Error() string { return fmt.Sprintf("line %d: %s", p.Line, p.Reason) }

// Keys of rules, for those who share the file with other settings.
var (
	RepositoryKeys = []string{"claims", "leave-out", "unpinned-is-fine", "tags", "planned-end", "baselines", "apart", "rules", "built-by"}
	EstateKeys     = append([]string{"repositories", "machines", "groups", "horizon", "severities"}, RepositoryKeys...)

	readingKeys = []string{"claims", "leave-out"} // what the others say, nobody asks who reads
)

// Parse reads rules and a policy from YAML. The estate's may also name repositories;
// keys of the file that are neither are handed to others, which says what is wrong with
// them. What cannot be understood is reported with its place, and the rest holds.
func Parse(data []byte, c *catalogue.Catalogue, estate bool, others ...Other) (Rules, policy.Policy, []Problem) {
	p := &parser{catalogue: c, estate: estate, others: others, sum: sha256.New()}
	var doc yaml.Node
	err := yaml.NewDecoder(bytes.NewReader(data)).Decode(&doc)
	var broken *document.SyntaxError
	switch {
	case errors.Is(err, io.EOF):
		return Rules{}, policy.Policy{}, nil
	case err != nil:
		if errors.As(document.YAMLError(err), &broken) {
			p.problems = append(p.problems, Problem{broken.Line, broken.Column, broken.Reason})
		}
		return Rules{}, policy.Policy{}, p.problems
	case len(doc.Content) == 0 || doc.Content[0].Tag == "!!null":
		return Rules{}, policy.Policy{}, nil
	}
	keys := slices.Clone(RepositoryKeys)
	if estate {
		keys = slices.Clone(EstateKeys)
	}
	for _, o := range others {
		keys = append(keys, o.Key)
	}
	rules, decided := p.rules(doc.Content[0], keys)
	if p.reads {
		rules.Digest = hex.EncodeToString(p.sum.Sum(nil))[:16]
	}
	slices.SortStableFunc(p.problems, func(a, b Problem) int { return cmp.Or(a.Line-b.Line, a.Column-b.Column) })
	return rules, policy.Policy{Settings: decided, Repositories: p.named, Machines: p.tagged, Groups: p.groups}, p.problems
}

// Other is a key of the file that is neither a rule nor a decision. Read says what its
// value should be; "" where it is that.
type Other struct {
	Key  string
	Read func(v *yaml.Node) (should string)
}

type parser struct {
	catalogue *catalogue.Catalogue
	estate    bool
	others    []Other
	problems  []Problem
	named     []policy.Named
	tagged    []policy.Machines
	groups    []policy.Group
	sum       hash.Hash // of what readers are told
	reads     bool
	placed    int    // rules that were given a place
	within    string // the glob of repositories that is read; empty outside
}

// note takes down what readers are told, for the digest.
func (p *parser) note(key string, v *yaml.Node) {
	text, err := yaml.Marshal(v)
	if err == nil {
		p.reads = true
		fmt.Fprintf(p.sum, "%q %s %d\n%s", p.within, key, len(text), text)
	}
}

func (p *parser) problem(n *yaml.Node, format string, args ...any) {
	p.problems = append(p.problems, Problem{n.Line, n.Column, fmt.Sprintf(format, args...)})
}

func (p *parser) rules(n *yaml.Node, keys []string) (r Rules, decided policy.Settings) {
	p.fields(n, "the file", keys, func(key string, v *yaml.Node) {
		if slices.Contains(readingKeys, key) {
			p.note(key, v)
		}
		switch key {
		case "claims":
			for _, item := range p.few(v, key, p.items(v, key)) {
				if c, ok := p.claim(item); ok {
					r.Claims = append(r.Claims, c)
				}
			}
		case "leave-out":
			r.LeaveOut = p.leaveOut(v)
		case "repositories":
			p.repositories(v, &r)
		case "machines":
			p.machines(v)
		case "groups":
			p.groupTitles(v)
		default:
			p.decision(key, v, &decided)
		}
	})
	return r, decided
}

func (p *parser) leaveOut(n *yaml.Node) []Glob {
	nodes := []*yaml.Node{n}
	if n.Kind == yaml.SequenceNode {
		nodes = p.few(n, "leave-out", n.Content)
	}
	var out []Glob
	for _, item := range nodes {
		for _, text := range p.globs(item, "leave-out") {
			out = append(out, Glob{text, p.place(item)})
		}
	}
	return out
}

// place is where a value stands, for those who are told what became of it.
func (p *parser) place(n *yaml.Node) Place {
	p.placed++
	if p.estate {
		return Place{"", n.Line, p.placed}
	}
	return Place{File, n.Line, p.placed}
}

func (p *parser) repositories(n *yaml.Node, r *Rules) {
	if n.Kind != yaml.MappingNode {
		p.problem(n, "repositories should map names to rules, and it is %s", kindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		name := n.Content[i].Value
		if _, err := path.Match(name, ""); err != nil {
			p.problem(n.Content[i], "%q is no glob of a repository's name", document.Clip(name))
			continue
		}
		p.within = name
		keys := slices.Concat(RepositoryKeys, []string{"horizon", "severities"})
		if strings.HasPrefix(name, policy.TagMark) { // which tags it has shows when it has been read
			keys = slices.DeleteFunc(keys, func(key string) bool { return slices.Contains(readingKeys, key) || key == "tags" })
		}
		rules, decided := p.rules(n.Content[i+1], keys)
		r.Repositories = append(r.Repositories, Repository{name, rules})
		p.named = append(p.named, policy.Named{Name: name, Settings: decided})
		p.within = ""
	}
}
