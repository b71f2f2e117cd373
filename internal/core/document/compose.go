package document

import (
	"regexp"
	"strings"
)

// reference is a place in a text where the value of a name is put in, in the spellings of
// pipelines, container files, shells and build files.
var reference = regexp.MustCompile(`\$\{\{\s*([\w.-]+)(?:\s*\|\|\s*'([^']*)')?\s*\}\}|` +
	`\$\{([A-Za-z_][\w.]*)(:?[-+?=][^}]*)?\}|\$env:(\w+)|\$([A-Za-z_]\w*)|<<\s*([\w.-]+)\s*>>|\$\(([\w.-]+)\)|%([A-Za-z_]\w*)%`)

// Bounds of one composition: how deep a name may lead to names, how many texts one text
// may come to, and how long these may grow.
const (
	composeDeep   = 6
	composeMost   = 64
	composeValues = 20_000
	composeLong   = 1024
)

// Lookup gives what a name stands for: nothing, one value, or several of which one holds
// at a time, as in a matrix.
type Lookup func(name string) []Value

// Composed is one text that a text with references comes to.
type Composed struct {
	Text   string
	Whole  *Value // of a text that is one reference and nothing else: what it leads to
	From   *Given // the first definition that was put in; nil where there was none
	Choice string // the first name that had several values, of which this is one
	Open   string // a reference that nothing defines, as it is written; empty where all are
}

// Refers reports whether a text holds a reference.
func Refers(text string) bool {
	return len(text) <= composeLong && strings.ContainsAny(text, "$<%") && reference.MatchString(text)
}

// Compose puts the values of names into a text, whichever spelling the references have. A
// name of several values makes a text for each. What nothing defines stays as it stands.
func Compose(text string, lookup Lookup) []Composed {
	if lookup == nil || !Refers(text) {
		return []Composed{{Text: text}}
	}
	c := composition{lookup: lookup, most: composeMost}
	if strings.Count(text, "$")+strings.Count(text, "<<")+strings.Count(text, "%") == 1 {
		c.most = composeValues // nothing is multiplied
	}
	c.add(Composed{Text: text}, 0, 0)
	return c.out
}

type composition struct {
	lookup Lookup
	most   int
	out    []Composed
}

// add puts in the references of a text from an offset on.
func (c *composition) add(at Composed, from, deep int) {
	if len(c.out) >= c.most {
		return
	}
	m := reference.FindStringSubmatchIndex(at.Text[from:])
	if m == nil || deep > composeDeep || len(at.Text) > composeLong {
		c.out = append(c.out, at)
		return
	}
	ref := at.Text[from+m[0] : from+m[1]]
	name, fallback, has := referred(at.Text[from:], m)
	values := apartFromItself(c.lookup(name), name)
	if len(values) == 0 && !has {
		if at.Open == "" {
			at.Open = ref
		}
		c.add(at, from+m[1], deep)
		return
	}
	if len(values) == 0 {
		at.Whole = fallenBack(at.Whole, ref, fallback)
		at.Text = at.Text[:from+m[0]] + fallback + at.Text[from+m[1]:]
		c.add(at, from+m[0], deep+1)
		return
	}
	whole := strings.TrimSpace(at.Text) == ref
	for _, v := range values {
		next := at
		next.Text = at.Text[:from+m[0]] + v.Text + at.Text[from+m[1]:]
		if next.From == nil { // the first is most often the version, others are what follows it
			if next.From = v.Given; v.Given == nil {
				next.From = &Given{Name: name, Offset: v.Offset}
			}
		}
		next.Whole = nil
		if whole {
			next.Whole = &v
		}
		if len(values) > 1 && next.Choice == "" {
			next.Choice = name
		}
		c.add(next, from+m[0], deep+1)
	}
}

// fallenBack is what a text leads to where that is a reference which falls back: what it falls back
// to, where that stands.
func fallenBack(whole *Value, ref, fallback string) *Value {
	if whole == nil || strings.TrimSpace(whole.Text) != ref {
		return whole
	}
	out := *whole
	lead := strings.Index(out.Text, ref)
	if from, _, ok := FallbackAt(ref); ok && (out.Size == 0 || out.Size == len(out.Text)) {
		out.Offset, out.Size = out.Offset+lead+from, 0
	}
	out.Text = fallback
	return &out
}

// apartFromItself are the values of a name without references to itself.
func apartFromItself(values []Value, name string) []Value {
	var out []Value
	for i, v := range values {
		text, ok := withoutItself(v.Text, name)
		switch {
		case ok && text == v.Text && len(out) == i: // mostly nothing refers to itself
			out = values[: i+1 : i+1]
		case ok:
			ref := strings.TrimSpace(v.Text)
			if m := reference.FindStringIndex(ref); m != nil && m[0] == 0 && m[1] == len(ref) {
				v = *fallenBack(&v, ref, text)
			} else {
				v.Text, v.Size = text, -1
			}
			out = append(out, v)
		}
	}
	return out
}

// withoutItself is what a name's value comes to where it refers to the name: to what it then falls
// back to. It is false where it falls back to nothing.
func withoutItself(text, name string) (string, bool) {
	if !Refers(text) {
		return text, true
	}
	ok := true
	own := strings.ToLower(name[strings.LastIndexByte(name, '.')+1:])
	text = reference.ReplaceAllStringFunc(text, func(ref string) string {
		inner, fallback, has := referred(ref, reference.FindStringSubmatchIndex(ref))
		if strings.ToLower(inner[strings.LastIndexByte(inner, '.')+1:]) != own {
			return ref
		}
		ok = ok && has
		return fallback
	})
	return text, ok
}

// referred is the name in a match of reference, and the text that is put in where nothing
// defines it.
func referred(text string, m []int) (name, fallback string, has bool) {
	group := func(n int) string {
		if m[2*n] < 0 {
			return ""
		}
		return text[m[2*n]:m[2*n+1]]
	}
	name = group(1) + group(3) + group(5) + group(6) + group(7) + group(8) + group(9)
	if m[4] >= 0 {
		return name, group(2), true
	}
	for _, mark := range []string{":-", "-", ":="} {
		if rest, ok := strings.CutPrefix(group(4), mark); ok {
			return name, rest, true
		}
	}
	return name, "", false
}

// FallbackAt is where the text stands that a reference at the begin of a text falls back
// to, as in ${NAME:-3.12}; ok is false where there is none.
func FallbackAt(text string) (at, end int, ok bool) {
	m := reference.FindStringSubmatchIndex(text)
	if m == nil || m[0] != 0 {
		return 0, 0, false
	}
	if m[4] >= 0 {
		return m[4], m[5], true
	}
	if m[8] < 0 {
		return 0, 0, false
	}
	return m[8] + strings.IndexAny(text[m[8]:], "-+?=") + 1, m[9], true
}

// Mask replaces every reference by letters, so that what stands around it can be parsed.
func Mask(text string) string {
	return reference.ReplaceAllStringFunc(text, func(ref string) string { return strings.Repeat("x", len(ref)) })
}

// Braces are the texts that a text with lists in braces stands for: py{38,39} is py38 and
// py39. Each stands where the whole stands, and is given where its part of the list stands.
func Braces(v Value) []Value {
	open := strings.IndexByte(v.Text, '{')
	if open < 0 || len(v.Text) > composeLong {
		return []Value{v}
	}
	size := strings.IndexByte(v.Text[open:], '}')
	if size < 0 {
		return []Value{v}
	}
	var out []Value
	at := open + 1
	for part := range strings.SplitSeq(v.Text[open+1:open+size], ",") {
		one := v
		one.Text = v.Text[:open] + strings.TrimSpace(part) + v.Text[open+size+1:]
		one.Size = -1 // it is written nowhere as such
		if one.Given == nil {
			one.Given = &Given{Name: v.Text[open : open+size+1], Offset: v.Offset + at}
		}
		at += len(part) + 1
		if out = append(out, Braces(one)...); len(out) >= composeMost {
			return out[:composeMost]
		}
	}
	return out
}

// Fields are the parts of a list that is parted by a mark; inside braces it parts nothing.
func Fields(text string, mark byte) []string {
	var out []string
	deep, from := 0, 0
	for i := range len(text) {
		switch text[i] {
		case '{':
			deep++
		case '}':
			deep--
		case mark:
			if deep <= 0 {
				out = append(out, text[from:i])
				from = i + 1
			}
		}
	}
	return append(out, text[from:])
}
