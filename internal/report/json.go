package report

import (
	"bufio"
	"bytes"
	"io"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/unseen"
)

// WriteJSON writes the report with a line for each repository, finding and cause, so that
// two reports can be compared line by line. It is put into words part by part, on several
// goroutines.
func (r *Report) WriteJSON(w io.Writer) error {
	out := &jsonWriter{to: bufio.NewWriterSize(w, 256<<10), names: quotedNames(r.Teller.Machines)}
	out.field("{", "format", Format)
	out.field(",", "asOf", r.Day.Format(time.DateOnly))
	out.field(",", "wexo", r.Wexo)
	machines := []machine{}
	for _, name := range r.Teller.Machines {
		machines = append(machines, machine{name})
	}
	out.field(",", "machines", machines)
	list(out, "repositories", r.Reads, func(l *line, read Read) { l.repository(r.Wording, read, r.Day) })
	list(out, "findings", r.all(), func(l *line, f *assess.Finding) { l.finding(r.Wording, f) })
	list(out, "causes", r.Causes(), func(l *line, c Cause) { l.cause(c) })
	list(out, "unseen", r.Unseen(), func(l *line, g unseen.Gap) { l.gap(g) })
	out.field(",", "summary", r.Summary)
	out.text("\n}\n")
	if out.err != nil {
		return out.err
	}
	return out.to.Flush()
}

type machine struct {
	Name string `json:"name"`
}

// all are all findings, sorted as the repositories are, and those of machines last.
func (r *Report) all() []*assess.Finding {
	var out []*assess.Finding
	for _, read := range r.Reads {
		out = append(out, read.Findings...)
	}
	return append(out, r.Machinery...)
}

// jsonWriter writes the fields of one object; after an error it writes nothing more.
type jsonWriter struct {
	to    *bufio.Writer
	names [][]byte
	err   error
}

func (w *jsonWriter) text(s string) { w.bytes([]byte(s)) }

func (w *jsonWriter) bytes(data []byte) {
	if w.err == nil {
		_, w.err = w.to.Write(data)
	}
}

func (w *jsonWriter) field(before, name string, value any) {
	data, err := marshal(value)
	if err != nil && w.err == nil {
		w.err = err
	}
	w.text(before + "\n  \"" + name + "\": ")
	w.bytes(data)
}

// list writes a list with a line for each element.
func list[T any](w *jsonWriter, name string, items []T, form func(*line, T)) {
	w.text(",\n  \"" + name + "\": [")
	err := inParts(len(items), func(b *bytes.Buffer, from, to int) error {
		l := line{b: b.AvailableBuffer(), names: w.names}
		for i, item := range items[from:to] {
			if from+i > 0 {
				l.b = append(l.b, ',')
			}
			l.b = append(l.b, "\n    "...)
			form(&l, item)
		}
		b.Write(l.b)
		return l.err
	}, func(data []byte) error {
		w.bytes(data)
		return w.err
	})
	if err != nil && w.err == nil {
		w.err = err
	}
	if len(items) > 0 {
		w.text("\n  ")
	}
	w.text("]")
}
