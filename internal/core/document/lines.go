package document

import (
	"bytes"
	"strings"
)

// Line is a line that is neither blank nor a comment.
type Line struct {
	Text   string
	Offset int
}

// Lines are the lines of a text that say something, without comments and quotes around them.
func Lines(data []byte) []Line {
	var out []Line
	offset := 0
	for raw := range bytes.SplitSeq(data, []byte{'\n'}) {
		start := offset
		offset += len(raw) + 1
		text := string(raw)
		for _, mark := range []string{" #", "\t#", " //", "\t//", " ;"} {
			if i := strings.Index(text, mark); i >= 0 {
				text = text[:i]
			}
		}
		trimmed := strings.TrimSpace(text)
		if trimmed == "" || trimmed[0] == '#' || trimmed[0] == ';' || strings.HasPrefix(trimmed, "//") {
			continue
		}
		start += strings.Index(text, trimmed)
		if n := len(trimmed); n > 1 && (trimmed[0] == '"' || trimmed[0] == '\'') && trimmed[n-1] == trimmed[0] {
			inner := strings.TrimSpace(trimmed[1 : n-1])
			if inner == "" { // quotes around nothing say nothing
				continue
			}
			start += 1 + strings.Index(trimmed[1:n-1], inner)
			trimmed = inner
		}
		out = append(out, Line{trimmed, start})
	}
	return out
}
