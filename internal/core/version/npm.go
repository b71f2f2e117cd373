package version

import (
	"errors"
	"strings"
)

// parseNpm reads an npm range: alternatives joined by ||, each a hyphen range or
// comparators joined by spaces.
func parseNpm(s Scheme, raw string) (Set, error) {
	out := None(s)
	for alternative := range strings.SplitSeq(raw, "||") {
		set, err := npmAlternative(strings.TrimSpace(alternative))
		if err != nil {
			return Set{}, err
		}
		out = out.Unite(set)
	}
	return out, nil
}

func npmAlternative(text string) (Set, error) {
	if low, high, ok := strings.Cut(text, " - "); ok {
		return npmHyphen(strings.TrimSpace(low), strings.TrimSpace(high))
	}
	fields := strings.Fields(text)
	interval, tuples := Interval{first, last}, []npmPartial(nil)
	for n := 0; n < len(fields); n++ {
		op, rest := npmOperator(fields[n])
		if rest == "" && op != "" && n+1 < len(fields) { // ">= 1.2": the operator stands alone
			n++
			rest = fields[n]
		}
		p, err := readNpmPartial(rest)
		if err != nil {
			return Set{}, err
		}
		i, err := npmComparator(op, p)
		if err != nil {
			return Set{}, err
		}
		narrowed := intersect([]Interval{interval}, []Interval{i})
		if len(narrowed) == 0 {
			return None(Semver), nil
		}
		interval = narrowed[0]
		if p.pre != "" {
			tuples = append(tuples, p)
		}
	}
	set := within(Semver, interval)
	set.pre = npmPrereleases(interval, tuples)
	return set, nil
}

// npmPrereleases: a prerelease is admitted only where a comparator names a
// prerelease of the same three numbers.
func npmPrereleases(i Interval, tuples []npmPartial) []Interval {
	var out []Interval
	for _, p := range tuples {
		same := Interval{semverCut(p.numbers), Cut{key: semverKey(p.numbers, ""), text: strings.Join(p.numbers, ".")}}
		out = unite(out, intersect([]Interval{i}, []Interval{same}))
	}
	return out
}

func npmHyphen(low, high string) (Set, error) {
	a, err := readNpmPartial(low)
	if err != nil {
		return Set{}, err
	}
	b, err := readNpmPartial(high)
	if err != nil {
		return Set{}, err
	}
	from, _ := npmComparator(">=", a)
	to, _ := npmComparator("<=", b)
	list := intersect([]Interval{from}, []Interval{to})
	if len(list) == 0 {
		return None(Semver), nil
	}
	set := within(Semver, list[0])
	for _, p := range []npmPartial{a, b} {
		if p.pre != "" {
			set.pre = unite(set.pre, npmPrereleases(list[0], []npmPartial{p}))
		}
	}
	return set, nil
}

func npmOperator(field string) (op, rest string) {
	for _, op := range []string{">=", "<=", "~>", ">", "<", "=", "~", "^"} {
		if rest, ok := strings.CutPrefix(field, op); ok {
			return op, rest
		}
	}
	return "", field
}

// npmPartial is a version whose numbers may be missing or a wildcard; numbers holds those before it.
type npmPartial struct {
	numbers []string
	pre     string
}

func readNpmPartial(raw string) (npmPartial, error) {
	s := strings.TrimLeft(raw, "v=")
	s, build, hasBuild := strings.Cut(s, "+")
	if hasBuild && !identifiers(build) {
		return npmPartial{}, errors.New("bad build part")
	}
	core, pre, hasPre := strings.Cut(s, "-")
	if hasPre && !identifiers(pre) {
		return npmPartial{}, errors.New("bad prerelease part")
	}
	p := npmPartial{}
	parts := strings.Split(core, ".")
	if len(parts) > 3 {
		return npmPartial{}, errors.New("more than three numbers")
	}
	open := false
	for _, part := range parts {
		switch {
		case part == "" && len(parts) == 1, part == "x", part == "X", part == "*":
			open = true
		case !allDigits(part) || len(part) > 1 && part[0] == '0' || len(part) > 16:
			return npmPartial{}, errors.New("it is neither a number nor a wildcard")
		case !open:
			p.numbers = append(p.numbers, part)
		}
	}
	if len(p.numbers) == 3 {
		p.pre = pre
	}
	return p, nil
}

func (p npmPartial) full() bool { return len(p.numbers) == 3 }

// at is the cut before the version, missing numbers read as 0.
func (p npmPartial) at() Cut {
	text := padded(p.numbers, 3)
	if p.pre != "" {
		text += "-" + p.pre
	}
	return Cut{key: semverKey(p.numbers, p.pre), text: text}
}

// past is the cut before the first release after everything that p stands for.
func (p npmPartial) past() Cut {
	if p.full() {
		c := p.at()
		c.after = true
		return c
	}
	return semverCut(bumped(p.numbers))
}

func npmComparator(op string, p npmPartial) (Interval, error) {
	if len(p.numbers) == 0 { // a wildcard alone
		if op == "<" || op == ">" {
			return Interval{first, first}, nil
		}
		return Interval{first, last}, nil
	}
	switch op {
	case ">=":
		return Interval{p.at(), last}, nil
	case ">":
		return Interval{p.past(), last}, nil
	case "<=":
		return Interval{first, p.past()}, nil
	case "<":
		if p.full() {
			return Interval{first, p.at()}, nil
		}
		return Interval{first, semverCut(p.numbers)}, nil
	case "~", "~>":
		return Interval{p.at(), semverCut(bumped(p.numbers[:min(len(p.numbers), 2)]))}, nil
	case "^":
		return Interval{p.at(), semverCut(caretEnd(p.numbers))}, nil
	case "", "=":
		return Interval{p.at(), p.past()}, nil
	}
	return Interval{}, errors.New("unknown operator " + op)
}

// caretEnd adds one to the leftmost number that is not zero (or the last written one).
func caretEnd(numbers []string) []string {
	for i, n := range numbers {
		if n != "0" {
			return bumped(numbers[:i+1])
		}
	}
	return bumped(numbers)
}
