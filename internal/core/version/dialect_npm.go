package version

import (
	"errors"
	"strings"
)

// parseNpm reads an npm range: alternatives joined by ||, each a hyphen range or
// comparators joined by spaces. A prerelease is admitted only where a comparator of its
// alternative names a prerelease of the same three numbers.
func parseNpm(_ Scheme, raw string) (Set, error) {
	out, everything := None(Semver), false
	for alternative := range strings.SplitSeq(raw, "||") {
		c, err := npmAlternative(alternative)
		if err != nil {
			return Set{}, err
		}
		everything = everything || c.everything()
		out = out.Unite(c.set())
	}
	if everything { // the other alternatives' prereleases then count no more
		return Releases(Semver), nil
	}
	return out, nil
}

// readNpm reads a version as npm does: three numbers that JavaScript can hold.
func readNpm(raw string) (Version, error) {
	s := strings.TrimSpace(raw)
	v, err := readSemver(strings.TrimPrefix(s, "v"))
	switch {
	case err != nil:
		return v, err
	case v.numbers < 3:
		return v, errThree
	}
	if largerThan(v.key, largestNpm) {
		return v, errNpmLarge
	}
	return v, nil
}

// largestNpm is the largest number that JavaScript counts to exactly.
const largestNpm = "9007199254740991"

var (
	errNpmSigns = errors.New("signs stand before the version")
	errNpmLarge = errors.New("a number is larger than " + largestNpm)
)

// npmComparators collects what the comparators of one alternative say together.
type npmComparators struct {
	interval Interval
	named    []string // the numbers of prereleases that comparators name, as keys
}

func npmAlternative(text string) (*npmComparators, error) {
	c := &npmComparators{interval: Interval{first, last}}
	fields := strings.Fields(withoutBuilds(text))
	if len(fields) == 3 && fields[1] == "-" {
		return c, c.hyphen(fields[0], fields[2])
	}
	for n := 0; n < len(fields); n++ {
		op, rest := npmOperator(fields[n])
		for op != "" && n+1 < len(fields) && (rest == "" || rest == "=" && op[0] != '=') { // ">= 1.2": the operator stands alone
			n++
			op, rest = npmOperator(strings.TrimSuffix(op+rest, ">") + map[bool]string{true: ">"}[op == ">"] + fields[n])
		}
		if err := c.add(op, rest); err != nil {
			return c, err
		}
	}
	return c, nil
}

// withoutBuilds cuts build parts off, which npm does before it reads anything else.
func withoutBuilds(text string) string {
	for at := 0; ; {
		plus := strings.IndexByte(text[at:], '+')
		if plus < 0 {
			return text
		}
		at += plus
		end := at + 1
		for end < len(text) && (digit(text[end]) || letter(text[end]) || text[end] == '-' || text[end] == '.' && text[end-1] != '.' && end > at+1) {
			end++
		}
		if text[end-1] == '.' {
			end--
		}
		if end == at+1 {
			at++
			continue
		}
		text = text[:at] + text[end:]
	}
}

// everything tells whether the comparators leave no release out.
func (c *npmComparators) everything() bool {
	return c.interval == Interval{first, last} && len(c.named) == 0
}

// npmZero is the place before 0.0.0.
var npmZero = Cut{key: "\x00\x00\x00\x02", scheme: Semver}

func (c *npmComparators) add(op, rest string) error {
	p, err := readNpmPartial(rest, op)
	if err != nil {
		return err
	}
	return c.addPartial(op, p)
}

func (c *npmComparators) addPartial(op string, p npmPartial) error {
	i, err := npmComparator(op, p)
	if err != nil {
		return err
	}
	if i.From == npmZero && !(p.v && op == ">=") { // npm drops ">=0.0.0", and with it what it says of prereleases
		i.From = first
	}
	c.narrow(i)
	if p.pre != "" {
		c.named = append(c.named, semverNumbers(p.numbers))
	}
	return nil
}

func (c *npmComparators) narrow(i Interval) {
	if i.From.compare(c.interval.From) > 0 {
		c.interval.From = i.From
	}
	if i.To.compare(c.interval.To) < 0 {
		c.interval.To = i.To
	}
}

func (c *npmComparators) set() Set {
	out := None(Semver)
	if c.interval.From.compare(c.interval.To) >= 0 {
		return out
	}
	return out.with(released, c.interval).put(early, namedPrereleases(c.interval, c.named))
}

func (c *npmComparators) hyphen(low, high string) error {
	for _, end := range []struct{ op, raw string }{{">=", low}, {"<=", high}} {
		p, err := readNpmPartial(end.raw, "-")
		if err != nil {
			return err
		}
		if p.full() && p.signs && (p.pre == "" || end.op == ">=") {
			return errNpmSigns
		}
		if err := c.addPartial(end.op, p); err != nil {
			return err
		}
	}
	return nil
}

func npmOperator(field string) (op, rest string) {
	for _, op := range []string{">=", "<=", "~>", ">", "<", "=", "~", "^"} {
		if rest, ok := strings.CutPrefix(field, op); ok {
			return op, rest
		}
	}
	return "", field
}

// npmPartial is a partial version and what stands before it.
type npmPartial struct {
	partial
	v     bool // one v
	signs bool // other signs
}

func readNpmPartial(raw, op string) (npmPartial, error) {
	p := npmPartial{}
	s := strings.TrimLeft(raw, "v=")
	prefix := raw[:len(raw)-len(s)]
	core := s
	if end := strings.IndexByte(s, '-'); end >= 0 {
		core = s[:end]
	}
	parts := strings.Split(core, ".")
	if len(parts) > 3 {
		return p, errParts
	}
	pre, hasPre := strings.CutPrefix(s[len(core):], "-")
	if hasPre && (len(parts) < 3 || !identifiers(pre, false)) {
		return p, errPrerelease
	}
	// Only comparators without a tilde or a caret mind numbers that follow a wildcard.
	open, lenient := false, op == "^" || op == "~" || op == "~>" || op == "-"
	for _, part := range parts {
		switch {
		case part == "x", part == "X", part == "*":
			open = true
		case !allDigits(part):
			return p, errors.New("it is neither a number nor a wildcard")
		case len(part) > 1 && part[0] == '0':
			return p, errLeading
		case tooLarge(part, largestNpm):
			return p, errNpmLarge
		case open && lenient:
		case open:
			return p, errors.New("a number follows a wildcard")
		default:
			p.numbers = append(p.numbers, part)
		}
	}
	if len(p.numbers) == 3 {
		p.pre = pre
		// Of a whole version npm takes one v; of a partial one any mixture of v and =.
		p.v = prefix == "v"
		if p.signs = prefix != "" && prefix != "v"; p.signs && !lenient {
			return p, errNpmSigns
		}
	}
	return p, nil
}

// past is the cut before the first release after everything that p stands for.
func (p npmPartial) past() (Cut, error) {
	if p.full() {
		c := p.at()
		c.after = true
		return c, nil
	}
	return npmEnd(bumped(p.numbers))
}

// npmEnd is the cut before everything with the numbers.
func npmEnd(numbers []string) (Cut, error) {
	if tooLarge(numbers[len(numbers)-1], largestNpm) {
		return last, errNpmLarge
	}
	return Semver.before(semverNumbers(numbers)), nil
}

func npmComparator(op string, p npmPartial) (i Interval, err error) {
	i = Interval{first, last}
	if len(p.numbers) == 0 { // a wildcard alone
		if op == "<" || op == ">" {
			i.To = first
		}
		return i, nil
	}
	if op != "<" && op != "<=" && op != ">" {
		i.From = p.at()
	}
	switch op {
	case ">=":
	case ">":
		i.From, err = p.past()
	case "<=", "", "=":
		i.To, err = p.past()
	case "<":
		if i.To = p.at(); !p.full() {
			i.To, err = npmEnd(p.numbers)
		}
	case "~", "~>":
		i.To, err = npmEnd(bumped(p.numbers[:min(len(p.numbers), 2)]))
	case "^":
		i.To, err = npmEnd(caretEnd(p.numbers))
	default:
		err = errors.New("unknown operator " + op)
	}
	return i, err
}
