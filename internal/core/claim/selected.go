package claim

import (
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
)

// apply gives the values that a rule finds: those of its first selector that finds any,
// or of all of them.
func apply(doc document, rule *catalogue.ClaimRule, b *budget) []value {
	if rule.When != nil && !slices.ContainsFunc(doc.find(rule.When.Select), func(v value) bool { return v.text == rule.When.Is }) {
		return nil
	}
	for _, selector := range rule.Unless {
		if len(doc.find(selector)) > 0 {
			return nil
		}
	}
	if text, ok := doc.(*textDocument); ok {
		return dropIgnored(text.match(rule.Pattern), rule.Ignore)
	}
	var all []value
	for _, selector := range rule.Select {
		var out []value
		for _, v := range found(doc, selector, rule.Join) {
			for _, part := range split(v, rule.Split) {
				if part, ok := narrow(part, rule.Pattern, b); ok {
					out = append(out, part)
				}
			}
		}
		all = append(all, dropIgnored(out, rule.Ignore)...)
		if len(all) > 0 && !rule.Every {
			break
		}
	}
	return all
}

// found are the values of a selector, or the joined numbers of the mappings it leads to.
func found(doc document, selector string, join []string) []value {
	tree, ok := doc.(*treeDocument)
	if len(join) == 0 || !ok {
		return doc.find(selector)
	}
	var out []value
	for _, n := range tree.nodes(selector) {
		var parts []string
		offset := 0
		for i, key := range join {
			c := n.child(key)
			if c == nil || c.kind != scalarNode {
				break
			}
			if i == 0 {
				offset = c.offset
			}
			parts = append(parts, c.text)
		}
		if len(parts) > 0 {
			out = append(out, value{text: strings.Join(parts, "."), offset: offset, size: -1, key: n.key})
		}
	}
	return out
}

func split(v value, by string) []value {
	if by == "" {
		return []value{v}
	}
	var out []value
	offset := v.offset
	for part := range strings.SplitSeq(v.text, by) {
		one := v
		one.text, one.offset = part, offset
		if v.size != 0 && v.size != len(v.text) { // it is written otherwise: nobody knows where its parts are
			one.size = -1
		} else {
			one.size = 0
		}
		out = append(out, one)
		offset += len(part) + len(by)
	}
	return out
}

// narrow trims a value and takes the pattern's first group that took part.
func narrow(v value, pattern catalogue.Pattern, b *budget) (value, bool) {
	if v.size == len(v.text) {
		v.size = 0
	}
	whole := len(v.text)
	v.offset += len(v.text) - len(strings.TrimLeft(v.text, " \t\r\n"))
	v.text = strings.TrimSpace(v.text)
	if pattern.Regexp != nil {
		m := findFirst(pattern.Regexp, v.text, b)
		g := 2
		for m != nil && g+1 < len(m) && m[g] < 0 {
			g += 2
		}
		if m == nil || g+1 >= len(m) {
			return v, false
		}
		v.offset += m[g]
		v.text = v.text[m[g]:m[g+1]]
	}
	if v.size != 0 && len(v.text) != whole {
		v.size = -1 // a part of what is written otherwise
	}
	if underscored.MatchString(v.text) { // JDK_1_8
		v.text = strings.ReplaceAll(v.text, "_", ".")
	}
	return v, v.text != ""
}

func dropIgnored(list []value, ignore []string) []value {
	if len(ignore) == 0 {
		return list
	}
	return slices.DeleteFunc(list, func(v value) bool { return slices.Contains(ignore, v.text) })
}
