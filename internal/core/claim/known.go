package claim

import (
	"bytes"
	"errors"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
)

// readKnown applies the catalogue's rules to a known file.
func (r *Reader) readKnown(p *pass, file, folder string, data []byte, uses []catalogue.Use) {
	data = bytes.TrimPrefix(data, bom)
	if err := checkText(data); err != nil {
		p.unreadable(folder, file, err)
		return
	}
	parsed := map[string]document{}
	failed := false
	for _, use := range uses {
		if use.Rule == nil || failed {
			continue
		}
		doc, ok := parsed[use.Rule.Format]
		if !ok {
			var err error
			if doc, err = formats[use.Rule.Format](data, r.selectors); err != nil {
				p.unreadable(folder, file, err)
				failed = true
				continue
			}
			parsed[use.Rule.Format] = doc
		}
		for _, v := range apply(doc, use.Rule) {
			c := Claim{
				Tool: use.Tool.Name, Role: Role(use.Rule.Role), Raw: v.text, Dialect: use.Rule.Dialect, Reading: use.Rule.Reading,
				Folder: folder, File: file, Line: v.line, Column: v.column, Recognised: Standard, Certainty: High, Serves: use.Rule.Serves,
			}
			if c.Reading == "path" {
				c.Inside = p.inside(folder, v.text)
			}
			p.claims = append(p.claims, c)
		}
	}
}

// apply gives the values that a rule finds: those of its first selector that finds any.
func apply(doc document, rule *catalogue.ClaimRule) []value {
	if rule.When != nil && !slices.ContainsFunc(doc.find(rule.When.Select), func(v value) bool { return v.text == rule.When.Is }) {
		return nil
	}
	if text, ok := doc.(*textDocument); ok {
		return text.match(rule.Pattern)
	}
	for _, selector := range rule.Select {
		var out []value
		for _, v := range doc.find(selector) {
			v.text = strings.TrimSpace(v.text)
			if rule.Pattern.Regexp != nil {
				m := rule.Pattern.FindStringSubmatchIndex(v.text)
				if m == nil {
					continue
				}
				v.column += m[2]
				v.text = v.text[m[2]:m[3]]
			}
			if v.text != "" && !slices.Contains(rule.Ignore, v.text) {
				out = append(out, v)
			}
		}
		if len(out) > 0 {
			return out
		}
	}
	return nil
}

func (d *textDocument) match(pattern catalogue.Pattern) []value {
	if pattern.Regexp == nil {
		return nil
	}
	var out []value
	for _, m := range pattern.FindAllSubmatchIndex(d.code, 32) {
		line, column := position(d.data, m[2])
		out = append(out, value{strings.ReplaceAll(string(d.code[m[2]:m[3]]), "_", "."), line, column})
	}
	return out
}

func (p *pass) unreadable(folder, file string, err error) {
	problem := Problem{Kind: Unreadable, Folder: folder, File: file, Reason: err.Error()}
	var syntax *syntaxError
	if errors.As(err, &syntax) {
		problem.Line, problem.Column, problem.Reason = syntax.line, syntax.column, syntax.reason
	}
	p.problems = append(p.problems, problem)
}
