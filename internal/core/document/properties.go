package document

import (
	"bytes"
	"strings"
)

// keyed is a file of keys with texts; a selector is a key.
type keyed map[string][]Value

func (d keyed) Find(selector string) []Value { return d[selector] }

// parseProperties reads lines of "key=value", "key: value" or "key value".
func parseProperties(s Source) (Document, error) {
	d := keyed{}
	eachLine(s.Data, func(offset int, line string) {
		if line[0] == '#' || line[0] == '!' {
			return
		}
		if i := strings.IndexAny(line, "=: \t"); i > 0 {
			rest := strings.TrimLeft(line[i:], " \t")
			rest = strings.TrimPrefix(strings.TrimPrefix(rest, "="), ":")
			text := strings.TrimSpace(rest)
			at := offset + len(line) - len(strings.TrimLeft(rest, " \t"))
			d[line[:i]] = append(d[line[:i]], Value{Text: text, Offset: at, Key: line[:i]})
		}
	})
	return d, nil
}

// parseINI reads sections of "key = value"; a selector is the section and the key with a
// dot between, or the key alone above the first section. Indented lines go on with the
// value above, where that is empty.
func parseINI(s Source) (Document, error) {
	d := keyed{}
	section, open := "", ""
	eachLine(s.Data, func(offset int, line string) {
		switch {
		case line[0] == '#' || line[0] == ';':
			return
		case line[0] == '[' && strings.Contains(line, "]"):
			section = strings.TrimSpace(line[1:strings.IndexByte(line, ']')]) + "."
			open = ""
			return
		}
		indented := offset > 0 && (s.Data[offset-1] == ' ' || s.Data[offset-1] == '\t')
		if indented && open != "" {
			d[open] = append(d[open], Value{Text: line, Offset: offset, Key: open})
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
		d[key] = append(d[key], Value{Text: text, Offset: offset + i + 1 + len(rest) - len(strings.TrimLeft(rest, " \t")), Key: key})
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
func parsePlain(s Source) (Document, error) {
	d := keyed{}
	if lines := Lines(s.Data); len(lines) > 0 {
		d[""] = []Value{{Text: lines[0].Text, Offset: lines[0].Offset}}
	}
	return d, nil
}
