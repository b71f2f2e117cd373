// Package terminal keeps what other people wrote from steering a terminal. Names of files,
// machines and tokens, and whatever a server says, may hold characters that move the
// cursor, hide text or turn it around; all that Wexo prints goes through a Writer, which
// lets none of them pass.
package terminal

import (
	"bytes"
	"fmt"
	"io"
	"reflect"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"
)

// steers tells whether a character is not text: a control character, one that changes the
// direction in which text is read, or one that nobody sees.
func steers(r rune) bool {
	return unicode.IsControl(r) || unicode.In(r, unicode.Cf, unicode.Other_Default_Ignorable_Code_Point) || r == '\u2028' || r == '\u2029'
}

// Clean is a text on one line of which every character can be seen.
func Clean(text string) string {
	if printable(text) {
		return text
	}
	return strings.Map(func(r rune) rune {
		if steers(r) {
			return utf8.RuneError
		}
		return r
	}, text)
}

// printable tells quickly that a text is ASCII without control characters.
func printable(text string) bool {
	for i := range len(text) {
		if c := text[i]; c < ' ' || c > '~' {
			return false
		}
	}
	return true
}

// Printf formats as fmt does, with every text and error among the arguments cleaned: one
// name cannot make two lines. Lines are texts that stand on lines of their own.
func Printf(w io.Writer, format string, args ...any) error {
	_, err := fmt.Fprintf(w, format, Cleaned(args)...)
	return err
}

// Lines are texts of which each has a line of its own.
type Lines []string

// Cleaned gives arguments of a format with texts and errors cleaned.
func Cleaned(args []any) []any {
	out := make([]any, len(args))
	for i, arg := range args {
		switch a := arg.(type) {
		case Lines:
			lines := make([]string, len(a))
			for n, line := range a {
				lines[n] = Clean(line)
			}
			out[i] = strings.Join(lines, "\n")
		case error:
			out[i] = Clean(a.Error())
		default:
			if out[i] = arg; reflect.ValueOf(arg).Kind() == reflect.String {
				out[i] = Clean(reflect.ValueOf(arg).String())
			}
		}
	}
	return out
}

// Writer passes text on and shows every character that would steer a terminal as one that
// does not. Line feeds and tabs pass; so do the sequences of Wexo's own that begin with
// an escape character and the mark, which nobody outside can know.
type Writer struct {
	To   io.Writer
	Mark string // "" lets no sequence pass
	rest []byte // the begin of a character, or of a sequence, whose end was not written yet
	err  error
}

// Err is the first error of writing.
func (w *Writer) Err() error { return w.err }

// Write writes all of p or gives the first error.
func (w *Writer) Write(p []byte) (int, error) {
	if w.err != nil {
		return 0, w.err
	}
	data := p
	if len(w.rest) > 0 {
		data = append(w.rest, p...)
		w.rest = nil
	}
	if plain(data) < len(data) {
		data = w.cleaned(data)
	}
	if _, w.err = w.To.Write(data); w.err != nil {
		return 0, w.err
	}
	return len(p), nil
}

// plain is how much of a text, from its begin, is ASCII that steers nothing.
func plain(data []byte) int {
	for i, c := range data {
		if (c < ' ' || c > '~') && c != '\n' && c != '\t' {
			return i
		}
	}
	return len(data)
}

func (w *Writer) cleaned(data []byte) []byte {
	out := make([]byte, 0, len(data)+16)
	for {
		n := plain(data)
		out = append(out, data[:n]...)
		if data = data[n:]; len(data) == 0 {
			break
		}
		if !utf8.FullRune(data) {
			w.rest = append([]byte(nil), data...)
			break
		}
		r, size := utf8.DecodeRune(data)
		switch {
		case r == '\x1b' && w.Mark != "":
			if len(data) <= len(w.Mark) && strings.HasPrefix(w.Mark, string(data[1:])) {
				w.rest = append([]byte(nil), data...)
				return out
			}
			if rest, ours := bytes.CutPrefix(data[1:], []byte(w.Mark)); ours {
				out = append(out, '\x1b')
				data = rest
				continue
			}
			out = utf8.AppendRune(out, utf8.RuneError)
		case r != utf8.RuneError && !steers(r):
			out = append(out, data[:size]...)
		default:
			out = utf8.AppendRune(out, utf8.RuneError)
		}
		data = data[size:]
	}
	return out
}

// JSON gives a writer for JSON: in it such characters are written as JSON writes them, so
// that nothing of a name is lost.
func JSON(w io.Writer) io.Writer { return &jsonWriter{to: w} }

type jsonWriter struct {
	to   io.Writer
	rest []byte // the begin of a character; JSON ends with a whole one
}

func (w *jsonWriter) Write(p []byte) (int, error) {
	data := p
	if len(w.rest) > 0 {
		data = append(w.rest, p...)
		w.rest = nil
	}
	if plain(data) < len(data) {
		data = w.escaped(data)
	}
	if _, err := w.to.Write(data); err != nil {
		return 0, err
	}
	return len(p), nil
}

func (w *jsonWriter) escaped(data []byte) []byte {
	out := make([]byte, 0, len(data)+16)
	for {
		n := plain(data)
		out = append(out, data[:n]...)
		if data = data[n:]; len(data) == 0 {
			break
		}
		if !utf8.FullRune(data) {
			w.rest = append([]byte(nil), data...)
			break
		}
		r, size := utf8.DecodeRune(data)
		if r >= 0x7f && steers(r) {
			for _, unit := range utf16.AppendRune(nil, r) {
				out = fmt.Appendf(out, `\u%04x`, unit)
			}
		} else {
			out = append(out, data[:size]...)
		}
		data = data[size:]
	}
	return out
}
