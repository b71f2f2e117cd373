// Package excerpt shows the lines around a place of a file to those who want to see what a
// claim rests on. Files of versions hold other things too: by default nothing is shown but the
// value and its key; where more is, what looks like a secret is left out, and a line is no longer
// than anybody reads.
package excerpt

import (
	"bytes"
	"regexp"
	"strings"
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

// words are those that names of secrets are made of.
const words = `secrets?|tokens?|pass|passwd|passwort|password|passwords|passphrase|pwd|pin|pat|pats|credentials?|creds?|auth|authorization|authtoken|bearer|session|sessions|cookies?|` +
	`salt|seed|signing|sign|signature|private|keyid|key|keys|apikey|accesskey|secretkey|privatekey|webhook|dsn|connectionstring`

var (
	// keyed is a name that secrets have, with what stands behind it.
	keyed = regexp.MustCompile(`(?i)((?:^|[^A-Za-z])(?:[\w.-]*(?:[_.-]|[a-z](?-i:[A-Z]))?)?(?:` + words + `|\w*(?:secret|token|passw|passphrase|apikey|credential|authorization))(?:[_.-][\w.-]*)?["'\]]*(?:\s*(?:=>|:=|[=:>])\s*|\s+))(\S.*)$`)
	// given is an option that takes a secret.
	given = regexp.MustCompile(`(?i)((?:^|\s)(?:-u|-p|-a|--?(?:user|proxy-user|header|oauth2-bearer|key|cert|pass|pwd|auth)[\w-]*)(?:[ =]+))("[^"]*"|'[^']*'|\S+)`)
	// joined is a short option with its secret joined to it.
	joined = regexp.MustCompile(`((?:^|\s)-[pu])([^\s=-]\S*)`)
	// inAddress are a user and a password in an address.
	inAddress = regexp.MustCompile(`(://)[^/\s@]+@`)
	// dense is a text without a gap that is too long for anything but a key.
	dense = regexp.MustCompile(`[A-Za-z0-9+/_=-]{32,}`)
	// marked are tokens whose makers begin them with a mark.
	marked = regexp.MustCompile(`\b(?:[a-z]{2,5}|[A-Z]{4})[_-](?:live|test|pat|[A-Za-z0-9]{0,4})[_-]?[A-Za-z0-9_-]{16,}`)
	// open is a key whose value stands on the next line.
	open = regexp.MustCompile(`(?i)(?:^|[^A-Za-z])(?:[\w.-]*[_.-])?(?:` + words + `)(?:[_.-][\w.-]*)?["'\]]*\s*(?:=>|:=|[=:>|\\])+\s*[|>\\({\["']*[-+]?\s*$`)
)

// Around are the line with a number and those beside it, as far as the text has them, without
// what looks like a secret by this package's rules and by those of mask, which gets the lines
// together. Lines count from 1.
func Around(text []byte, line int, mask func(string) string) []Line {
	var numbers []int
	var texts []string
	number, beneath := 0, false // a key whose value is still to come
	for rest := text; len(rest) > 0; {
		var one []byte
		one, rest, _ = bytes.Cut(rest, []byte("\n"))
		if number++; number > line+around {
			break
		}
		if number < line-around-1 {
			continue
		}
		text := string(bytes.TrimRight(one, "\r"))
		if beneath {
			text = hidden
		}
		beneath = open.Match(one)
		if number >= line-around {
			numbers, texts = append(numbers, number), append(texts, text)
		}
	}
	if number < line { // the file ends before it
		return nil
	}
	if masked := strings.Split(mask(strings.Join(texts, "\n")), "\n"); len(masked) == len(texts) {
		texts = masked
	} else {
		texts = make([]string, len(texts))
	}
	var out []Line
	for i, text := range texts {
		out = append(out, Line{numbers[i], shown(unsecret(text))})
	}
	return out
}

// unsecret is a line without what looks like a secret.
func unsecret(text string) string {
	text = keyed.ReplaceAllString(text, "${1}"+hidden)
	text = joined.ReplaceAllString(text, "${1}"+hidden)
	text = given.ReplaceAllString(text, "${1}"+hidden)
	text = inAddress.ReplaceAllString(text, "${1}"+hidden+"@")
	text = marked.ReplaceAllString(text, hidden)
	return dense.ReplaceAllString(text, hidden)
}

// shown is a line without controls, and cut.
func shown(text string) string {
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
