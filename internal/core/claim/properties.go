package claim

import (
	"bytes"
	"strings"
)

// keyedDocument is a file of keys with texts; a selector is a key.
type keyedDocument map[string][]value

func (d keyedDocument) find(selector string) []value { return d[selector] }

// parseProperties reads lines of "key=value", "key: value" or "key value".
func parseProperties(s source) (document, error) {
	d := keyedDocument{}
	eachLine(s.data, func(offset int, line string) {
		if line[0] == '#' || line[0] == '!' {
			return
		}
		if i := strings.IndexAny(line, "=: \t"); i > 0 {
			rest := strings.TrimLeft(line[i:], " \t")
			rest = strings.TrimPrefix(strings.TrimPrefix(rest, "="), ":")
			text := strings.TrimSpace(rest)
			at := offset + len(line) - len(strings.TrimLeft(rest, " \t"))
			d[line[:i]] = append(d[line[:i]], value{text: text, offset: at, key: line[:i]})
		}
	})
	return d, nil
}

// parseINI reads sections of "key = value"; a selector is the section and the key with a
// dot between, or the key alone above the first section. Indented lines go on with the
// value above, where that is empty.
func parseINI(s source) (document, error) {
	d := keyedDocument{}
	section, open := "", ""
	eachLine(s.data, func(offset int, line string) {
		switch {
		case line[0] == '#' || line[0] == ';':
			return
		case line[0] == '[' && strings.Contains(line, "]"):
			section = strings.TrimSpace(line[1:strings.IndexByte(line, ']')]) + "."
			open = ""
			return
		}
		indented := offset > 0 && (s.data[offset-1] == ' ' || s.data[offset-1] == '\t')
		if indented && open != "" {
			d[open] = append(d[open], value{text: line, offset: offset, key: open})
			open = ""
			return
		}
		i := strings.IndexAny(line, "=:")
		if i < 1 {
			return
		}
		key := section + strings.TrimSpace(line[:i])
		rest := line[i+1:]
		text := strings.TrimSpace(rest)
		if text == "" {
			open = key
			return
		}
		open = ""
		d[key] = append(d[key], value{text: text, offset: offset + i + 1 + len(rest) - len(strings.TrimLeft(rest, " \t")), key: key})
	})
	return d, nil
}

// eachLine calls do for every line that is not blank, trimmed, with its offset.
func eachLine(data []byte, do func(offset int, line string)) {
	offset := 0
	for raw := range bytes.SplitSeq(data, []byte{'\n'}) {
		text := string(raw)
		if trimmed := strings.TrimSpace(text); trimmed != "" {
			do(offset+strings.Index(text, trimmed), trimmed)
		}
		offset += len(raw) + 1
	}
}

// parsePlain reads a file that holds nothing but one value: its first line that is
// neither blank nor a comment.
func parsePlain(s source) (document, error) {
	d := keyedDocument{}
	if lines := contentLines(s.data); len(lines) > 0 {
		d[""] = []value{{text: lines[0].text, offset: lines[0].offset}}
	}
	return d, nil
}
