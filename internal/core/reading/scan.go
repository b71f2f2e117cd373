package reading

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/version"
)

// scan is what one file says by itself, whatever stands beside it. It depends on
// nothing but the file's path, its bytes, the catalogue and the user's rules, so it can be
// kept for as long as these stay.
type scan struct {
	Claims   []claim.Claim    `json:"c,omitempty"`
	Problems []claim.Problem  `json:"p,omitempty"`
	Bare     *bare            `json:"b,omitempty"`
	Names    map[string]named `json:"n,omitempty"` // definitions that values refer to
	Parent   string           `json:"i,omitempty"` // the file whose definitions hold here too
	Holds    []string         `json:"w,omitempty"` // folders that a workspace file lists
	Reads    []reads          `json:"r,omitempty"` // files that are said to hold a version
	Applies  []string         `json:"a,omitempty"` // scripts that a build script applies
	Includes []string         `json:"u,omitempty"` // builds that it includes
	Sets     []sets           `json:"s,omitempty"` // what is passed to the builds of container files
	Mentions []claim.Mention  `json:"m,omitempty"`
	Applied  []string         `json:"d,omitempty"` // rules of the user's that found something in it
}

// named is a definition with its place.
type named struct {
	Text   string `json:"t"`
	Line   int    `json:"l"`
	Column int    `json:"c"`
}

// scanning is one file being read.
type scanning struct {
	document.Text
	reader    *Reader
	budget    *document.Budget
	file      string
	folder    string // where it stands, for problems
	parsed    map[string]document.Document
	failed    bool
	aside     bool // what only linters, scripts and the like say stands in it: nobody misses what cannot be read
	knownFile bool // a rule reads it: its keys have meanings of their own
	looked    int  // values that may be versions
	full      bool // no more of them are looked at
	seen      map[spot]bool
	out       *scan
}

// spot is a claim's place and text; one place says a thing once.
type spot struct {
	tool, raw, component, folder string
	role                         claim.Role
	line, column                 int
	use                          bool // what the place defines is told of where it is used
}

// scanKnown applies the catalogue's rules, and the readers of files that speak of any tool.
func (p *pass) scanKnown(s *scanning, data []byte, rules []catalogue.Found) {
	kind, holds := p.catalogue.Places().KindOf(s.file)
	s.aside = kind == "script" || kind == "" && !slices.ContainsFunc(rules, func(f catalogue.Found) bool { return f.Rule != nil && f.Rule.Certainty == "" })
	var err error
	if s.Text, err = document.Decode(data); err != nil {
		s.unreadable(err)
		return
	}
	s.knownFile = true
	for _, rule := range rules {
		if rule.Rule != nil {
			s.rule(rule, s.document(rule.Rule.Format))
		}
	}
	s.views()
	s.variables()
	s.applied()
	if kind != "" {
		s.kind(kind, holds)
	}
	s.nestedTools()
	if !s.failed && !locks(rules) {
		s.overlooked()
	}
}

// locks tells whether a file is a lock file, which speaks of thousands of versions.
func locks(rules []catalogue.Found) bool {
	return slices.ContainsFunc(rules, func(f catalogue.Found) bool { return f.Rule != nil && f.Rule.Locked != nil })
}

// scanning begins to read one file; what it says is added to out.
func (p *pass) scanning(file, folder string, out *scan) *scanning {
	return &scanning{reader: p.Reader, budget: p.budget, file: file, folder: folder, parsed: map[string]document.Document{}, out: out}
}

// document parses the file once a format; nil where it cannot be parsed, which is reported once.
func (s *scanning) document(format string) document.Document {
	doc, seen := s.parsed[format]
	if seen || s.failed {
		return doc
	}
	doc, err := document.Parse(format, s.source(s.reader.selectors))
	if err != nil {
		s.failed = true
		s.unreadable(err)
		doc = nil
	}
	s.parsed[format] = doc
	return doc
}

// source is the file's text, to be parsed for selectors.
func (s *scanning) source(selectors document.Selectors) document.Source {
	return document.Source{Data: s.Data, Selectors: selectors, Budget: s.budget}
}

func (s *scanning) unreadable(err error) {
	if s.aside {
		return
	}
	problem := claim.Problem{Kind: claim.Unreadable, Folder: s.folder, File: s.file, Reason: err.Error(), Lost: isLost(err)}
	var syntax *document.SyntaxError
	if errors.As(err, &syntax) {
		problem.Line, problem.Column, problem.Reason = syntax.Line, syntax.Column, syntax.Reason
	}
	s.out.Problems = append(s.out.Problems, problem)
}

// isLost reports whether an error is that something could not be had, and not that it cannot be
// understood.
func isLost(err error) bool {
	return errors.As(err, new(withheld)) || errors.As(err, new(tooLarge)) || errors.Is(err, ErrFault)
}

// partial reports that the rest of the file is left out.
func (s *scanning) partial(reason string) {
	s.out.Problems = append(s.out.Problems, claim.Problem{Kind: claim.Partial, Folder: s.folder, File: s.file, Reason: reason, Lost: true})
}

// rule adds the claims that a rule makes of a document.
func (s *scanning) rule(found catalogue.Found, doc document.Document) {
	if doc == nil {
		return
	}
	rule := found.Rule
	if rule.Locked != nil {
		s.locked(found, doc)
		return
	}
	list := document.Select(doc, rule.Selection(), s.budget)
	if rule.Least {
		list = lowest(found.Tool, list)
	}
	for _, v := range list {
		c := s.claim(found.Tool, claim.Role(rule.Role), v, rule.Dialect, found.Folder)
		c.Reading, c.Serves, c.Component, c.Tells, c.Brings = rule.Reading, rule.Serves, rule.Component, rule.Tells, rule.Brings
		if rule.Certainty != "" {
			c.Certainty, c.Why = rule.Certainty, rule.Why
		}
		if rule.Means != nil {
			means, known := rule.Means[v.Text]
			if !known {
				continue
			}
			c.Means = means
		}
		if c.Role == claim.Wiring {
			c.Scope = s.reader.catalogue.Places().ScopeOf(s.file)
			c.Setting = v.Key
		}
		s.add(c)
	}
}

func (s *scanning) claim(tool *catalogue.Tool, role claim.Role, v document.Value, dialect, folder string) claim.Claim {
	line, column := s.Position(v.Offset)
	c := claim.Claim{Tool: tool.Name, Role: role, Raw: v.Text, Dialect: dialect, Folder: folder, File: s.file,
		Line: line, Column: column, Recognised: claim.Standard, Certainty: claim.High}
	c.Begin, c.End = s.Span(v, s.budget)
	if v.Given != nil {
		line, column := s.Position(v.Given.Offset)
		c.Given = &claim.Place{Name: v.Given.Name, File: s.file, Line: line, Column: column}
	}
	if v.Means != "" {
		c.Means = v.Means
	}
	if v.Number != "" {
		c.Means = v.Number
		c.Why = "without quotes it is the number " + v.Number
	}
	return c
}

// add keeps a claim unless the same place said the same already.
func (s *scanning) add(c claim.Claim) {
	if s.repeats(&c) {
		return
	}
	if len(s.out.Claims) == MaxClaims {
		s.looked = maxLooks
		s.more()
		return
	}
	s.out.Claims = append(s.out.Claims, c)
}

// repeats tells whether the same was said before, and keeps what this claim says. A value
// that a definition and what is put together from it both tell of counts once.
func (s *scanning) repeats(c *claim.Claim) bool {
	own := spot{tool: c.Tool, component: c.Component, folder: c.Folder, role: c.Role, line: c.Line, column: c.Column}
	at := own
	at.raw = c.Raw
	used := own // the definition, as something else makes use of it
	used.use = true
	if c.Given != nil {
		own.line, own.column = c.Given.Line, c.Given.Column
		used.line, used.column = own.line, own.column
	}
	if s.seen[at] || c.Given != nil && s.seen[own] || c.Given == nil && s.seen[used] {
		return true
	}
	if s.seen == nil {
		s.seen = map[spot]bool{}
	}
	s.seen[at] = true
	if c.Given != nil {
		own = used
	}
	s.seen[own] = true
	return false
}

// more counts a value that may be a version, and tells whether it is to be looked at: a
// file of endless values costs only itself.
func (s *scanning) more() bool {
	if s.full {
		return false
	}
	s.budget.Spend(document.LookCost)
	if s.looked++; s.looked > maxLooks {
		s.full = true
		s.partial(fmt.Sprintf("it has more places for versions than anybody needs; after %d versions the rest is left out", len(s.out.Claims)))
	}
	return !s.full
}

// views reads parts of the file as the files they stand for.
func (s *scanning) views() {
	for _, view := range s.reader.catalogue.Places().Views {
		for _, pattern := range view.Files {
			folder, ok := catalogue.HoldsFrom(pattern, s.file)
			if !ok {
				continue
			}
			doc, ok := s.document("json").(*document.Tree)
			if !ok {
				return
			}
			part := doc.View(view.Below)
			if part == nil {
				break
			}
			for _, found := range s.reader.catalogue.RulesFor(view.As) {
				if found.Rule != nil && found.Rule.Format == "json" {
					found.Folder = folder
					s.rule(found, part)
				}
			}
			s.out.Holds = workspaceFolders(doc)
			break
		}
	}
}

// workspaceFolders are the folders that an editor's workspace file lists.
func workspaceFolders(doc *document.Tree) []string {
	var out []string
	list := doc.Root.Child("folders")
	if list == nil {
		return nil
	}
	for _, n := range list.Children {
		if at := n.Child("path"); at != nil && at.Kind == document.Scalar {
			out = append(out, at.Text)
		}
	}
	return out
}

// variables keeps the definitions that values of this file, or of files that inherit
// from it, refer to.
func (s *scanning) variables() {
	for _, v := range s.reader.catalogue.Places().Variables {
		if catalogue.Covers(v.Files, s.file) {
			doc := s.document(v.Format)
			if doc == nil {
				return
			}
			s.out.Names = map[string]named{}
			for name, selector := range v.Also {
				s.define(name, doc.Find(selector))
			}
			for _, one := range doc.Find(v.Each) {
				s.define(one.Key, []document.Value{one})
			}
			s.inherit(v, doc)
		}
	}
}

func (s *scanning) define(name string, list []document.Value) {
	if len(list) > 0 && len(list[0].Text) < 256 {
		line, column := s.Position(list[0].Offset)
		s.out.Names[name] = named{list[0].Text, line, column}
	}
}

func (s *scanning) inherit(v catalogue.Variables, doc document.Document) {
	x, ok := doc.(*document.XML)
	if !ok || !x.Has(v.Parent) {
		return
	}
	s.out.Parent = v.Default
	if at := doc.Find(v.At); len(at) > 0 {
		s.out.Parent = at[0].Text
	} else if x.Has(v.At) {
		s.out.Parent = "" // an empty path: the parent is not looked for in the repository
	}
}

// lowest is the value with the lowest version; those that are none do not count.
func lowest(tool *catalogue.Tool, list []document.Value) []document.Value {
	var out []document.Value
	var least version.Version
	for _, v := range list {
		at, err := tool.Scheme().Parse(cmp.Or(v.Means, v.Text))
		if err == nil && (len(out) == 0 || at.Compare(least) < 0) {
			out, least = []document.Value{v}, at
		}
	}
	return out
}
