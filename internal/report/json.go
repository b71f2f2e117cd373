package report

import (
	"bufio"
	"bytes"
	"encoding/json"
	"io"
	"runtime"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/assess"
)

// WriteJSON writes the report with a line for each repository, finding and cause, so that
// two reports can be compared line by line. It is put into words part by part, on several
// goroutines.
func (r *Report) WriteJSON(w io.Writer) error {
	out := &jsonWriter{to: bufio.NewWriterSize(w, 256<<10)}
	out.field("{", "format", Format)
	out.field(",", "asOf", r.Day.Format(time.DateOnly))
	out.field(",", "wexo", r.Wexo)
	machines := []struct {
		Name string `json:"name"`
	}{}
	for _, name := range r.Teller.Machines {
		machines = append(machines, struct {
			Name string `json:"name"`
		}{name})
	}
	out.field(",", "machines", machines)
	list(out, "repositories", r.Reads, func(read Read) any { return r.NewRepository(read, r.Day) })
	list(out, "findings", r.all(), func(f *assess.Finding) any { return r.Finding(f) })
	list(out, "causes", r.Causes(), func(c Cause) any { return c })
	out.field(",", "summary", r.Summary)
	out.text("\n}\n")
	if out.err != nil {
		return out.err
	}
	return out.to.Flush()
}

// all are all findings, sorted as the repositories are.
func (r *Report) all() []*assess.Finding {
	var out []*assess.Finding
	for _, read := range r.Reads {
		out = append(out, read.Findings...)
	}
	return out
}

// jsonWriter writes the fields of one object; after an error it writes nothing more.
type jsonWriter struct {
	to  *bufio.Writer
	err error
}

func (w *jsonWriter) text(s string) { w.bytes([]byte(s)) }

func (w *jsonWriter) bytes(data []byte) {
	if w.err == nil {
		_, w.err = w.to.Write(data)
	}
}

func (w *jsonWriter) field(before, name string, value any) {
	w.text(before + "\n  \"" + name + "\": ")
	var b bytes.Buffer
	if err := plain(&b).Encode(value); err != nil && w.err == nil {
		w.err = err
	}
	w.bytes(bytes.TrimSpace(b.Bytes()))
}

func plain(w io.Writer) *json.Encoder {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	return e
}

// part is how many elements of a list are put into words together.
const part = 128

// list writes a list with a line for each element. Parts are made side by side and written
// in order; few of them are held at a time.
func list[T any](w *jsonWriter, name string, items []T, form func(T) any) {
	w.text(",\n  \"" + name + "\": [")
	for start := 0; start < len(items) && w.err == nil; {
		var parts [8]bytes.Buffer
		var g errgroup.Group
		g.SetLimit(runtime.GOMAXPROCS(0))
		used := 0
		for ; used < len(parts) && start < len(items); used++ {
			some, b, first := items[start:min(start+part, len(items))], &parts[used], start == 0
			start += len(some)
			g.Go(func() error { return lines(b, some, first, form) })
		}
		if err := g.Wait(); err != nil && w.err == nil {
			w.err = err
		}
		for i := range used {
			w.bytes(parts[i].Bytes())
		}
	}
	if len(items) > 0 {
		w.text("\n  ")
	}
	w.text("]")
}

func lines[T any](b *bytes.Buffer, items []T, first bool, form func(T) any) error {
	e := plain(b)
	for i, item := range items {
		if !first || i > 0 {
			b.WriteByte(',')
		}
		b.WriteString("\n    ")
		if err := e.Encode(form(item)); err != nil {
			return err
		}
		b.Truncate(b.Len() - 1) // the line feed behind it
	}
	return nil
}
