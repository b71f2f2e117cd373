package document

import (
	"bytes"
	"sort"
	"unicode/utf8"
)

// origin is how a file's text was made of its bytes.
type origin struct {
	wide    bool  // of UTF-16, behind a mark
	marked  bool  // a mark stood before the text, or another one
	returns []int // places of the text before which a carriage return stood
}

// withoutReturns takes the carriage return from line ends that have one.
func (o *origin) withoutReturns(data []byte) []byte {
	out := make([]byte, 0, len(data))
	for {
		at := bytes.Index(data, []byte("\r\n"))
		if at < 0 {
			return append(out, data...)
		}
		out = append(out, data[:at]...)
		o.returns = append(o.returns, len(out))
		out, data = append(out, '\n'), data[at+2:]
	}
}

// of is where a place of the text stands in the file, in bytes.
func (o *origin) of(text []byte, offset int) int {
	returns := sort.SearchInts(o.returns, offset)
	if !o.wide {
		if o.marked {
			returns += len(bom)
		}
		return offset + returns
	}
	units := 1 + returns // the mark's
	if o.marked {
		units++
	}
	for rest := text[:offset]; len(rest) > 0; {
		r, size := utf8.DecodeRune(rest)
		if rest = rest[size:]; r > 0xffff {
			units++
		}
		units++
	}
	return 2 * units
}

// Span is where a value begins and ends in the file's bytes, so that an edit can replace
// exactly it; both are 0 where it is not written there as one.
func (t *Text) Span(v Value, b *Budget) (begin, end int) {
	size := v.Size
	if size == 0 {
		if size = len(v.Text); !writtenAt(t.Data, v) {
			return 0, 0
		}
	}
	if v.Offset < 0 || size < 0 || v.Offset+size > len(t.Data) {
		return 0, 0
	}
	b.Spend(LookCost)
	if t.origin.wide {
		b.Spend(v.Offset)
	}
	return t.origin.of(t.Data, v.Offset), t.origin.of(t.Data, v.Offset+size)
}

// writtenAt reports whether a value's text stands at its place; a number's dots may be
// written as underscores.
func writtenAt(data []byte, v Value) bool {
	if v.Offset < 0 || v.Offset+len(v.Text) > len(data) {
		return false
	}
	for i := range len(v.Text) {
		if c := data[v.Offset+i]; c != v.Text[i] && (c != '_' || v.Text[i] != '.') {
			return false
		}
	}
	return true
}
