package report

import (
	"bufio"
	"bytes"
	"encoding/json"
	"io"
	"runtime"
)

// WriteJSON writes the report indented, as the standard library would, but list by list
// and on several goroutines: a report of a thousand repositories has ten megabytes.
func (r Report) WriteJSON(w io.Writer) error {
	out := &jsonWriter{to: bufio.NewWriterSize(w, 64<<10)}
	out.field("{", "format", r.Format)
	out.field(",", "asOf", r.AsOf)
	out.field(",", "wexo", r.Wexo)
	out.field(",", "machines", r.Machines)
	list(out, "repositories", r.Repositories)
	list(out, "findings", r.Findings)
	out.field(",", "summary", r.Summary)
	out.text("\n}\n")
	if out.err != nil {
		return out.err
	}
	return out.to.Flush()
}

// jsonWriter writes the fields of one object; after an error it writes nothing more.
type jsonWriter struct {
	to  *bufio.Writer
	err error
}

func (w *jsonWriter) text(s string) {
	if w.err == nil {
		_, w.err = w.to.WriteString(s)
	}
}

func (w *jsonWriter) field(before, name string, value any) {
	w.text(before + "\n  \"" + name + "\": ")
	w.encoded(indented(value, "  "))
}

func (w *jsonWriter) encoded(data []byte, err error) {
	if w.err == nil {
		w.err = err
	}
	if w.err == nil {
		_, w.err = w.to.Write(data)
	}
}

// indented is a value as JSON whose lines after the first begin with a prefix.
func indented(value any, prefix string) ([]byte, error) {
	var b bytes.Buffer
	err := indenting(&b, prefix).Encode(value)
	return bytes.TrimSuffix(b.Bytes(), []byte("\n")), err
}

func indenting(w io.Writer, prefix string) *json.Encoder {
	e := json.NewEncoder(w)
	e.SetIndent(prefix, "  ")
	e.SetEscapeHTML(false)
	return e
}

// part is how many elements of a list are encoded together.
const part = 64

// list writes a list, its parts encoded side by side and written in order.
func list[T any](w *jsonWriter, name string, items []T) {
	if len(items) == 0 {
		w.field(",", name, items)
		return
	}
	w.text(",\n  \"" + name + "\": [")
	for start := 0; start < len(items); {
		var parts []chan encoded
		for range runtime.GOMAXPROCS(0) {
			end := min(start+part, len(items))
			done := make(chan encoded, 1)
			go func(items []T) { done <- encode(items) }(items[start:end])
			parts, start = append(parts, done), end
			if end == len(items) {
				break
			}
		}
		for _, done := range parts {
			got := <-done
			w.encoded(got.data, got.err)
			if start < len(items) || done != parts[len(parts)-1] {
				w.text(",")
			}
		}
	}
	w.text("\n  ]")
}

type encoded struct {
	data []byte
	err  error
}

// encode encodes elements of a list, separated by commas.
func encode[T any](items []T) encoded {
	const prefix = "    "
	var b bytes.Buffer
	e := indenting(&b, prefix)
	for i := range items {
		if i > 0 {
			b.WriteByte(',')
		}
		b.WriteString("\n" + prefix)
		if err := e.Encode(&items[i]); err != nil {
			return encoded{err: err}
		}
		b.Truncate(b.Len() - 1) // the line feed behind it
	}
	return encoded{data: b.Bytes()}
}
