package document

import (
	"bytes"
	"regexp"
	"slices"
	"strings"
)

// Script is a build script read by pattern; comments are blanked first, so
// that offsets stay.
type Script struct {
	Source
	code  []byte
	lower []byte // the code in lower case, once somebody asked
}

// comments says how a language writes comments.
type comments struct {
	line  []string // beginnings of comments that end with the line
	block bool     // /* */
	// branches is true where what stands in a branch of the script's own logic is no statement: nobody
	// knows which branch is taken.
	branches bool
	quote    string // characters that open and close a text in which no comment begins
}

var (
	noComments      = comments{}
	slashComments   = comments{line: []string{"//"}, block: true, branches: true, quote: `"'`}
	hashComments    = comments{line: []string{"#"}, quote: `"'`}
	percentComments = comments{line: []string{"%"}, quote: `"`}
)

func textIn(c comments) func(Source) (Document, error) {
	return func(s Source) (Document, error) {
		code := c.blank(s.Data)
		if c.branches {
			code = blankBranches(code)
		}
		return &Script{Source: s, code: code}, nil
	}
}

// mentions reports whether one of some texts in lower case stands in the code, in either
// case; true where there are none.
func (d *Script) mentions(texts []string) bool {
	if len(texts) == 0 {
		return true
	}
	if d.lower == nil {
		d.Budget.Spend(len(d.code))
		d.lower = folded(d.code)
	}
	return slices.ContainsFunc(texts, func(text string) bool { return bytes.Contains(d.lower, []byte(text)) })
}

// Find gives nothing: a script is read by patterns.
func (d *Script) Find(string) []Value { return nil }

var underscored = regexp.MustCompile(`^\d+_\d+$`)

func (d *Script) match(rule *Selection) []Value {
	pattern := rule.Pattern
	if pattern == nil {
		return nil
	}
	if !d.mentions(sizeOf(pattern).required) {
		return nil
	}
	var out []Value
	for _, m := range findAll(pattern, d.code, d.Budget) {
		if rule.Items != nil {
			out = append(out, d.items(rule.Items, m)...)
			continue
		}
		if rule.Spell != "" { // from the first group on, so that what only leads to it stays out
			from, to := spannedBy(m)
			out = append(out, Value{Text: string(d.Data[from:to]), Offset: from, Means: Spelled(pattern, rule.Spell, string(d.Data), m)})
			continue
		}
		for g := 2; g+1 < len(m); g += 2 { // the first group that took part
			if m[g] < 0 {
				continue
			}
			one := Value{Text: string(d.Data[m[g]:m[g+1]]), Offset: m[g]}
			if underscored.MatchString(one.Text) { // VERSION_1_8
				one.Means = strings.ReplaceAll(one.Text, "_", ".")
			}
			out = append(out, one)
			break
		}
	}
	return out
}

// blank replaces comments outside quotes with spaces.
func (c comments) blank(data []byte) []byte {
	if len(c.line) == 0 && !c.block {
		return data
	}
	out := append([]byte(nil), data...)
	var quote byte
	for i := 0; i < len(out); i++ {
		b := out[i]
		switch {
		case quote != 0:
			if b == '\\' {
				i++
			} else if b == quote || b == '\n' {
				quote = 0
			}
		case strings.IndexByte(c.quote, b) >= 0:
			quote = b
		case c.begins(out[i:]):
			for i < len(out) && out[i] != '\n' {
				out[i] = ' '
				i++
			}
		case c.block && b == '/' && i+1 < len(out) && out[i+1] == '*':
			i = blankBlock(out, i)
		}
	}
	return out
}

func (c comments) begins(data []byte) bool {
	for _, mark := range c.line {
		if len(data) >= len(mark) && string(data[:len(mark)]) == mark {
			return true
		}
	}
	return false
}

func blankBlock(out []byte, i int) int {
	for ; i < len(out); i++ {
		if out[i] == '*' && i+1 < len(out) && out[i+1] == '/' {
			out[i], out[i+1] = ' ', ' '
			return i + 1
		}
		if out[i] != '\n' {
			out[i] = ' '
		}
	}
	return i
}

// spannedBy is the span of a match's groups, or of the whole where none took part.
func spannedBy(m []int) (from, to int) {
	from, to = -1, -1
	for g := 2; g+1 < len(m); g += 2 {
		if m[g] < 0 {
			continue
		}
		if from < 0 {
			from = m[g]
		}
		to = max(to, m[g+1])
	}
	if from < 0 {
		return m[0], m[1]
	}
	return from, to
}

// items are the values of a list that a match's groups span.
func (d *Script) items(items *regexp.Regexp, m []int) []Value {
	from, to := spannedBy(m)
	var out []Value
	for _, one := range findAll(items, d.code[from:to], d.Budget) {
		if len(one) > 3 && one[2] >= 0 {
			out = append(out, Value{Text: string(d.Data[from+one[2] : from+one[3]]), Offset: from + one[2]})
		}
	}
	return out
}
