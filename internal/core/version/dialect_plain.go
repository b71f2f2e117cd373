package version

import "strings"

// parsePlain reads what a version file holds: one version, or a partial one that
// stands for everything below it (18, 3.11, 20.x). "*" and "x" stand for every release.
func parsePlain(s Scheme, raw string) (Set, error) {
	raw = strings.TrimPrefix(strings.TrimSpace(raw), "=")
	if raw == "" {
		return Set{}, errNumber
	}
	for {
		short, wild := cutWildcard(raw)
		if !wild {
			break
		}
		raw = short
	}
	if raw == "*" || raw == "x" || raw == "X" {
		return Releases(s), nil
	}
	v, err := s.Parse(raw)
	if err != nil {
		return Set{}, err
	}
	if v.exact {
		return Exactly(v), nil
	}
	from, to, err := schemes[s].line(raw)
	if err != nil {
		return Set{}, err
	}
	return within(s, Interval{s.before(from), s.before(to)}), nil
}

func cutWildcard(raw string) (string, bool) {
	for _, end := range []string{".x", ".X", ".*"} {
		if short, ok := strings.CutSuffix(raw, end); ok {
			return short, true
		}
	}
	return raw, false
}
