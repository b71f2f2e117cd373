package document

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"regexp"
	"regexp/syntax"
	"slices"
	"sync"
	"unicode"
	"unicode/utf8"
)

// A pattern is linear in a text's length times its own, but the own may be made large,
// and each of many matches may look through the whole rest of a text. So patterns of users
// are refused where they are large, and where a text is long, every byte that a match
// looks at is counted.

// instructions is how large a pattern is for the machine that runs it.
func instructions(pattern *regexp.Regexp) (int, error) {
	parsed, err := syntax.Parse(pattern.String(), syntax.Perl)
	if err != nil {
		return 0, err
	}
	program, err := syntax.Compile(parsed.Simplify())
	if err != nil {
		return 0, err
	}
	return len(program.Inst), nil
}

// CompilePattern reads a user's pattern. It must have a group around the version.
func CompilePattern(text string) (*regexp.Regexp, error) {
	if len(text) > maxSelector {
		return nil, fmt.Errorf("it is longer than %d characters", maxSelector)
	}
	re, err := regexp.Compile(text)
	if err != nil {
		return nil, amissPattern(err)
	}
	if re.NumSubexp() == 0 {
		return nil, errors.New("it has no group around the version")
	}
	if n, err := instructions(re); err != nil || n > maxInstructions {
		return nil, fmt.Errorf("it repeats so much that it comes to %d steps for each character; at most %d are taken", n, maxInstructions)
	}
	return re, nil
}

// freely is how much work of a pattern is done without counting, in steps.
const freely = 20_000_000

// sizes remembers how large patterns are.
var sizes sync.Map // of *regexp.Regexp to sized

type sized struct {
	instructions int
	later        *regexp.Regexp // the same behind any one character
	required     []string       // in lower case; every match holds one of them; none where that is not known
}

func sizeOf(pattern *regexp.Regexp) sized {
	if known, ok := sizes.Load(pattern); ok {
		return known.(sized)
	}
	n, err := instructions(pattern)
	if err != nil {
		n = maxInstructions
	}
	s := sized{instructions: n, later: regexp.MustCompile(`(?s:.)(?:` + pattern.String() + `)`)}
	if parsed, err := syntax.Parse(pattern.String(), syntax.Perl); err == nil {
		s.required = required(parsed.Simplify())
	}
	sizes.Store(pattern, s)
	return s
}

// findFirst is the place of the first match with its groups; nil where there is none.
func findFirst(pattern *regexp.Regexp, text string, b *Budget) []int {
	size := sizeOf(pattern)
	if b == nil || size.instructions*len(text) < freely/most {
		return pattern.FindStringSubmatchIndex(text)
	}
	return pattern.FindReaderSubmatchIndex(&countedRunes{[]byte(text), b, max(size.instructions/4, runeCost)})
}

// findAll are the places of up to most matches with their groups.
func findAll(pattern *regexp.Regexp, data []byte, b *Budget) [][]int {
	size := sizeOf(pattern)
	if b == nil || size.instructions*len(data) < freely/most {
		return pattern.FindAllSubmatchIndex(data, most)
	}
	return findCounted(pattern, size, data, b)
}

// findCounted is the same, with every byte that is looked at counted.
func findCounted(pattern *regexp.Regexp, size sized, data []byte, b *Budget) [][]int {
	var out [][]int
	for at := 0; at <= len(data) && len(out) < most; {
		re, from := pattern, 0
		if at > 0 { // what stands before a match may matter to it
			_, before := utf8.DecodeLastRune(data[:at])
			re, from = size.later, at-before
		}
		m := re.FindReaderSubmatchIndex(&countedRunes{data[from:], b, max(size.instructions/4, runeCost)})
		if m == nil {
			break
		}
		for i := range m {
			if m[i] >= 0 {
				m[i] += from
			}
		}
		if at > 0 {
			_, first := utf8.DecodeRune(data[m[0]:])
			m[0] += first
		}
		empty := m[1] == m[0]
		if !empty || len(out) == 0 || m[0] > out[len(out)-1][1] {
			out = append(out, m)
		}
		if at = m[1]; empty {
			_, next := utf8.DecodeRune(data[m[1]:])
			at += max(next, 1)
		}
	}
	return out
}

// runeCost is what the least pattern costs for a rune, in steps.
const runeCost = 12

// countedRunes gives a text a rune at a time, and counts.
type countedRunes struct {
	rest   []byte
	budget *Budget
	cost   int
}

func (c *countedRunes) ReadRune() (rune, int, error) {
	if len(c.rest) == 0 {
		return 0, 0, io.EOF
	}
	c.budget.Spend(c.cost)
	r, size := utf8.DecodeRune(c.rest)
	c.rest = c.rest[size:]
	return r, size, nil
}

// alternatives is how many texts are looked for at most before a pattern is tried.
const alternatives = 6

// required are texts in lower case of which every match of an expression holds one; none
// where that is not known. That a text holds them is told much faster than a pattern finds it.
func required(re *syntax.Regexp) []string {
	switch re.Op {
	case syntax.OpLiteral:
		if re.Flags&syntax.FoldCase != 0 && slices.ContainsFunc(re.Rune, func(r rune) bool { return r > unicode.MaxASCII }) {
			return nil // it stands for more letters than its lower and upper case
		}
		return []string{string(folded([]byte(string(re.Rune))))}
	case syntax.OpCapture, syntax.OpPlus:
		return required(re.Sub[0])
	case syntax.OpAlternate:
		var out []string
		for _, part := range re.Sub {
			one := required(part)
			if len(one) == 0 || len(out)+len(one) > alternatives {
				return nil
			}
			out = append(out, one...)
		}
		return out
	case syntax.OpConcat:
		var best []string
		for _, part := range re.Sub {
			if one := required(part); shortest(one) > shortest(best) {
				best = one
			}
		}
		return best
	}
	return nil
}

// folded is a text in lower case. Of the letters that a pattern takes for those of ASCII
// whatever their case, only the long s is left as it is by that.
func folded(text []byte) []byte {
	return bytes.ReplaceAll(bytes.ToLower(text), []byte("ſ"), []byte("s"))
}

// shortest is the length of the shortest of some texts; 0 where there are none.
func shortest(texts []string) int {
	if len(texts) == 0 {
		return 0
	}
	return len(slices.MinFunc(texts, func(a, b string) int { return len(a) - len(b) }))
}
