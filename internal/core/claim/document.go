package claim

import (
	"bytes"
	"fmt"
	"unicode/utf8"
)

// value is a text in a document with its place.
type value struct {
	text   string
	line   int
	column int
}

// document is a parsed file that selectors are applied to.
type document interface {
	find(selector string) []value
}

// syntaxError is a place in a file that cannot be parsed.
type syntaxError struct {
	line, column int
	reason       string
}

func (e *syntaxError) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", e.line, e.column, e.reason)
}

// formats are the ways to parse a known file; selectors are compiled once, by the reader.
var formats = map[string]func(data []byte, s selectors) (document, error){
	"json":  parseJSON,
	"toml":  parseTOML,
	"xml":   parseXML,
	"gomod": parseGoMod,
	"text":  parseText,
}

// position gives line and column (from 1, in bytes) of an offset.
func position(data []byte, offset int) (line, column int) {
	offset = min(max(offset, 0), len(data))
	line = bytes.Count(data[:offset], []byte{'\n'}) + 1
	return line, offset - bytes.LastIndexByte(data[:offset], '\n')
}

var bom = []byte("\xef\xbb\xbf")

// checkText tells what keeps data from being read as text; nil where nothing does.
func checkText(data []byte) error {
	if i := bytes.IndexByte(data, 0); i >= 0 {
		line, column := position(data, i)
		return &syntaxError{line, column, "it is binary, not text"}
	}
	if utf8.Valid(data) {
		return nil
	}
	for i := 0; i < len(data); {
		r, size := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && size == 1 {
			line, column := position(data, i)
			return &syntaxError{line, column, fmt.Sprintf("byte 0x%02x is not valid UTF-8", data[i])}
		}
		i += size
	}
	return nil
}

// maxNesting is how deep brackets or elements may stand inside each other.
const maxNesting = 200
