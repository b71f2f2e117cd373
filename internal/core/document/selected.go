package document

import (
	"regexp"
	"slices"
	"strings"
)

// Selection says which values of a document are meant.
type Selection struct {
	Select  []string       // the first that finds any counts
	Every   bool           // all that find any count
	Pattern *regexp.Regexp // of the selected text, or of a script; its first group is the value
	Items   *regexp.Regexp // of a list that the pattern finds in a script: its group is one of the values
	Spell   string         // what the text stands for, with $1 and $2 for the pattern's groups
	Split   string         // what parts several values in one text
	Braces  bool           // parts of a list may stand in braces
	Join    []string       // keys of the selected mapping whose values, joined by dots, are the text
	Ignore  []string       // texts that say nothing
	Unless  []string       // selectors; where one finds something nothing is meant
	When    *Condition     // only where another value is as given
	Holds   string         // what a script must hold for the pattern to find anything
}

// Condition is that another value is as given.
type Condition struct {
	Select string // where the other value stands
	Is     string // what it has to be
}

// Select gives the values that a selection finds: those of its first selector that finds any,
// or of all of them.
func Select(doc Document, rule *Selection, b *Budget) []Value {
	if rule.When != nil && !slices.ContainsFunc(doc.Find(rule.When.Select), func(v Value) bool { return v.Text == rule.When.Is }) {
		return nil
	}
	for _, selector := range rule.Unless {
		if len(doc.Find(selector)) > 0 {
			return nil
		}
	}
	if text, ok := doc.(*Script); ok {
		if rule.Holds != "" && !text.mentions([]string{string(folded([]byte(rule.Holds)))}) {
			return nil
		}
		return dropIgnored(text.match(rule), rule.Ignore)
	}
	var all []Value
	for _, selector := range rule.Select {
		var out []Value
		for _, v := range found(doc, selector, rule.Join) {
			for _, part := range split(v, rule.Split, rule.Braces) {
				if part, ok := narrowed(part, rule, b); ok {
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
func found(doc Document, selector string, join []string) []Value {
	tree, ok := doc.(*Tree)
	if len(join) == 0 || !ok {
		return doc.Find(selector)
	}
	var out []Value
	for _, n := range tree.Nodes(selector) {
		var parts []string
		offset := 0
		for i, key := range join {
			c := n.Child(key)
			if c == nil || c.Kind != Scalar {
				break
			}
			if i == 0 {
				offset = c.Offset
			}
			parts = append(parts, c.Text)
		}
		if len(parts) > 0 {
			out = append(out, Value{Text: strings.Join(parts, "."), Offset: offset, Size: -1, Key: n.Key})
		}
	}
	return out
}

// split are the parts of a list in one text, and of each the texts that its braces stand for.
func split(v Value, by string, braces bool) []Value {
	if by == "" {
		return []Value{v}
	}
	parts := strings.Split(v.Text, by)
	if braces {
		parts = Fields(v.Text, by[0])
	}
	var out []Value
	offset := v.Offset
	for _, part := range parts {
		one := v
		one.Text, one.Offset = part, offset
		if v.Size != 0 && v.Size != len(v.Text) { // it is written otherwise: nobody knows where its parts are
			one.Size = -1
		} else {
			one.Size = 0
		}
		if braces {
			one.Offset += len(part) - len(strings.TrimLeft(part, " \t\r\n"))
			one.Text = strings.TrimSpace(part)
			out = append(out, Braces(one)...)
		} else {
			out = append(out, one)
		}
		offset += len(part) + len(by)
	}
	return out
}

// narrowed is Narrow, or where a rule spells what a text stands for, the text as it stands
// with what it means.
func narrowed(v Value, rule *Selection, b *Budget) (Value, bool) {
	if rule.Spell == "" {
		return Narrow(v, rule.Pattern, b)
	}
	v, ok := Narrow(v, nil, b)
	if !ok {
		return v, false
	}
	m := findFirst(rule.Pattern, v.Text, b)
	if m == nil {
		return v, false
	}
	v.Means = Spelled(rule.Pattern, rule.Spell, v.Text, m)
	if _, end := spannedBy(m); end-m[0] < len(v.Text) { // what only follows is no part of it
		if v.Size != 0 && v.Given == nil {
			v.Size = -1
		}
		v.Offset, v.Text = v.Offset+m[0], v.Text[m[0]:end]
	}
	return v, true
}

// Spelled is what a match stands for: the numbers of its groups put into a text, without
// the dots that groups which took no part leave behind.
func Spelled(pattern *regexp.Regexp, spell, text string, m []int) string {
	return strings.TrimRight(string(pattern.ExpandString(nil, spell, text, m)), ".")
}

// Narrow trims a value and takes the pattern's first group that took part.
func Narrow(v Value, pattern *regexp.Regexp, b *Budget) (Value, bool) {
	if v.Size == len(v.Text) {
		v.Size = 0
	}
	whole := len(v.Text)
	v.Offset += len(v.Text) - len(strings.TrimLeft(v.Text, " \t\r\n"))
	v.Text = strings.TrimSpace(v.Text)
	if pattern != nil {
		m := findFirst(pattern, v.Text, b)
		g := 2
		for m != nil && g+1 < len(m) && m[g] < 0 {
			g += 2
		}
		if m == nil || g+1 >= len(m) {
			return v, false
		}
		v.Offset += m[g]
		v.Text = v.Text[m[g]:m[g+1]]
	}
	if v.Size != 0 && len(v.Text) != whole {
		v.Size = -1 // a part of what is written otherwise
	}
	if underscored.MatchString(v.Text) { // JDK_1_8
		v.Means = strings.ReplaceAll(v.Text, "_", ".")
	}
	return v, v.Text != ""
}

func dropIgnored(list []Value, ignore []string) []Value {
	if len(ignore) == 0 {
		return list
	}
	return slices.DeleteFunc(list, func(v Value) bool { return slices.Contains(ignore, v.Text) })
}
