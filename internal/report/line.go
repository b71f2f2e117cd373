package report

import (
	"bytes"
	"encoding/json"
	"strconv"
	"unicode/utf8"

	"wexo/internal/core/assess"
	"wexo/internal/core/resolve"
	"wexo/internal/core/unseen"
)

// line is JSON in the making, without spaces: what Repository, Finding and their parts are
// as JSON, written straight from what was judged. A report of thousands of repositories and
// dozens of machines has tens of megabytes, most of them names of machines. A test holds it
// against the types.
type line struct {
	b     []byte
	names [][]byte // of the machines, as JSON
	err   error
}

// quotedNames are the names of a fleet's machines as JSON.
func quotedNames(names []string) [][]byte {
	out := make([][]byte, len(names))
	for i, name := range names {
		out[i] = appendText(nil, name)
	}
	return out
}

// gap writes something that was not seen.
func (l *line) gap(g unseen.Gap) {
	data, err := marshal(g)
	if err != nil {
		l.err = err
	}
	l.next()
	l.b = append(l.b, data...)
}

// next parts an element from the one before it.
func (l *line) next() {
	if n := len(l.b); n > 0 && l.b[n-1] != '{' && l.b[n-1] != '[' && l.b[n-1] != ':' && l.b[n-1] != ' ' { // a space begins a line
		l.b = append(l.b, ',')
	}
}

func (l *line) open(c byte) {
	l.next()
	l.b = append(l.b, c)
}

func (l *line) close(c byte) { l.b = append(l.b, c) }

// key begins a field; names of fields need no escaping.
func (l *line) key(name string) {
	l.next()
	l.b = append(l.b, '"')
	l.b = append(l.b, name...)
	l.b = append(l.b, '"', ':')
}

func (l *line) text(name, value string) {
	l.key(name)
	l.b = appendText(l.b, value)
}

// some writes a text that is left out where it is empty.
func (l *line) some(name, value string) {
	if value != "" {
		l.text(name, value)
	}
}

func (l *line) number(name string, value int) {
	l.key(name)
	l.b = strconv.AppendInt(l.b, int64(value), 10)
}

func (l *line) truth(name string, value bool) {
	l.key(name)
	l.b = strconv.AppendBool(l.b, value)
}

func (l *line) texts(name string, values []string) {
	l.key(name)
	l.b = append(l.b, '[')
	for i, value := range values {
		if i > 0 {
			l.b = append(l.b, ',')
		}
		l.b = appendText(l.b, value)
	}
	l.b = append(l.b, ']')
}

func (l *line) someTexts(name string, values []string) {
	if len(values) > 0 {
		l.texts(name, values)
	}
}

func (l *line) machines(name string, m resolve.Machines) {
	l.key(name)
	l.b = append(l.b, '[')
	first := true
	for i := range m.All() {
		if !first {
			l.b = append(l.b, ',')
		}
		first = false
		l.b = append(l.b, l.names[i]...)
	}
	l.b = append(l.b, ']')
}

// other writes a value that is rare.
func (l *line) other(name string, value any) {
	data, err := marshal(value)
	if err != nil && l.err == nil {
		l.err = err
	}
	l.key(name)
	l.b = append(l.b, data...)
}

// marshal encodes a value as it is read, without what web pages need.
func marshal(value any) ([]byte, error) {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(value)
	return bytes.TrimSpace(b.Bytes()), err
}

const hex = "0123456789abcdef"

// appendText appends a text as JSON has it.
func appendText(b []byte, text string) []byte {
	b = append(b, '"')
	start := 0
	for i := 0; i < len(text); {
		c := text[i]
		if c >= ' ' && c != '"' && c != '\\' && c < utf8.RuneSelf {
			i++
			continue
		}
		if c >= utf8.RuneSelf {
			r, size := utf8.DecodeRuneInString(text[i:])
			switch {
			case r == utf8.RuneError && size == 1:
				b = append(append(b, text[start:i]...), `\ufffd`...)
				start = i + size
			case r == '\u2028' || r == '\u2029':
				b = append(append(b, text[start:i]...), `\u202`...)
				b = append(b, hex[r&0xf])
				start = i + size
			}
			i += size
			continue
		}
		b = append(b, text[start:i]...)
		switch c {
		case '"', '\\':
			b = append(b, '\\', c)
		case '\n':
			b = append(b, '\\', 'n')
		case '\r':
			b = append(b, '\\', 'r')
		case '\t':
			b = append(b, '\\', 't')
		case '\b':
			b = append(b, '\\', 'b')
		case '\f':
			b = append(b, '\\', 'f')
		default:
			b = append(b, '\\', 'u', '0', '0', hex[c>>4], hex[c&0xf])
		}
		i++
		start = i
	}
	return append(append(b, text[start:]...), '"')
}

func (l *line) evidence(list []assess.Evidence) {
	l.key("evidence")
	l.b = append(l.b, '[')
	for _, e := range list {
		l.open('{')
		l.text("file", e.File)
		l.number("line", e.Line)
		l.number("column", e.Column)
		l.text("raw", e.Raw)
		l.close('}')
	}
	l.b = append(l.b, ']')
}

func (l *line) claims(name string, list []Claim) {
	l.key(name)
	l.b = append(l.b, '[')
	for i := range list {
		l.claim(&list[i])
	}
	l.b = append(l.b, ']')
}

func (l *line) claim(c *Claim) {
	l.open('{')
	l.text("role", c.Role)
	l.text("raw", c.Raw)
	l.text("dialect", c.Dialect)
	l.some("reading", c.Reading)
	l.text("file", c.File)
	l.number("line", c.Line)
	l.number("column", c.Column)
	l.number("begin", c.Begin)
	l.number("end", c.End)
	l.text("recognised", c.Recognised)
	l.text("certainty", c.Certainty)
	l.some("why", c.Why)
	l.some("range", c.Range)
	l.some("means", c.Means)
	if c.Given != nil {
		l.other("given", c.Given)
	}
	if c.Locked != nil {
		l.other("locked", c.Locked)
	}
	l.someTexts("fallbacks", c.Fallbacks)
	l.some("component", c.Component)
	l.some("scope", c.Scope)
	l.some("beaten", c.Beaten)
	l.some("stage", c.Stage)
	l.some("digest", c.Digest)
	l.some("oneOf", c.OneOf)
	l.someTexts("notes", c.Notes)
	l.close('}')
}
