// Package document parses the formats that repositories are written in, and keeps where
// in a file's bytes each value stands. What selects in a document, and the work that
// parsing and selecting may take, stand here too: the files are hostile until proven
// otherwise, and no library counts by itself.
package document

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"unicode/utf16"
	"unicode/utf8"
)

// Value is a text in a document with its place.
type Value struct {
	Text   string
	Offset int    // in bytes, of the value itself
	Size   int    // what it takes in the file, in bytes; 0 where it stands there as it is
	Key    string // its key or name, where it has one
	Number string // what it is as a number, where a reader of YAML would see another text
	Means  string // what it stands for, where that is not what it says: 3.9 of py39
	Given  *Given // where the text itself is written, when that is elsewhere
}

// Given is a place in the same file where a text that is referred to is written.
type Given struct {
	Name   string
	Offset int
}

// Document is a parsed file that selectors are applied to.
type Document interface {
	Find(selector string) []Value
}

// SyntaxError is a place in a file that cannot be parsed.
type SyntaxError struct {
	Line, Column int
	Reason       string
}

func (e *SyntaxError) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Column, e.Reason)
}

// Source is a text to be parsed, with the selectors that are to be applied to it and what
// both may cost.
type Source struct {
	Data      []byte
	Selectors Selectors
	Budget    *Budget
}

// format is a way to parse a known file: what must not come before its parser, the parser,
// and how the selectors of its rules are compiled.
type format struct {
	guard   guard
	parse   func(Source) (Document, error)
	compile func(selector string) (*selector, error)
}

// formats are the ways to parse a known file; selectors are compiled once, by the reader.
var formats = map[string]format{
	"json":       {guardJSON, parseJSON, compileJSONPath},
	"yaml":       {guardYAML, parseYAML, compileJSONPath},
	"toml":       {guardTOML, parseTOML, compileJSONPath},
	"xml":        {guardXML, parseXML, compileXPath},
	"hcl":        {guardHCL, parseHCL, nil},
	"ini":        {guardLines, parseINI, nil},
	"properties": {guardLines, parseProperties, nil},
	"gomod":      {guardLines, parseGoMod, nil},
	"plain":      {guardLines, parsePlain, nil},
	"raw":        {nil, textIn(noComments), nil},
	"text":       {nil, textIn(slashComments), nil},
	"hash":       {nil, textIn(hashComments), nil},
	"percent":    {nil, textIn(percentComments), nil},
	"cmake":      {nil, parseCMake, nil},
}

// IsFormat reports whether files are parsed by a name.
func IsFormat(name string) bool { return formats[name].parse != nil }

// Formats are the names of all formats, sorted.
func Formats() []string { return slices.Sorted(maps.Keys(formats)) }

// Parse runs a format's parser. A parser that fails in an unforeseen way costs only the file.
func Parse(name string, s Source) (doc Document, err error) {
	f := formats[name]
	if f.guard != nil {
		if err := f.guard(s.Data); err != nil {
			return nil, err
		}
	}
	s.Budget.Spend(len(s.Data))
	defer func() {
		thrown := recover()
		if _, spent := thrown.(overspent); spent {
			panic(thrown)
		}
		if thrown != nil {
			doc, err = nil, &SyntaxError{1, 1, fmt.Sprintf("it cannot be read as %s", name)}
		}
	}()
	return f.parse(s)
}

// Text is a file's text, with the way back to its bytes. The zero value is empty.
type Text struct {
	Data   []byte // UTF-8 without a mark, with line feeds alone at the ends of lines
	origin origin
	lines  []int // where its lines begin, once somebody asked
}

var bom = []byte("\xef\xbb\xbf")

// Decode reads a file's bytes as a text, which leaves lines and columns as they are; files
// in UTF-16 must begin with a mark.
func Decode(data []byte) (Text, error) {
	var o origin
	switch {
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}):
		data, o.wide = fromUTF16(data[2:], binary.LittleEndian), true
	case bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		data, o.wide = fromUTF16(data[2:], binary.BigEndian), true
	}
	if rest, marked := bytes.CutPrefix(data, bom); marked {
		data, o.marked = rest, true
	}
	if bytes.Contains(data, []byte("\r\n")) {
		data = o.withoutReturns(data)
	}
	return Text{Data: data, origin: o}, checkText(data)
}

func fromUTF16(data []byte, order binary.ByteOrder) []byte {
	units := make([]uint16, 0, len(data)/2)
	for ; len(data) >= 2; data = data[2:] {
		units = append(units, order.Uint16(data))
	}
	return []byte(string(utf16.Decode(units)))
}

// checkText tells what keeps data from being read as text; nil where nothing does.
func checkText(data []byte) error {
	if i := bytes.IndexByte(data, 0); i >= 0 {
		line, column := position(data, i)
		return &SyntaxError{line, column, "it is binary, not text"}
	}
	if utf8.Valid(data) {
		return nil
	}
	for i := 0; i < len(data); {
		r, size := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && size == 1 {
			line, column := position(data, i)
			return &SyntaxError{line, column, fmt.Sprintf("byte 0x%02x is not valid UTF-8", data[i])}
		}
		i += size
	}
	return nil
}
