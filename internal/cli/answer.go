package cli

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"runtime"

	"wexo/internal/core/version"
)

// longestLine is the longest line read from standard input, in bytes.
const longestLine = 1 << 20

// batch is some whole lines and, once they are worked through, their answers.
type batch struct {
	lines []byte
	done  chan []byte
}

// answerLines answers every line read with one JSON line, in order. Batches are worked
// through on all processors; each worker gets an answer function of its own from newAnswer.
func answerLines(ctx context.Context, s Streams, newAnswer func() answerFunc) error {
	workers := runtime.GOMAXPROCS(0)
	work, order := make(chan batch, workers), make(chan batch, 2*workers)
	for range workers {
		go func() {
			answer := newAnswer()
			for b := range work {
				b.done <- answerBatch(b.lines, answer)
			}
		}()
	}
	var readErr error
	go func() {
		defer close(order)
		defer close(work)
		readErr = readBatches(s.In, func(lines []byte) {
			b := batch{lines, make(chan []byte, 1)}
			order <- b
			work <- b
		})
	}()
	var writeErr error
	for {
		select {
		case <-ctx.Done(): // who waits for input cannot be woken, but need not be waited for
			return failed("stopped before the end of standard input")
		case b, more := <-order: // to its end even after an error, so that the others end too
			if !more {
				if err := errors.Join(readErr, writeErr); err != nil {
					return failed("%v", err)
				}
				return nil
			}
			if out := <-b.done; writeErr == nil {
				_, writeErr = s.Out.Write(out)
			}
		}
	}
}

// readBatches hands over whole lines, as many as have come: a caller that waits for
// each answer gets it.
func readBatches(in io.Reader, each func(lines []byte)) error {
	var rest []byte
	buffer := make([]byte, 1<<16)
	for {
		n, err := in.Read(buffer)
		rest = append(rest, buffer[:n]...)
		if end := bytes.LastIndexByte(rest, '\n'); end >= 0 {
			each(bytes.Clone(rest[:end+1]))
			rest = append(rest[:0], rest[end+1:]...)
		}
		switch {
		case err == io.EOF && len(bytes.TrimSpace(rest)) > 0:
			each(rest)
			return nil
		case err == io.EOF:
			return nil
		case err != nil:
			return fmt.Errorf("reading standard input: %w", err)
		case len(rest) > longestLine:
			return fmt.Errorf("reading standard input: a line is longer than %d bytes", longestLine)
		}
	}
}

// answerFunc appends the answer to one line.
type answerFunc func(out, line []byte) ([]byte, error)

func answerBatch(lines []byte, answer answerFunc) []byte {
	out := make([]byte, 0, len(lines))
	for line := range bytes.Lines(lines) {
		line = bytes.TrimSpace(line)
		if len(line) == 0 {
			continue
		}
		next, err := answer(out, line)
		if err != nil {
			next = append(append(append(out, `{"error":`...), quoted(err.Error())...), '}')
		}
		out = append(next, '\n')
	}
	return out
}

func quoted(text string) []byte {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if err := e.Encode(text); err != nil {
		return []byte(`"unprintable"`)
	}
	return bytes.TrimSpace(b.Bytes())
}

// keptRanges is how many ranges a worker remembers: callers ask of the same ones again.
const keptRanges = 1 << 12

func newSatisfiesAnswer() answerFunc {
	type asked struct{ dialect, text string }
	kept := map[asked]version.Set{}
	return func(out, line []byte) ([]byte, error) {
		q, err := readStrings(line, [3]string{"dialect", "range", "version"})
		if err != nil {
			return out, err
		}
		key := asked{q[0], q[1]}
		set, known := kept[key]
		if !known {
			if set, err = version.ParseRange(q[0], version.NoScheme, q[1]); err != nil {
				return out, err
			}
			if len(kept) == keptRanges {
				clear(kept)
			}
			kept[key] = set
		}
		v, err := version.ParseVersion(q[0], q[2])
		if err != nil {
			return out, err
		}
		return fmt.Appendf(out, `{"satisfies":%t}`, set.Contains(v)), nil
	}
}

func newOrderAnswer() answerFunc {
	return func(out, line []byte) ([]byte, error) {
		q, err := readStrings(line, [3]string{"scheme", "a", "b"})
		if err != nil {
			return out, err
		}
		scheme, ok := version.SchemeNamed(q[0])
		if !ok {
			return out, unknownScheme(q[0])
		}
		a, err := scheme.Parse(q[1])
		if err != nil {
			return out, err
		}
		b, err := scheme.Parse(q[2])
		if err != nil {
			return out, err
		}
		return fmt.Appendf(out, `{"order":%d}`, a.Compare(b)), nil
	}
}

// readStrings reads the named strings of a JSON object; missing ones are "". Objects of
// plain strings, as these lines mostly are, are read without the library, which takes
// longer for it than the answer does.
func readStrings(line []byte, names [3]string) ([3]string, error) {
	if found, ok := plainStrings(line, names); ok {
		return found, nil
	}
	var found [3]string
	var object map[string]any
	if json.Unmarshal(line, &object) != nil {
		return found, errors.New("the line is no JSON object")
	}
	for n, name := range names {
		text, ok := object[name].(string)
		if !ok && object[name] != nil {
			return found, fmt.Errorf("%q is not a string", name)
		}
		found[n] = text
	}
	return found, nil
}

// plainStrings reads {"name":"text",…} with the given names only, in any order, and
// without anything that must be unescaped or could be invalid.
func plainStrings(line []byte, names [3]string) (found [3]string, ok bool) {
	rest, ok := bytes.CutPrefix(line, []byte("{"))
	for ok {
		var name, text []byte
		if name, rest, ok = plainString(rest); !ok {
			return found, false
		}
		if rest, ok = bytes.CutPrefix(bytes.TrimLeft(rest, " "), []byte(":")); !ok {
			return found, false
		}
		if text, rest, ok = plainString(rest); !ok {
			return found, false
		}
		known := false
		for n := range names {
			if string(name) == names[n] {
				found[n], known = string(text), true
			}
		}
		rest = bytes.TrimLeft(rest, " ")
		if !known || len(rest) == 0 {
			return found, false
		}
		if len(rest) == 1 && rest[0] == '}' {
			return found, true
		}
		rest, ok = bytes.CutPrefix(rest, []byte(","))
	}
	return found, false
}

// plainString reads a string of printable ASCII without escapes.
func plainString(text []byte) (content, rest []byte, ok bool) {
	text, ok = bytes.CutPrefix(bytes.TrimLeft(text, " "), []byte(`"`))
	if !ok {
		return nil, nil, false
	}
	for i, c := range text {
		switch {
		case c == '"':
			return text[:i], text[i+1:], true
		case c < ' ' || c > '~' || c == '\\':
			return nil, nil, false
		}
	}
	return nil, nil, false
}
