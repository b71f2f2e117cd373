package version

import (
	"errors"
	"strings"
)

// parsePEP440Range reads comma-separated Python version specifiers. Prereleases
// belong to the set only where a specifier names one, as installers decide.
func parsePEP440Range(s Scheme, raw string) (Set, error) {
	out, names := All(s), false
	for clause := range strings.SplitSeq(raw, ",") {
		clause = strings.TrimSpace(clause)
		if clause == "" {
			continue
		}
		set, pre, err := pep440Clause(clause)
		if err != nil {
			return Set{}, err
		}
		out, names = out.Intersect(set), names || pre
	}
	if !names {
		out.pre = nil
	}
	return out, nil
}

func pep440Operator(clause string) (op, rest string) {
	for _, op := range []string{"===", "~=", "==", "!=", "<=", ">=", "<", ">"} {
		if rest, ok := strings.CutPrefix(clause, op); ok {
			return op, strings.TrimSpace(rest)
		}
	}
	return "", clause
}

// pep440Clause reads one specifier; pre tells whether it names a prerelease.
func pep440Clause(clause string) (set Set, pre bool, err error) {
	op, rest := pep440Operator(clause)
	if op == "" {
		return Set{}, false, errors.New("a comparison such as >= is missing")
	}
	if short, ok := strings.CutSuffix(rest, ".*"); ok {
		if op != "==" && op != "!=" {
			return Set{}, false, errors.New(".* goes with == and != only")
		}
		from, to, err := prefixPEP440(short)
		if err != nil {
			return Set{}, false, err
		}
		set = within(PEP440, Interval{from, to}).WithPrereleases()
		if op == "!=" {
			set = set.Complement()
		}
		return set, false, nil
	}
	v, err := PEP440.Parse(rest)
	if err != nil {
		return Set{}, false, err
	}
	parts, err := readPEP440(rest)
	if err != nil {
		return Set{}, false, err
	}
	if parts.local != "" && op != "==" && op != "!=" && op != "===" {
		return Set{}, false, errors.New("a local part goes with == and != only")
	}
	set, err = parts.compare(op, v)
	return set, v.prerelease && op != "!=" && op != "<" && op != ">", err
}

func (v pep440Version) compare(op string, at Version) (Set, error) {
	full := func(i Interval) Set { return full(PEP440, i) }
	same := Interval{pep440Text(before(at), v), v.pastLocals(at)}
	switch op {
	case "===":
		return full(Interval{before(at), after(at)}), nil
	case "==":
		return full(same), nil
	case "!=":
		return full(same).Complement(), nil
	case ">=":
		return full(Interval{same.From, last}), nil
	case "<=":
		return full(Interval{first, same.To}), nil
	case "<":
		if v.pre == "" && v.dev == "" && v.post == "" { // excludes its own prereleases too
			return full(Interval{first, v.cut()}), nil
		}
		return full(Interval{first, before(at)}), nil
	case ">":
		if v.post == "" && v.dev == "" && v.pre == "" { // excludes its own post-releases too
			c := v.cut()
			c.key, c.text, c.after = c.key+"\x03\xff", at.text, true
			return full(Interval{c, last}), nil
		}
		return full(Interval{same.To, last}), nil
	}
	if len(v.release) < 2 { // ~=
		return Set{}, errors.New("~= needs two numbers at least")
	}
	end := pep440Version{epoch: v.epoch, release: bumped(v.release[:len(v.release)-1])}
	return full(Interval{same.From, end.cut()}), nil
}

// pastLocals is the cut after the version and, where none is named, its local builds.
func (v pep440Version) pastLocals(at Version) Cut {
	c := after(at)
	c.text = pep440Text(c, v).text
	if v.local == "" {
		c.key = at.key[:len(at.key)-1] + "\xff"
	}
	return c
}

// pep440Text prints a bound with three numbers, so that ranges from files and from
// manifests read alike.
func pep440Text(c Cut, v pep440Version) Cut {
	v.release = strings.Split(padded(v.release, 3), ".")
	c.text = v.text()
	return c
}
