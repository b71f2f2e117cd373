package claim

import (
	"errors"
	"fmt"

	"wexo/internal/core/catalogue"
)

// scan is what one file says by itself, whatever stands beside it. It depends on
// nothing but the file's path, its bytes, the catalogue and the user's rules, so it can be
// kept for as long as these stay.
type scan struct {
	Claims   []Claim          `json:"c,omitempty"`
	Problems []Problem        `json:"p,omitempty"`
	Bare     *bare            `json:"b,omitempty"`
	Names    map[string]named `json:"n,omitempty"` // definitions that values refer to
	Parent   string           `json:"i,omitempty"` // the file whose definitions hold here too
	Holds    []string         `json:"w,omitempty"` // folders that a workspace file lists
}

// named is a definition with its place.
type named struct {
	Text   string `json:"t"`
	Line   int    `json:"l"`
	Column int    `json:"c"`
}

// scanning is one file being read.
type scanning struct {
	Text
	reader *Reader
	budget *budget
	file   string
	folder string // where it stands, for problems
	parsed map[string]document
	failed bool
	looked int  // values that may be versions
	full   bool // no more of them are looked at
	seen   map[spot]bool
	out    *scan
}

// spot is a claim's place and text; one place says a thing once.
type spot struct {
	tool, raw, component, folder string
	role                         Role
	line, column                 int
}

// scanKnown applies the catalogue's rules, and the readers of files that speak of any tool.
func (p *pass) scanKnown(s *scanning, data []byte, rules []catalogue.Found) {
	var err error
	if s.Text, err = decode(data); err != nil {
		s.unreadable(err)
		return
	}
	for _, rule := range rules {
		if rule.Rule != nil {
			s.rule(rule, s.document(rule.Rule.Format))
		}
	}
	s.views()
	s.variables()
	if kind, holds := p.catalogue.Places().KindOf(s.file); kind != "" {
		s.kind(kind, holds)
	}
	s.nestedTools()
}

// scanning begins to read one file; what it says is added to out.
func (p *pass) scanning(file, folder string, out *scan) *scanning {
	return &scanning{reader: p.Reader, budget: p.budget, file: file, folder: folder, parsed: map[string]document{}, out: out}
}

// document parses the file once a format; nil where it cannot be parsed, which is reported once.
func (s *scanning) document(format string) document {
	doc, seen := s.parsed[format]
	if seen || s.failed {
		return doc
	}
	doc, err := parse(format, source{s.Data, s.reader.selectors, s.budget})
	if err != nil {
		s.failed = true
		s.unreadable(err)
		doc = nil
	}
	s.parsed[format] = doc
	return doc
}

func (s *scanning) unreadable(err error) {
	problem := Problem{Kind: Unreadable, Folder: s.folder, File: s.file, Reason: err.Error()}
	var syntax *syntaxError
	if errors.As(err, &syntax) {
		problem.Line, problem.Column, problem.Reason = syntax.line, syntax.column, syntax.reason
	}
	s.out.Problems = append(s.out.Problems, problem)
}

// partial reports that the rest of the file is left out.
func (s *scanning) partial(reason string) {
	s.out.Problems = append(s.out.Problems, Problem{Kind: Partial, Folder: s.folder, File: s.file, Reason: reason})
}

// rule adds the claims that a rule makes of a document.
func (s *scanning) rule(found catalogue.Found, doc document) {
	if doc == nil {
		return
	}
	rule := found.Rule
	if rule.Locked != nil {
		s.locked(found, doc)
		return
	}
	for _, v := range apply(doc, rule, s.budget) {
		c := s.claim(found.Tool, Role(rule.Role), v, rule.Dialect, found.Folder)
		c.Reading, c.Serves, c.Component, c.Brings = rule.Reading, rule.Serves, rule.Component, rule.Brings
		if rule.Means != nil {
			means, known := rule.Means[v.text]
			if !known {
				continue
			}
			c.Means = means
		}
		if c.Role == Wiring {
			c.Scope = s.reader.catalogue.Places().ScopeOf(s.file)
			c.Setting = v.key
		}
		s.add(c)
	}
}

func (s *scanning) claim(tool *catalogue.Tool, role Role, v value, dialect, folder string) Claim {
	line, column := s.Position(v.offset)
	c := Claim{Tool: tool.Name, Role: role, Raw: v.text, Dialect: dialect, Folder: folder, File: s.file,
		Line: line, Column: column, Recognised: Standard, Certainty: High}
	c.Begin, c.End = s.Span(v, s.budget)
	if v.given != nil {
		line, column := s.Position(v.given.offset)
		c.Given = &Place{v.given.name, s.file, line, column}
	}
	if v.number != "" {
		c.Means = v.number
		c.Why = "without quotes it is the number " + v.number
	}
	return c
}

// add keeps a claim unless the same place said the same already.
func (s *scanning) add(c Claim) {
	at := spot{c.Tool, c.Raw, c.Component, c.Folder, c.Role, c.Line, c.Column}
	if s.seen[at] {
		return
	}
	if s.seen == nil {
		s.seen = map[spot]bool{}
	}
	s.seen[at] = true
	if len(s.out.Claims) == MaxClaims {
		s.looked = maxLooks
		s.more()
		return
	}
	s.out.Claims = append(s.out.Claims, c)
}

// more counts a value that may be a version, and tells whether it is to be looked at: a
// file of endless values costs only itself.
func (s *scanning) more() bool {
	if s.full {
		return false
	}
	s.budget.spend(lookCost)
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
			doc, ok := s.document("json").(*treeDocument)
			if !ok {
				return
			}
			part := doc.view(view.Below)
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
func workspaceFolders(doc *treeDocument) []string {
	var out []string
	list := doc.root.child("folders")
	if list == nil {
		return nil
	}
	for _, n := range list.children {
		if at := n.child("path"); at != nil && at.kind == scalarNode {
			out = append(out, at.text)
		}
	}
	return out
}

// variables keeps the definitions that values of this file, or of files that inherit
// from it, refer to.
func (s *scanning) variables() {
	for _, v := range s.reader.catalogue.Places().Variables {
		for _, pattern := range v.Files {
			if _, ok := catalogue.HoldsFrom(pattern, s.file); !ok {
				continue
			}
			doc := s.document(v.Format)
			if doc == nil {
				return
			}
			s.out.Names = map[string]named{}
			for name, selector := range v.Also {
				s.define(name, doc.find(selector))
			}
			for _, one := range doc.find(v.Each) {
				s.define(one.key, []value{one})
			}
			s.inherit(v, doc)
		}
	}
}

func (s *scanning) define(name string, list []value) {
	if len(list) > 0 && len(list[0].text) < 256 {
		line, column := s.Position(list[0].offset)
		s.out.Names[name] = named{list[0].text, line, column}
	}
}

func (s *scanning) inherit(v catalogue.Variables, doc document) {
	x, ok := doc.(*xmlDocument)
	if !ok || !x.has(v.Parent) {
		return
	}
	s.out.Parent = v.Default
	if at := doc.find(v.At); len(at) > 0 {
		s.out.Parent = at[0].text
	} else if x.has(v.At) {
		s.out.Parent = "" // an empty path: the parent is not looked for in the repository
	}
}
