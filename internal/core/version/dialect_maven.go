package version

import (
	"errors"
	"strings"
)

// parseMavenRange reads Maven's ranges: [1,2) and (,1],[2,), where a square bracket
// takes its bound in. A version without brackets is a wish and bounds nothing.
func parseMavenRange(s Scheme, raw string) (Set, error) {
	rest := strings.TrimSpace(raw)
	if rest == "" {
		return Set{}, errors.New("nothing is written")
	}
	out, upper, count := None(s), first, 0
	for strings.HasPrefix(rest, "[") || strings.HasPrefix(rest, "(") {
		end := strings.IndexAny(rest, ")]")
		if end < 0 {
			return Set{}, errors.New("a closing bracket is missing")
		}
		i, err := mavenInterval(s, rest[:end+1])
		if err != nil {
			return Set{}, err
		}
		if count > 0 && upper.end == 0 && (i.From.end != 0 || s.before(i.From.key).compare(s.before(upper.key)) < 0) {
			return Set{}, errors.New("the ranges overlap or are not in order")
		}
		out, upper, count = out.Unite(full(s, i)), i.To, count+1
		rest = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(rest[end+1:]), ","))
	}
	switch {
	case rest == "":
		return out, nil
	case count > 0:
		return Set{}, errors.New("text follows the ranges")
	}
	if _, err := s.Parse(rest); err != nil {
		return Set{}, err
	}
	return All(s), nil
}

func mavenInterval(s Scheme, text string) (Interval, error) {
	closedLow, closedHigh := text[0] == '[', text[len(text)-1] == ']'
	low, high, pair := strings.Cut(strings.TrimSpace(text[1:len(text)-1]), ",")
	if !pair {
		if !closedLow || !closedHigh {
			return Interval{}, errors.New("a single version stands in square brackets")
		}
		v, err := s.Parse(low)
		return compared("=", v), err
	}
	low, high = strings.TrimSpace(low), strings.TrimSpace(high)
	out := Interval{first, last}
	if low != "" {
		v, err := s.Parse(low)
		if err != nil {
			return out, err
		}
		out.From = compared(map[bool]string{true: ">=", false: ">"}[closedLow], v).From
	}
	if high != "" {
		v, err := s.Parse(high)
		if err != nil {
			return out, err
		}
		out.To = compared(map[bool]string{true: "<=", false: "<"}[closedHigh], v).To
	}
	if low != "" && high != "" && out.From.compare(out.To) >= 0 {
		return out, errors.New("nothing lies between the bounds")
	}
	return out, nil
}
