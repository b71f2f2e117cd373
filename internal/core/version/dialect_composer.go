package version

import (
	"errors"
	"slices"
	"strings"
)

// parseComposerRange reads Composer's constraints: alternatives joined by | or ||,
// each constraints joined by commas or spaces. Ranges begin with the development
// versions of their lower bound and end before those of their upper one; a branch is in
// no range and equal only to itself.
func parseComposerRange(_ Scheme, raw string) (Set, error) {
	out := None(Composer)
	for alternative := range strings.SplitSeq(strings.ReplaceAll(strings.TrimSpace(raw), "||", "|"), "|") {
		set := All(Composer)
		for _, constraint := range composerParts(strings.TrimSpace(alternative)) {
			one, err := composerConstraint(constraint)
			if err != nil {
				return Set{}, err
			}
			set = set.Intersect(one)
		}
		out = out.Unite(set)
	}
	return out, nil
}

// composerParts splits at commas and spaces, but not behind an operator, not around a
// hyphen that stands alone, and not around "as".
func composerParts(text string) []string {
	var parts []string
	start := 0
	for at := 1; at < len(text); at++ {
		if length := composerSeparator(text, at); length > 0 {
			parts = append(parts, text[start:at])
			start = at + length
			at = start
		}
	}
	return append(parts, text[start:])
}

// composerSeparator is the length of what separates two constraints at a place: a
// comma or a space with spaces around it; 0 where nothing does.
func composerSeparator(text string, at int) int {
	if strings.IndexByte("=<> ,", text[at-1]) >= 0 || strings.HasSuffix(text[:at], "as") {
		return 0
	}
	spaces := len(text[at:]) - len(strings.TrimLeft(text[at:], " "))
	for lead := spaces; lead >= 0; lead-- {
		sign := at + lead
		if sign >= len(text) || text[sign-1] == '-' || text[sign] != ' ' && text[sign] != ',' || strings.HasPrefix(text[sign+1:], "-") {
			continue
		}
		rest := text[sign+1:]
		for trail := len(rest) - len(strings.TrimLeft(rest, " ")); trail >= 0; trail-- {
			if next := rest[trail:]; next != "" && next[0] != ',' && !strings.HasPrefix(next, "as") {
				return lead + 1 + trail
			}
		}
	}
	return 0
}

func composerConstraint(text string) (Set, error) {
	text = cutComposerAlias(text)
	stability := ""
	if at := strings.LastIndexByte(text, '@'); at >= 0 && composerFlag(text[at+1:]) && !strings.ContainsAny(text[:at], ", \t") {
		stability, text = strings.ToLower(text[at+1:]), text[:at]
		if text == "" {
			text = "*"
		}
	}
	text = cutComposerReference(text)
	if composerStar(text) {
		if text == "*" || strings.EqualFold(text, "x") {
			return All(Composer), nil
		}
		return composerBounds(composerZero, ""), nil
	}
	for _, read := range []func(string) (Set, bool, error){composerTilde, composerCaret, composerWildcard, composerHyphen} {
		if set, ok, err := read(text); ok || err != nil {
			return set, err
		}
	}
	return composerComparison(text, stability)
}

const composerZero = "0.0.0.0-dev"

// composerLargest is the largest number that PHP can add one to.
const composerLargest = "9223372036854775806"

// cutComposerReference cuts the commit off dev-main#0123456.
func cutComposerReference(text string) string {
	before, reference, ok := strings.Cut(text, "#")
	lower := strings.ToLower(before)
	if !ok || reference == "" || strings.ContainsAny(before, ", @\t") || !strings.HasPrefix(lower, "dev-") && !strings.HasSuffix(lower, ".x-dev") {
		return text
	}
	return before
}

// composerStar tells whether the text is made of wildcards only, a leading v allowed.
func composerStar(text string) bool {
	text = cutV(text)
	for part := range strings.SplitSeq(text, ".") {
		if !isWild(part) {
			return false
		}
	}
	return true
}

// composerBounds is what lies between two normalised versions; "" is no bound.
func composerBounds(from, to string) Set {
	i := Interval{first, last}
	if from != "" {
		i.From = composerCut(from)
	}
	if to != "" {
		i.To = composerCut(to)
	}
	return composerOrdered(i)
}

// composerOrdered is everything in the interval but branches.
func composerOrdered(i Interval) Set {
	return None(Composer).with(released, i).with(early, i)
}

func composerCut(text string) Cut {
	v, err := readComposer(text)
	if err != nil {
		return last
	}
	return v.cut()
}

// cut is the place before the version; before its whole number where nothing of that comes earlier.
func (v composerVersion) cut() Cut {
	if v.dev && v.stability == 0 && len(v.numbers) == 4 { // nothing of the number comes before it
		return Composer.before(composerLine(v.numbers))
	}
	return Composer.before(v.key())
}

// composerPartial is what tilde, caret and hyphen ranges are made of.
type composerPartial struct {
	numbers []string
	tail    string // the stability as written
	branch  bool   // 2.x-dev: a branch of numbers
}

// readComposerPartial reads one to four numbers and what follows them.
func readComposerPartial(text string) (p composerPartial, ok bool) {
	s := cutV(text)
	for len(p.numbers) < 4 {
		digits, rest := cutDigits(s)
		if digits == "" || tooLarge(trimZeros(digits), composerLargest) {
			return p, false
		}
		p.numbers, s = append(p.numbers, digits), rest
		if len(s) < 2 || s[0] != '.' || !digit(s[1]) {
			break
		}
		s = s[1:]
	}
	if before, build, cut := strings.Cut(s, "+"); cut {
		if build == "" || strings.ContainsAny(build, " \t") {
			return p, false
		}
		s = before
	}
	p.tail = s
	if len(s) > 2 && s[0] == '.' && isWild(s[1:2]) {
		rest := strings.ToLower(strings.TrimLeft(s[2:3], ".-") + s[3:])
		p.branch = rest == "dev"
		return p, p.branch
	}
	v := composerVersion{}
	return p, v.readStability(s)
}

// stable tells whether no stability is written, so that development versions count in.
func (p composerPartial) stable() bool {
	v := composerVersion{}
	return !p.branch && (p.tail == "" || v.readStability(p.tail) && v.stability == 0 && !v.dev && !strings.Contains(strings.ToLower(p.tail), "stable"))
}

// low is the normalised lower bound.
func (p composerPartial) low(text string) (string, error) {
	if p.stable() {
		text += "-dev"
	}
	v, err := readComposer(text)
	if err != nil {
		return "", err
	}
	return v.text(), nil
}

// high is the first development version after the number at position was raised by one.
func (p composerPartial) high(position int) string {
	numbers := slices.Clone(p.numbers)
	for len(numbers) < position {
		numbers = append(numbers, "0")
	}
	numbers = bumped(numbers[:position])
	return padded(numbers, 4) + "-dev"
}

func composerTilde(text string) (Set, bool, error) {
	rest, ok := strings.CutPrefix(text, "~")
	if !ok {
		return Set{}, false, nil
	}
	if strings.HasPrefix(rest, ">") {
		return Set{}, false, errors.New("the operator ~> is not Composer's; it writes ~")
	}
	p, ok := readComposerPartial(rest)
	if !ok {
		return Set{}, false, errComposer
	}
	position := len(p.numbers)
	if p.branch {
		position++
	}
	low, err := p.low(rest)
	if err != nil {
		return Set{}, false, err
	}
	return composerBounds(low, p.high(max(1, position-1))), true, nil
}

func composerCaret(text string) (Set, bool, error) {
	rest, ok := strings.CutPrefix(text, "^")
	if !ok {
		return Set{}, false, nil
	}
	p, ok := readComposerPartial(rest)
	if !ok {
		return Set{}, false, errComposer
	}
	position := 3
	switch {
	case p.numbers[0] != "0" || len(p.numbers) < 2:
		position = 1
	case p.numbers[1] != "0" || len(p.numbers) < 3:
		position = 2
	}
	low, err := p.low(rest)
	if err != nil {
		return Set{}, false, err
	}
	return composerBounds(low, p.high(position)), true, nil
}

// composerWildcard reads 1.2.* and 1.2.x.
func composerWildcard(text string) (Set, bool, error) {
	numbers, rest, err := numbersOf(strings.TrimPrefix(text, "v"))
	if err != nil || rest == "" || len(numbers) > 3 || tooLarge(numbers[len(numbers)-1], composerLargest) {
		return Set{}, false, nil
	}
	for part := range strings.SplitSeq(rest[1:], ".") {
		if rest[0] != '.' || !isWild(part) {
			return Set{}, false, nil
		}
	}
	p := composerPartial{numbers: numbers}
	low, high := padded(numbers, 4)+"-dev", p.high(len(numbers))
	if low == composerZero {
		low = ""
	}
	return composerBounds(low, high), true, nil
}

func composerHyphen(text string) (Set, bool, error) {
	low, high, ok := strings.Cut(text, " - ")
	if !ok {
		return Set{}, false, nil
	}
	low, high = strings.TrimSpace(low), strings.TrimSpace(high)
	p, okLow := readComposerPartial(low)
	q, okHigh := readComposerPartial(high)
	if !okLow || !okHigh {
		return Set{}, false, nil
	}
	v, err := readComposer(low)
	if err != nil {
		return Set{}, false, err
	}
	from := v.text()
	if p.stable() {
		from += "-dev"
	}
	w, err := readComposer(high)
	if err != nil {
		return Set{}, false, err
	}
	if len(q.numbers) > 2 || !q.stable() {
		to := w.version()
		return composerBounds(from, "").Intersect(composerOrdered(compared("<=", to))), true, nil
	}
	return composerBounds(from, q.high(len(q.numbers))), true, nil
}

func composerComparison(text, stability string) (Set, error) {
	op, rest := cutOperator(text, "<>", "!=", ">=", ">", "<=", "<", "==", "=")
	v, err := readComposerBound(rest)
	if err != nil {
		return Set{}, err
	}
	equality := op == "" || op == "=" || op == "=="
	stable := v.branch == "" && (v.stability == 0 || v.stability == composerPatch) && !v.dev
	switch {
	case !equality && stability != "" && stability != "stable" && stable:
		v = v.withStability(stability)
	case (op == "<" || op == ">=") && v.branch == "" && !composerWrittenStability(rest):
		v.dev = true
	}
	at := v.version()
	switch {
	case equality:
		return None(Composer).with(at.class, compared("=", at)), nil
	case op == "!=" || op == "<>":
		return composerNot(at), nil
	case v.branch != "":
		return None(Composer), nil
	case op == "<":
		return composerOrdered(Interval{first, v.cut()}), nil
	case op == ">=":
		return composerOrdered(Interval{v.cut(), last}), nil
	}
	return composerOrdered(compared(op, at)), nil
}

// readComposerBound reads a version, and main-dev as the branch dev-main.
func readComposerBound(text string) (composerVersion, error) {
	v, err := readComposer(text)
	if err == nil {
		return v, nil
	}
	name, ok := strings.CutSuffix(text, "-dev")
	if !ok || name == "" || !only(name, "-./") {
		return v, err
	}
	return composerVersion{branch: name}, nil
}

// composerNot is everything but one version.
func composerNot(at Version) Set {
	if at.class == third {
		return None(Composer).with(third, compared("=", at)).Complement()
	}
	return composerOrdered(compared("=", at)).Complement()
}

func (v composerVersion) withStability(word string) composerVersion {
	for tag, name := range composerStabilities {
		switch {
		case !strings.EqualFold(name, word):
		case tag == composerDev:
			v.dev = true
		case v.stability != 0:
			v.behind = tag
		default:
			v.stability = tag
		}
	}
	return v
}

// composerWrittenStability tells whether the text ends in a stability after a hyphen.
func composerWrittenStability(text string) bool {
	lower := strings.ToLower(text)
	for at := strings.IndexByte(lower, '-'); at >= 0; {
		v := composerVersion{}
		if tail := lower[at:]; v.readStability(tail) {
			return true
		}
		rest := strings.IndexByte(lower[at+1:], '-')
		if rest < 0 {
			break
		}
		at += 1 + rest
	}
	return false
}
