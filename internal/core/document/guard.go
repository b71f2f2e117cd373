package document

import (
	"bytes"
	"fmt"
)

// A guard looks through a text before a library parses it, and refuses what the library
// would recurse on too deeply or keep too much of: a stack that overflows ends the whole
// process, and no library here counts by itself. Guards are linear and keep nothing.
type guard func(data []byte) error

func refuse(data []byte, offset int, format string, args ...any) error {
	line, column := position(data, offset)
	return &SyntaxError{line, column, fmt.Sprintf(format, args...)}
}

// spelling says how a grammar writes what a guard must not look into.
type spelling struct {
	line   []string // beginnings of comments that end with the line
	block  bool     // /* */
	quotes []quote
	looked [256]bool // bytes that begin any of these, or that guards look at
}

// quote is a way to write a text. The longer marks come first.
type quote struct {
	mark    string
	escapes bool // a backslash takes the next character
	lines   bool // it goes on over the end of a line
}

var (
	jsonSyntax = looking(spelling{line: []string{"//"}, block: true, quotes: []quote{{`"`, true, true}}})
	tomlSyntax = looking(spelling{line: []string{"#"}, quotes: []quote{{`"""`, true, true}, {`'''`, false, true}, {`"`, true, false}, {`'`, false, false}}})
)

func looking(s spelling) spelling {
	for _, c := range []byte("[]{}(),.=\n") {
		s.looked[c] = true
	}
	for _, mark := range s.line {
		s.looked[mark[0]] = true
	}
	for _, q := range s.quotes {
		s.looked[q.mark[0]] = true
	}
	return s
}

// each calls do for every byte outside comments and texts that a guard looks at, and with
// a quote for every text.
func (s *spelling) each(data []byte, do func(offset int, c byte) error) error {
	for i := 0; i < len(data); i++ {
		if !s.looked[data[i]] {
			continue
		}
		if end := s.comment(data, i); end > i {
			i = end - 1
			continue
		}
		end := s.text(data, i)
		if err := do(i, data[i]); err != nil {
			return err
		}
		i = max(i, end-1)
	}
	return nil
}

// comment is where the comment that begins here ends, or from.
func (s *spelling) comment(data []byte, from int) int {
	for _, mark := range s.line {
		if hasAt(data, from, mark) {
			if end := bytes.IndexByte(data[from:], '\n'); end >= 0 {
				return from + end
			}
			return len(data)
		}
	}
	if s.block && hasAt(data, from, "/*") {
		if end := bytes.Index(data[from+2:], []byte("*/")); end >= 0 {
			return from + 2 + end + 2
		}
		return len(data)
	}
	return from
}

// text is where the text that begins here ends, or from.
func (s *spelling) text(data []byte, from int) int {
	for _, q := range s.quotes {
		if !hasAt(data, from, q.mark) {
			continue
		}
		for i := from + len(q.mark); i < len(data); i++ {
			switch {
			case q.escapes && data[i] == '\\':
				i++
			case !q.lines && data[i] == '\n':
				return i
			case hasAt(data, i, q.mark):
				return i + len(q.mark)
			}
		}
		return len(data)
	}
	return from
}

func hasAt(data []byte, at int, mark string) bool {
	return data[at] == mark[0] && len(data)-at >= len(mark) && string(data[at:at+len(mark)]) == mark
}

// nesting counts brackets that stand inside each other, and commas.
type nesting struct {
	data          []byte
	depth, values int
}

func (n *nesting) see(offset int, c byte) error {
	switch c {
	case '[', '{', '(':
		if n.depth++; n.depth > maxNesting {
			return refuse(n.data, offset, "brackets are nested more than %d deep", maxNesting)
		}
	case ']', '}', ')':
		n.depth--
	case ',':
		if n.values++; n.values > maxValues {
			return refuse(n.data, offset, "it holds more than %d values", maxValues)
		}
	}
	return nil
}

func guardJSON(data []byte) error {
	n := nesting{data: data}
	return jsonSyntax.each(data, n.see)
}

// guardTOML counts brackets, and the parts of dotted keys: each part is a table in a table.
func guardTOML(data []byte) error {
	n := nesting{data: data}
	dots := 0
	return tomlSyntax.each(data, func(offset int, c byte) error {
		switch c {
		case '.':
			if dots++; dots >= maxParts {
				return refuse(data, offset, "a key has more than %d parts", maxParts)
			}
		case '\n', '=', '[', ']', '{', '}', ',':
			dots = 0
		}
		return n.see(offset, c)
	})
}

// guardYAML estimates from above how many values there are: the library makes a node of
// some hundred bytes of each. It counts nesting itself.
func guardYAML(data []byte) error {
	values := bytes.Count(data, []byte{'\n'}) + bytes.Count(data, []byte{','}) + bytes.Count(data, []byte(": ")) + bytes.Count(data, []byte("- "))
	if values > maxValues {
		return refuse(data, 0, "it holds more than %d values", maxValues)
	}
	return nil
}

func guardXML(data []byte) error {
	if bytes.Count(data, []byte{'<'}) > 2*maxElements {
		return refuse(data, 0, "it holds more than %d elements", maxElements)
	}
	return nil
}

func guardLines(data []byte) error {
	if bytes.Count(data, []byte{'\n'}) > maxLines {
		return refuse(data, 0, "it has more than %d lines", maxLines)
	}
	return nil
}
