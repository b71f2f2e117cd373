package claim

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
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/glob"
	"wexo/internal/core/policy"
	"wexo/internal/core/version"
)

// RuleProblem is a place in a file of rules that cannot be understood.
type RuleProblem struct {
	Line, Column int
	Reason       string // what stands there and what was expected
}

func (p RuleProblem) Error() string { return fmt.Sprintf("line %d: %s", p.Line, p.Reason) }

// Keys of rules, for those who share the file with other settings.
var (
	RepositoryKeys = []string{"claims", "leave-out", "unpinned-is-fine", "tags", "planned-end", "baselines"}
	EstateKeys     = append([]string{"repositories", "horizon", "severities"}, RepositoryKeys...)

	readingKeys = []string{"claims", "leave-out"} // what the others say, nobody asks who reads
)

// ParseRules reads rules and a policy from YAML. The estate's may also name repositories;
// keys of the file that are neither are handed to others, which says what is wrong with
// them. What cannot be understood is reported with its place, and the rest holds.
func ParseRules(data []byte, c *catalogue.Catalogue, estate bool, others ...Other) (Rules, policy.Policy, []RuleProblem) {
	p := &rulesParser{catalogue: c, others: others, sum: sha256.New()}
	var doc yaml.Node
	err := yaml.NewDecoder(bytes.NewReader(data)).Decode(&doc)
	var broken *syntaxError
	switch {
	case errors.Is(err, io.EOF):
		return Rules{}, policy.Policy{}, nil
	case err != nil:
		if errors.As(yamlError(err), &broken) {
			p.problems = append(p.problems, RuleProblem{broken.line, broken.column, broken.reason})
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
	slices.SortStableFunc(p.problems, func(a, b RuleProblem) int { return cmp.Or(a.Line-b.Line, a.Column-b.Column) })
	return rules, policy.Policy{Settings: decided, Repositories: p.named}, p.problems
}

// Other is a key of the file that is neither a rule nor a decision. Read says what its
// value should be; "" where it is that.
type Other struct {
	Key  string
	Read func(v *yaml.Node) (should string)
}

type rulesParser struct {
	catalogue *catalogue.Catalogue
	others    []Other
	problems  []RuleProblem
	named     []policy.Named
	sum       hash.Hash // of what readers are told
	reads     bool
	within    string // the glob of repositories that is read; empty outside
}

// note takes down what readers are told, for the digest.
func (p *rulesParser) note(key string, v *yaml.Node) {
	text, err := yaml.Marshal(v)
	if err == nil {
		p.reads = true
		fmt.Fprintf(p.sum, "%q %s %d\n%s", p.within, key, len(text), text)
	}
}

func (p *rulesParser) problem(n *yaml.Node, format string, args ...any) {
	p.problems = append(p.problems, RuleProblem{n.Line, n.Column, fmt.Sprintf(format, args...)})
}

// fields calls do for every key of a mapping; keys that are not expected are a problem.
func (p *rulesParser) fields(n *yaml.Node, what string, keys []string, do func(key string, v *yaml.Node)) {
	if n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	if n.Kind != yaml.MappingNode {
		p.problem(n, "%s should be a mapping with %s, and it is %s", what, list(keys), kindOf(n))
		return
	}
	seen := map[string]bool{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key := n.Content[i].Value
		switch {
		case !slices.Contains(keys, key):
			p.problem(n.Content[i], "unknown key %q in %s; expected %s", clip(key), what, list(keys))
		case seen[key]:
			p.problem(n.Content[i], "%q stands twice in %s", key, what)
		default:
			seen[key] = true
			do(key, n.Content[i+1])
		}
	}
}

func (p *rulesParser) rules(n *yaml.Node, keys []string) (r Rules, decided policy.Settings) {
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
			r.LeaveOut = p.globs(v, key)
		case "repositories":
			p.repositories(v, &r)
		default:
			p.decision(key, v, &decided)
		}
	})
	return r, decided
}

// decision reads what is decided by one key.
func (p *rulesParser) decision(key string, v *yaml.Node, s *policy.Settings) {
	switch key {
	case "unpinned-is-fine":
		for _, item := range p.few(v, key, p.items(v, key)) {
			s.Unpinned = append(s.Unpinned, p.unpinned(item)...)
		}
	case "tags":
		s.Tags = p.texts(v, key)
	case "baselines":
		s.Baselines = p.texts(v, key)
	case "planned-end":
		if _, err := time.Parse(time.DateOnly, v.Value); err != nil {
			p.problem(v, "planned-end should be a date such as 2027-05-01, and it is %q", clip(v.Value))
			return
		}
		s.PlannedEnd = v.Value
	case "horizon":
		days, err := strconv.Atoi(v.Value)
		if err != nil || days < 1 || days > mostHorizon {
			p.problem(v, "horizon should be a number of days from 1 to %d, and it is %s", mostHorizon, kindOf(v))
			return
		}
		s.Horizon = days
	case "severities":
		p.severities(v, s)
	default:
		for _, o := range p.others {
			if should := ""; o.Key == key {
				if should = o.Read(v); should != "" {
					p.problem(v, "%s should be %s, and it is %s", key, should, kindOf(v))
				}
			}
		}
	}
}

// mostHorizon is ten years, in days.
const mostHorizon = 3650

// severities maps classes of findings to how bad they are; which classes there are is
// known where findings are.
func (p *rulesParser) severities(n *yaml.Node, s *policy.Settings) {
	if n.Kind != yaml.MappingNode {
		p.problem(n, "severities should map classes of findings to error, warning or note, and it is %s", kindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, v := n.Content[i], n.Content[i+1]
		if !slices.Contains([]string{"error", "warning", "note"}, v.Value) {
			p.problem(v, "the severity of %s should be error, warning or note, and it is %s", clip(key.Value), kindOf(v))
			continue
		}
		s.Severities = append(s.Severities, policy.Weighting{Class: key.Value, Severity: v.Value, Line: key.Line})
	}
}

func (p *rulesParser) repositories(n *yaml.Node, r *Rules) {
	if n.Kind != yaml.MappingNode {
		p.problem(n, "repositories should map names to rules, and it is %s", kindOf(n))
		return
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		name := n.Content[i].Value
		if _, err := path.Match(name, ""); err != nil {
			p.problem(n.Content[i], "%q is no glob of a repository's name", clip(name))
			continue
		}
		p.within = name
		rules, decided := p.rules(n.Content[i+1], slices.Concat(RepositoryKeys, []string{"horizon", "severities"}))
		r.Repositories = append(r.Repositories, RepositoryRules{name, rules})
		p.named = append(p.named, policy.Named{Name: name, Settings: decided})
		p.within = ""
	}
}

var claimKeys = []string{"files", "tool", "role", "format", "select", "pattern", "dialect", "reading"}

func (p *rulesParser) claim(n *yaml.Node) (ClaimRule, bool) {
	before := len(p.problems)
	c := ClaimRule{selectors: selectors{}}
	c.Role = string(Pin)
	var selectAt, formatAt *yaml.Node
	p.fields(n, "a claim", claimKeys, func(key string, v *yaml.Node) {
		switch key {
		case "files":
			c.Files = p.globs(v, key)
		case "tool":
			tool, known := p.catalogue.Tool(v.Value)
			if !known {
				p.problem(v, "unknown tool %q; expected one of %s", clip(v.Value), list(p.toolNames()))
			}
			c.Tool = tool
		case "role":
			c.Role = p.oneOf(v, key, "pin", "bound", "wiring", "setup", "component", "residue")
		case "format":
			c.Format, formatAt = p.oneOf(v, key, formatNames()...), v
		case "select":
			c.Select, selectAt = p.texts(v, key), v
		case "dialect":
			c.Dialect = p.oneOf(v, key, version.DialectNames()...)
		case "reading":
			c.Reading = p.oneOf(v, key, "minimum", "caret", "path", "name")
		case "pattern":
			re, err := compilePattern(v.Value)
			if err != nil {
				p.problem(v, "pattern should be a regular expression with a group around the version, and %q is none that is taken: %v", clip(v.Value), err)
				return
			}
			c.Pattern = catalogue.Pattern{Regexp: re}
		}
	})
	if len(p.problems) > before {
		return c, false
	}
	switch {
	case len(c.Files) == 0:
		p.problem(n, "a claim should name its files")
	case c.Tool == nil:
		p.problem(n, "a claim should name its tool")
	}
	if len(p.problems) > before {
		return c, false
	}
	c.complete()
	if keyed := slices.Contains([]string{"json", "yaml", "toml", "xml", "hcl", "ini", "properties"}, c.Format); keyed && len(c.Select) == 0 {
		p.problem(n, "a claim in %s should say with select where the version stands", c.Format)
	} else if !keyed && c.Format != "plain" && c.Pattern.Regexp == nil {
		p.problem(orNode(formatAt, n), "a claim in a file of the format %s should have a pattern", c.Format)
	}
	if compile := formats[c.Format].compile; compile != nil {
		for i, text := range c.Select {
			s, err := compile(text)
			if len(text) > maxRuleText {
				err = fmt.Errorf("it is longer than %d characters", maxRuleText)
			}
			if err != nil {
				at := selectAt
				if at.Kind == yaml.SequenceNode {
					at = at.Content[i]
				}
				p.problem(at, "select should be %s, and %q is none: %v", map[bool]string{true: "an XPath", false: "a JSONPath"}[c.Format == "xml"], clip(text), err)
				continue
			}
			c.selectors[text] = s
		}
	}
	return c, len(p.problems) == before
}

func orNode(n, other *yaml.Node) *yaml.Node {
	if n != nil {
		return n
	}
	return other
}

// complete fills in what follows from the rest.
func (r *ClaimRule) complete() {
	if r.Format == "" {
		switch path.Ext(r.Files[0]) {
		case ".json", ".jsonc":
			r.Format = "json"
		case ".yaml", ".yml":
			r.Format = "yaml"
		case ".toml":
			r.Format = "toml"
		case ".xml":
			r.Format = "xml"
		case ".ini", ".cfg":
			r.Format = "ini"
		case ".properties":
			r.Format = "properties"
		default:
			if r.Format = "plain"; r.Pattern.Regexp != nil {
				r.Format = "raw"
			}
		}
		if len(r.Select) == 0 {
			if r.Format = "plain"; r.Pattern.Regexp != nil {
				r.Format = "raw"
			}
		}
	}
	if r.Dialect == "" {
		r.Dialect = r.Tool.Dialect
	}
}

func formatNames() []string {
	var out []string
	for name := range formats {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

func (p *rulesParser) toolNames() []string {
	var out []string
	for _, t := range p.catalogue.Tools() {
		out = append(out, t.Name)
	}
	return out
}

func (p *rulesParser) unpinned(n *yaml.Node) []policy.Unpinned {
	u := policy.Unpinned{Tool: n.Value}
	at := n
	if n.Kind == yaml.MappingNode {
		p.fields(n, "an entry of unpinned-is-fine", []string{"tool", "folders"}, func(key string, v *yaml.Node) {
			if key == "tool" {
				u.Tool, at = v.Value, v
			} else {
				u.Folders = p.globs(v, key)
			}
		})
	}
	tool, known := p.catalogue.Tool(u.Tool)
	if !known {
		p.problem(at, "unknown tool %q; expected one of %s", clip(u.Tool), list(p.toolNames()))
		return nil
	}
	u.Tool = tool.Name
	return []policy.Unpinned{u}
}

func (p *rulesParser) oneOf(n *yaml.Node, key string, allowed ...string) string {
	if n.Kind != yaml.ScalarNode || !slices.Contains(allowed, n.Value) {
		p.problem(n, "%s should be one of %s, and it is %s", key, list(allowed), kindOf(n))
	}
	return n.Value
}

// items are the entries of a list.
func (p *rulesParser) items(n *yaml.Node, key string) []*yaml.Node {
	if n.Kind != yaml.SequenceNode {
		p.problem(n, "%s should be a list, and it is %s", key, kindOf(n))
		return nil
	}
	return n.Content
}

// texts are the texts of a list, or a single one.
func (p *rulesParser) texts(n *yaml.Node, key string) []string {
	nodes := []*yaml.Node{n}
	if n.Kind == yaml.SequenceNode {
		nodes = p.few(n, key, n.Content)
	}
	var out []string
	for _, item := range nodes {
		if item.Kind != yaml.ScalarNode || item.Tag == "!!null" || item.Value == "" {
			p.problem(item, "%s should be a text or a list of texts, and it is %s", key, kindOf(item))
			continue
		}
		out = append(out, item.Value)
	}
	return out
}

func (p *rulesParser) globs(n *yaml.Node, key string) []string {
	texts := p.texts(n, key)
	for _, text := range texts {
		if err := glob.Check(text); err != nil {
			p.problem(n, "%s should hold paths or globs inside the repository, and %q %v", key, clip(text), err)
		}
	}
	return texts
}

// few are the entries of a list, unless they are more than anybody writes by hand: each
// file of a repository is compared with each.
func (p *rulesParser) few(n *yaml.Node, key string, list []*yaml.Node) []*yaml.Node {
	if len(list) > maxRules {
		p.problem(n, "%s should hold at most %d entries, and it holds %d", key, maxRules, len(list))
		return nil
	}
	return list
}

func kindOf(n *yaml.Node) string {
	switch {
	case n.Kind == yaml.SequenceNode:
		return "a list"
	case n.Kind == yaml.MappingNode:
		return "a mapping"
	case n.Tag == "!!null":
		return "empty"
	}
	return fmt.Sprintf("%q", clip(n.Value))
}

func list(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " or " + words[len(words)-1]
}
