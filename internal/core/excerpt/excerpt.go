// Package excerpt shows the lines around a place of a file to those who want to see what a
// claim rests on. Files of versions hold other things too, so that what looks like a secret is
// left out, and a line is no longer than anybody reads.
package excerpt

import (
	"bytes"
	"regexp"
	"unicode"
)

// Line is one line of a file.
type Line struct {
	Number int
	Text   string
}

const (
	around  = 1   // lines before and behind
	longest = 200 // of a line, in characters
	hidden  = "•••"
)

var (
	// keyed is a name that secrets have, with its value.
	keyed = regexp.MustCompile(`(?i)((?:secret|token|passw|passphrase|api[_-]?key|private[_-]?key|access[_-]?key|credential|authorization|_auth)[\w.-]*["']?\s*(?:=>|[:=])\s*)(\S.*)$`)
	// inAddress are a user and a password in an address.
	inAddress = regexp.MustCompile(`(://)[^/\s@]+@`)
	// dense is a text without a gap that is too long for anything but a key.
	dense = regexp.MustCompile(`[A-Za-z0-9+/_=-]{48,}`)
)

// Around are the line with a number and those beside it, as far as the text has them. Lines
// count from 1.
func Around(text []byte, line int) []Line {
	var out []Line
	number := 0
	for rest := text; len(rest) > 0; {
		var one []byte
		one, rest, _ = bytes.Cut(rest, []byte("\n"))
		if number++; number > line+around {
			break
		}
		if number >= line-around {
			out = append(out, Line{number, shown(string(bytes.TrimRight(one, "\r")))})
		}
	}
	if number < line { // the file ends before it
		return nil
	}
	return out
}

// shown is a line without what looks like a secret, without controls, and cut.
func shown(text string) string {
	text = keyed.ReplaceAllString(text, "${1}"+hidden)
	text = inAddress.ReplaceAllString(text, "${1}"+hidden+"@")
	text = dense.ReplaceAllString(text, hidden)
	out := make([]rune, 0, longest)
	for _, r := range text {
		if len(out) == longest {
			return string(out) + "…"
		}
		switch {
		case r == '\t':
			out = append(out, ' ', ' ')
		case unicode.IsControl(r) || unicode.Is(unicode.Cf, r):
		default:
			out = append(out, r)
		}
	}
	return string(out)
}
