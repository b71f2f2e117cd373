package rule

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
)

// Problem is a mistake in a file of rules or baselines.
type Problem struct {
	Place
	Column int
	Reason string
}

func (p Problem) Error() string { return p.Place.String() + ": " + p.Reason }

// Severities are how bad it can be that a rule is broken.
var Severities = []string{"error", "warning", "note"}

// Keys of a rule, and of a table of rules.
var (
	ruleKeys  = []string{"name", "when", "need", "because", "severity", "source", "date", "builds"}
	tableKeys = []string{"table", "rows-of", "need", "brings", "fixed", "builds", "because", "severity", "source", "date", "states", "rows"}
	rowKeys   = []string{"need", "because", "source", "date"}
)

// Parse reads a list of rules and tables. What cannot be understood is told with its place,
// and the rest holds.
func Parse(c *catalogue.Catalogue, file string, n *yaml.Node) ([]*Rule, []Problem) {
	p := &parser{catalogue: c, file: file}
	if n.Kind != yaml.SequenceNode {
		p.fail(n, "rules should be a list, and this is %s", catalogue.KindOf(n))
		return nil, p.problems
	}
	out := p.rules(n)
	rows := 0
	for _, r := range out {
		rows += len(r.Rows)
	}
	if rows > mostRows {
		p.fail(n, "rules should have at most %d rows together, and these have %d", mostRows, rows)
		return nil, p.problems
	}
	return out, append(p.problems, check(out)...)
}

// mostRows is how many rows the rules of one file may have together: each is compared with
// each, and nobody writes more by hand.
const mostRows = 1000

// rules are those of a list that can be understood.
func (p *parser) rules(n *yaml.Node) []*Rule {
	var out []*Rule
	for _, item := range n.Content {
		before := len(p.problems)
		if r := p.rule(item); r != nil && len(p.problems) == before {
			out = append(out, r)
		}
	}
	return out
}

type parser struct {
	catalogue *catalogue.Catalogue
	file      string
	problems  []Problem
}

func (p *parser) place(n *yaml.Node) Place { return Place{p.file, n.Line} }

func (p *parser) fail(n *yaml.Node, format string, args ...any) {
	p.problems = append(p.problems, Problem{p.place(n), n.Column, fmt.Sprintf(format, args...)})
}

// fields are the values of a mapping; keys that are not expected are a mistake.
func (p *parser) fields(n *yaml.Node, what string, keys []string) map[string]*yaml.Node {
	if n.Kind != yaml.MappingNode {
		p.fail(n, "%s should be a mapping with %s, and it is %s", what, strings.Join(keys, ", "), catalogue.KindOf(n))
		return nil
	}
	out := map[string]*yaml.Node{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key := n.Content[i]
		switch {
		case !slices.Contains(keys, key.Value):
			p.fail(key, "unknown key %q in %s; %s", key.Value, what, nearest.Hint(key.Value, keys))
		case out[key.Value] != nil:
			p.fail(key, "%q stands twice in %s", key.Value, what)
		default:
			out[key.Value] = n.Content[i+1]
		}
	}
	return out
}

func (p *parser) text(f map[string]*yaml.Node, key string) string {
	n := f[key]
	if n == nil {
		return ""
	}
	if n.Kind != yaml.ScalarNode || n.Tag == "!!null" {
		p.fail(n, "%s should be a text, and it is %s", key, catalogue.KindOf(n))
		return ""
	}
	return n.Value
}

func (p *parser) severity(f map[string]*yaml.Node) string {
	switch s := p.text(f, "severity"); {
	case s == "":
		return "error"
	case !slices.Contains(Severities, s):
		p.fail(f["severity"], "severity should be error, warning or note, and it is %q", s)
		return "error"
	default:
		return s
	}
}

func (p *parser) rule(n *yaml.Node) *Rule {
	if n.Kind == yaml.MappingNode && has(n, "table") {
		return p.table(n)
	}
	f := p.fields(n, "a rule", ruleKeys)
	if f == nil {
		return nil
	}
	r := &Rule{Name: p.text(f, "name"), Severity: p.severity(f), Builds: p.text(f, "builds") == "true", At: p.place(n)}
	row := Row{Because: p.text(f, "because"), Source: p.text(f, "source"), Date: p.text(f, "date"), At: r.At}
	for _, key := range []string{"name", "when", "need", "because"} {
		if f[key] == nil {
			p.fail(n, "a rule should have %s", key)
		}
	}
	if f["when"] == nil || f["need"] == nil {
		return nil
	}
	row.When, row.Need = p.terms(r, f["when"], "when"), p.terms(r, f["need"], "need")
	r.Rows = []Row{row}
	return r
}

// terms reads a mapping of names to ranges.
func (p *parser) terms(r *Rule, n *yaml.Node, key string) []Term {
	if n.Kind != yaml.MappingNode || len(n.Content) == 0 {
		p.fail(n, "%s should map tools and components to ranges, and it is %s", key, catalogue.KindOf(n))
		return nil
	}
	var out []Term
	for i := 0; i+1 < len(n.Content); i += 2 {
		name, value := n.Content[i], n.Content[i+1]
		end, err := endNamed(p.catalogue, name.Value)
		if err != nil {
			p.fail(name, "%v", err)
			continue
		}
		if t, ok := p.term(r, end, value); ok {
			out = append(out, t)
		}
	}
	return out
}

func (p *parser) term(r *Rule, end End, value *yaml.Node) (Term, bool) {
	if value.Kind != yaml.ScalarNode || value.Tag == "!!null" || value.Value == "" {
		p.fail(value, "%s should be a range, and it is %s", end.Name, catalogue.KindOf(value))
		return Term{}, false
	}
	t := Term{Text: value.Value}
	if end.Label != "" {
		t.Word = value.Value
		t.End = r.end(end)
		return t, true
	}
	scheme, _ := p.catalogue.SchemeNamed(end.Name)
	set, err := catalogue.Range(scheme, value.Value)
	if err != nil {
		p.fail(value, "%s: %v", end.Name, err)
		return t, false
	}
	if set.IsEmpty() {
		p.fail(value, "%s: no version is in %q, so this never applies", end.Name, value.Value)
		return t, false
	}
	if why := p.never(end, set); why != "" {
		p.fail(value, "%s: no version in %q was ever released (%s), so this never applies", end.Name, value.Value, why)
		return t, false
	}
	t.Set, t.End = set, r.end(end)
	return t, true
}

// never tells why no version in a range of a tool was or will be released; "" where one was,
// or may come yet.
func (p *parser) never(end End, set version.Set) string {
	tool, known := p.catalogue.Tool(end.Name)
	if !known || len(tool.Lines) == 0 {
		return ""
	}
	if newest, ok := tool.Lines[len(tool.Lines)-1].Set().Least(); !ok || set.Meets(version.AtLeast(newest)) {
		return ""
	}
	return tool.Unreleased(set.WithoutPrereleases(), day.On(tool.Checked.Time))
}

// table reads a matrix of lines: rows of one, ranges of the other.
func (p *parser) table(n *yaml.Node) *Rule {
	f := p.fields(n, "a table", tableKeys)
	r := &Rule{Name: p.text(f, "table"), Severity: p.severity(f), Table: true, Brings: f["brings"] != nil, Fixed: p.text(f, "fixed") == "true", Builds: p.text(f, "builds") == "true", At: p.place(n)}
	needs := "need"
	if r.Brings {
		needs = "brings"
	}
	if f["brings"] != nil && f["need"] != nil {
		p.fail(n, "a table says either what is needed or what is brought")
		return nil
	}
	for _, key := range []string{"table", "rows-of", needs, "because", "rows"} {
		if f[key] == nil {
			p.fail(n, "a table should have %s", key)
			return nil
		}
	}
	of, ofErr := endNamed(p.catalogue, p.text(f, "rows-of"))
	need, needErr := endNamed(p.catalogue, p.text(f, needs))
	if ofErr != nil {
		p.fail(f["rows-of"], "%v", ofErr)
	}
	if needErr != nil {
		p.fail(f[needs], "%v", needErr)
	}
	if ofErr != nil || needErr != nil {
		return nil
	}
	usual := Row{Because: p.text(f, "because"), Source: p.text(f, "source"), Date: p.text(f, "date")}
	rows := f["rows"]
	if rows.Kind != yaml.MappingNode || len(rows.Content) == 0 {
		p.fail(rows, "rows should map versions of %s to ranges of %s, and they are %s", of.Name, need.Name, catalogue.KindOf(rows))
		return nil
	}
	for i := 0; i+1 < len(rows.Content); i += 2 {
		if row, ok := p.row(r, of, need, usual, rows.Content[i], rows.Content[i+1]); ok {
			r.Rows = append(r.Rows, row)
		}
	}
	if !r.Brings && of.Label == "" {
		r.Rows = append(r.Rows, implied(r.Rows)...)
	}
	return r
}

// implied are rows for versions of which a table says nothing although it speaks of older
// ones: what is newer needs no less.
func implied(rows []Row) []Row {
	if len(rows) == 0 {
		return nil
	}
	var sets []version.Set
	for i := range rows {
		sets = append(sets, rows[i].When[0].Set)
	}
	var out []Row
	before := -1
	for _, c := range version.Cells(version.All(sets[0].Scheme()), sets) {
		if at := slices.Index(c.In, true); at >= 0 {
			before = at
			continue
		}
		if before < 0 {
			continue
		}
		need := rows[before].Need[0]
		least, bounded := need.Set.Least()
		if !bounded {
			continue
		}
		row := rows[before]
		row.Implied, row.Because = true, "what is newer needs no less than "+rows[before].When[0].Text+" does"
		row.When = []Term{{End: row.When[0].End, Text: c.String(), Set: c.Set}}
		row.Need = []Term{{End: need.End, Text: ">=" + least.String(), Set: version.AtLeast(least)}}
		out = append(out, row)
	}
	return out
}

func (p *parser) row(r *Rule, of, need End, row Row, key, value *yaml.Node) (Row, bool) {
	row.At = p.place(key)
	text := value
	if value.Kind == yaml.MappingNode {
		f := p.fields(value, "a row", rowKeys)
		if text = f["need"]; text == nil {
			p.fail(value, "a row should have need")
			return row, false
		}
		for key, to := range map[string]*string{"because": &row.Because, "source": &row.Source, "date": &row.Date} {
			if f[key] != nil {
				*to = p.text(f, key)
			}
		}
	}
	when, ok := p.term(r, of, key)
	needed, fine := p.term(r, need, text)
	row.When, row.Need = []Term{when}, []Term{needed}
	return row, ok && fine
}

func has(n *yaml.Node, key string) bool {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return true
		}
	}
	return false
}

// sortedKeys are a mapping's, for messages that do not depend on its order.
func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }
