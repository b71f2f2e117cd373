package document

import (
	"bytes"
	"sort"
	"unicode/utf8"
)

// position gives line and column (from 1, in bytes) of an offset.
func position(data []byte, offset int) (line, column int) {
	offset = min(max(offset, 0), len(data))
	line = bytes.Count(data[:offset], []byte{'\n'}) + 1
	return line, offset - bytes.LastIndexByte(data[:offset], '\n')
}

// Position gives line and column like the function, from an index: a file may make
// thousands of claims.
func (t *Text) Position(offset int) (line, column int) {
	if t.lines == nil {
		t.lines = lineStarts(t.Data)
	}
	offset = min(max(offset, 0), len(t.Data))
	line = sort.Search(len(t.lines), func(i int) bool { return t.lines[i] > offset })
	return line, offset - t.lines[line-1] + 1
}

// lineStarts are the offsets at which lines begin.
func lineStarts(data []byte) []int {
	out := append(make([]int, 0, bytes.Count(data, []byte{'\n'})+1), 0)
	for i, c := range data {
		if c == '\n' {
			out = append(out, i+1)
		}
	}
	return out
}

// characters turns places that are counted in characters into offsets. Lines may be as
// long as files, so characters are not counted from a line's begin each time.
type characters struct {
	data   []byte
	starts []int
	marks  map[int][]int // of lines that are not ASCII alone: the offset of every markEvery-th character
}

const markEvery = 64

// offset is the place of a line and column, both from 1.
func (c *characters) offset(line, column int) int {
	if line < 1 || line > len(c.starts) || column < 1 {
		return 0
	}
	marks := c.of(line)
	if marks == nil {
		return min(c.starts[line-1]+column-1, len(c.data))
	}
	n := min((column-1)/markEvery, len(marks)-1)
	at := marks[n]
	for range column - 1 - n*markEvery {
		if at >= len(c.data) {
			break
		}
		_, size := utf8.DecodeRune(c.data[at:])
		at += size
	}
	return at
}

// of gives the marks of a line, nil where one character is one byte.
func (c *characters) of(line int) []int {
	if marks, known := c.marks[line]; known {
		return marks
	}
	start, end := c.starts[line-1], len(c.data)
	if line < len(c.starts) {
		end = c.starts[line]
	}
	var marks []int
	if text := c.data[start:end]; !ascii(text) {
		n := 0
		for at := range string(text) {
			if n%markEvery == 0 {
				marks = append(marks, start+at)
			}
			n++
		}
	}
	if c.marks == nil {
		c.marks = map[int][]int{}
	}
	c.marks[line] = marks
	return marks
}

func ascii(text []byte) bool {
	for _, b := range text {
		if b >= utf8.RuneSelf {
			return false
		}
	}
	return true
}
