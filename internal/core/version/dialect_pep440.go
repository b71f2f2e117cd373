package version

import (
	"errors"
	"strings"
)

// parsePEP440Range reads comma-separated Python version specifiers. Prereleases
// belong to the set only where a specifier names one, as installers decide.
func parsePEP440Range(_ Scheme, raw string) (Set, error) {
	out, names := All(PEP440), false
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
		out = out.WithoutPrereleases()
	}
	return out, nil
}

// pep440Clause reads one specifier; names tells whether it names a prerelease.
func pep440Clause(clause string) (set Set, names bool, err error) {
	op, rest := cutOperator(clause, "===", "~=", "==", "!=", "<=", ">=", "<", ">")
	switch {
	case op == "":
		return Set{}, false, errOperator
	case op == "===":
		return pep440Spelling(rest)
	}
	if short, ok := strings.CutSuffix(rest, ".*"); ok {
		return pep440Wildcard(op, short)
	}
	v, err := readPEP440(rest)
	if err != nil {
		return Set{}, false, err
	}
	if v.local != "" && op != "==" && op != "!=" {
		return Set{}, false, errors.New("a local part goes with == and != only")
	}
	set, err = v.compared(op)
	return set, v.prerelease() && (op == "==" || op == ">=" || op == "<=" || op == "~="), err
}

// pep440Wildcard reads ==1.2.* and !=1.2.*: everything whose numbers begin so.
func pep440Wildcard(op, short string) (Set, bool, error) {
	if op != "==" && op != "!=" {
		return Set{}, false, errors.New(".* goes with == and != only")
	}
	from, to, err := linePEP440(short)
	if err != nil || !digit(short[len(short)-1]) {
		return Set{}, false, errors.New(".* follows numbers only")
	}
	set := full(PEP440, Interval{PEP440.before(from), PEP440.before(to)})
	if op == "!=" {
		set = set.Complement()
	}
	return set, false, nil
}

// pep440Spelling reads ===: the versions that are written so and not only equal.
func pep440Spelling(rest string) (Set, bool, error) {
	parts, err := readPEP440(rest)
	if err != nil {
		return Set{}, false, err
	}
	v := parts.version()
	if !strings.EqualFold(v.text, rest) {
		return None(PEP440), parts.prerelease(), nil
	}
	return None(PEP440).with(v.class, v.spelling()), parts.prerelease(), nil
}

func (v pep440Version) compared(op string) (Set, error) {
	own, base := string(v.public()), string(v.base()) // with the local builds; with everything of the number
	full := func(i Interval) Set { return full(PEP440, i) }
	switch op {
	case "==", "!=":
		if v.local != "" {
			own = string(v.key())
		}
		set := full(Interval{PEP440.before(own), PEP440.after(own)})
		if op == "!=" {
			return set.Complement(), nil
		}
		return set, nil
	case ">=":
		return full(Interval{PEP440.before(own), last}), nil
	case "<=":
		return full(Interval{first, PEP440.after(own)}), nil
	case "<":
		set := full(Interval{first, PEP440.before(own)})
		if !v.prerelease() { // excludes prereleases of its own number too
			for c := early; c < classes; c += 2 {
				set = set.put(c, []Interval{{first, PEP440.before(base)}})
			}
		}
		return set, nil
	case ">":
		return v.above(own, base), nil
	}
	if len(v.release) < 2 { // ~=
		return Set{}, errors.New("~= needs two numbers at least")
	}
	end := pep440Version{epoch: v.epoch, release: bumped(v.release[:len(v.release)-1])}
	return full(Interval{PEP440.before(own), PEP440.before(string(end.base()))}), nil
}

// above is what is newer, but no local build and, unless v is one, no post-release of
// its own number.
func (v pep440Version) above(own, base string) Set {
	set := full(PEP440, Interval{PEP440.after(own), last})
	for c := third; c < classes; c++ {
		if c >= fifth || v.post == "" {
			set = set.put(c, []Interval{{PEP440.after(base), last}})
		}
	}
	return set
}
