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
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
	"wexo/internal/core/glob"
	"wexo/internal/core/nearest"
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
	RepositoryKeys = policy.OwnKinds
	EstateKeys     = append([]string{"repositories", "machines", "groups", "horizon", "severities", decidesKey}, RepositoryKeys...)

	readingKeys = []string{policy.OwnClaims, policy.OwnLeaveOut, decidesKey} // what the others say, nobody asks who reads
)

// decidesKey is the key that says which rules repositories may make for themselves.
const decidesKey = "repositories-decide"

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
	out := policy.Policy{Settings: decided, Repositories: p.named, Machines: p.tagged, Groups: p.groups}
	if estate {
		p.known(out)
	}
	slices.SortStableFunc(p.problems, func(a, b Problem) int { return cmp.Or(a.Line-b.Line, a.Column-b.Column) })
	return rules, out, p.problems
}

// known refuses groups to which no entry of machines adds any: whatever machines there are, they
// would be empty, and what they build would be compared with nothing.
func (p *parser) known(out policy.Policy) {
	groups := out.MachineTags()
	unknown := func(line int, tag, what string) {
		if slices.Contains(groups, tag) {
			return
		}
		p.problems = append(p.problems, Problem{Line: line, Column: 1, Reason: fmt.Sprintf("%s %q, and no entry of machines has this tag; %s", what, document.Clip(tag), nearest.Hint(tag, groups))})
	}
	for _, g := range out.Groups {
		unknown(g.Line, g.Tag, "groups gives a title to")
	}
	for _, s := range append([]policy.Named{{Settings: out.Settings}}, out.Repositories...) {
		for _, tag := range s.BuiltBy {
			unknown(s.BuiltByLine, tag, "built-by names")
		}
	}
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
		if !p.estate {
			decided.Written = append(decided.Written, written(key, v)...)
		}
		switch key {
		case decidesKey:
			decided.Decides = p.decides(v)
			r.Decides = decided.Decides
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

// decides reads which rules repositories may make for themselves.
func (p *parser) decides(n *yaml.Node) policy.Decides {
	out := policy.Decides{Said: true}
	nodes := []*yaml.Node{n}
	if n.Kind == yaml.SequenceNode {
		nodes = n.Content
	}
	for _, item := range nodes {
		if !slices.Contains(policy.OwnKinds, item.Value) || item.Kind != yaml.ScalarNode {
			p.problem(item, "%s should list what repositories may decide of themselves, and it holds %s; %s", decidesKey, kindOf(item), nearest.Hint(item.Value, policy.OwnKinds))
			continue
		}
		out.Kinds = append(out.Kinds, item.Value)
	}
	return out
}

// written are the rules of one key as a repository's own file has them.
func written(key string, v *yaml.Node) []policy.OwnRule {
	items := []*yaml.Node{v}
	if v.Kind == yaml.SequenceNode {
		items = v.Content
	}
	var out []policy.OwnRule
	for _, item := range items {
		if len(out) == mostWritten {
			break
		}
		out = append(out, policy.OwnRule{Kind: key, Text: document.Clip(textOf(item)), Line: item.Line})
	}
	return out
}

// mostWritten is how many rules of one key are told of.
const mostWritten = 200

// textOf is what an entry says first: itself, or the first value in it.
func textOf(n *yaml.Node) string {
	switch {
	case n.Kind == yaml.ScalarNode:
		return n.Value
	case n.Kind == yaml.MappingNode && len(n.Content) > 1:
		return textOf(n.Content[1])
	case n.Kind == yaml.SequenceNode && len(n.Content) > 0:
		return textOf(n.Content[0])
	}
	return ""
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
		if err := glob.CheckName(name); err != nil {
			p.problem(n.Content[i], "%q is no glob of a repository's name", document.Clip(name))
			continue
		}
		p.within = name
		keys := slices.Concat(RepositoryKeys, []string{"horizon", "severities", decidesKey})
		if strings.HasPrefix(name, policy.TagMark) { // which tags it has shows when it has been read
			keys = slices.DeleteFunc(keys, func(key string) bool { return slices.Contains(readingKeys, key) || key == policy.OwnTags })
		}
		rules, decided := p.rules(n.Content[i+1], keys)
		r.Repositories = append(r.Repositories, Repository{name, rules})
		p.named = append(p.named, policy.Named{Name: name, Line: n.Content[i].Line, Settings: decided})
		p.within = ""
	}
}
