package reading

import (
	"cmp"
	"path"
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/pipeline"
	"wexo/internal/core/scan"
	"wexo/internal/core/version"
)

// scanning is one file being read by what is known of its format.
type scanning struct {
	*scan.File
	knownFile bool // a rule reads it: its keys have meanings of their own
}

// scanning begins to read one file; what it says is added to out.
func (p *pass) scanning(file, folder string, out *scan.Said) *scanning {
	return &scanning{File: &scan.File{Catalogue: p.catalogue, Selectors: p.selectors, Budget: p.budget, Path: file, Folder: folder, Said: out}}
}

// scanKnown applies the catalogue's rules, and the readers of files that speak of any tool.
func (p *pass) scanKnown(s *scanning, data []byte, rules []catalogue.Found) {
	kind, holds := p.catalogue.Places().KindOf(s.Path)
	s.Aside = kind == "script" || kind == "" && !slices.ContainsFunc(rules, func(f catalogue.Found) bool { return f.Rule != nil && f.Rule.Certainty == "" })
	var err error
	if s.Text, err = document.Decode(data); err != nil {
		s.Unreadable(err)
		return
	}
	s.knownFile = true
	for _, rule := range rules {
		if rule.Rule != nil {
			s.rule(rule, s.Document(rule.Rule.Format))
		}
	}
	s.views()
	s.variables()
	s.applied()
	if kind != "" {
		s.kind(kind, holds)
	} else {
		pipeline.Sets(s.File, s.Folder) // a manifest's scripts build too
	}
	s.Said.Off = s.Catalogue.SwitchesOff(path.Base(s.Path), s.Data)
	s.nestedTools()
	if !s.Failed && !locks(rules) {
		s.overlooked()
	}
}

// kind reads a file in which any tool may be spoken of.
func (s *scanning) kind(kind, holds string) {
	switch kind {
	case "container":
		pipeline.Container(s.File, holds, nil)
	case "script":
		s.script(holds)
	case "properties":
		s.properties(holds)
	default:
		pipeline.Read(s.File, kind, holds)
	}
}

// locks tells whether a file is a lock file, which speaks of thousands of versions.
func locks(rules []catalogue.Found) bool {
	return slices.ContainsFunc(rules, func(f catalogue.Found) bool { return f.Rule != nil && f.Rule.Locked != nil })
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
	list := document.Select(doc, rule.Selection(), s.Budget)
	if rule.Least {
		list = lowest(found.Tool, list)
	}
	for _, v := range list {
		c := s.Claim(found.Tool, claim.Role(rule.Role), v, rule.Dialect, found.Folder)
		c.Reading, c.Serves, c.Component, c.Tells, c.Brings, c.Fetched, c.Alternate = rule.Reading, rule.Serves, rule.Component, rule.Tells, rule.Brings, rule.Fetched, rule.Alternate
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
			c.Scope = s.Catalogue.Places().ScopeOf(s.Path)
			c.Setting = v.Key
		}
		s.Add(c)
	}
}

// views reads parts of the file as the files they stand for.
func (s *scanning) views() {
	for _, view := range s.Catalogue.Places().Views {
		for _, pattern := range view.Files {
			folder, ok := catalogue.HoldsFrom(pattern, s.Path)
			if !ok {
				continue
			}
			doc, ok := s.Document("json").(*document.Tree)
			if !ok {
				return
			}
			part := doc.View(view.Below)
			if part == nil {
				break
			}
			for _, found := range s.Catalogue.RulesFor(view.As) {
				if found.Rule != nil && found.Rule.Format == "json" {
					found.Folder = folder
					s.rule(found, part)
				}
			}
			s.Said.Holds = workspaceFolders(doc)
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
	for _, v := range s.Catalogue.Places().Variables {
		if catalogue.Covers(v.Files, s.Path) {
			doc := s.Document(v.Format)
			if doc == nil {
				return
			}
			s.Said.Names = map[string]scan.Named{}
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
		s.Said.Names[name] = scan.Named{Text: list[0].Text, Line: line, Column: column}
	}
}

func (s *scanning) inherit(v catalogue.Variables, doc document.Document) {
	x, ok := doc.(*document.XML)
	if !ok || !x.Has(v.Parent) {
		return
	}
	s.Said.Parent = v.Default
	if at := doc.Find(v.At); len(at) > 0 {
		s.Said.Parent = at[0].Text
	} else if x.Has(v.At) {
		s.Said.Parent = "" // an empty path: the parent is not looked for in the repository
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
