package version

// What the dialects of semantic versions share: npm, Cargo and Terraform name versions in
// part, and admit prereleases by number.

// partial is a version whose numbers may be missing or a wildcard; numbers holds those before it.
type partial struct {
	numbers []string
	pre     string
}

func (p partial) full() bool { return len(p.numbers) == 3 }

// at is the cut before the version, missing numbers read as 0.
func (p partial) at() Cut {
	key := append(make([]byte, 0, 32), semverNumbers(p.numbers)...)
	if p.pre == "" {
		return Semver.before(string(append(key, semverFinal)))
	}
	return Semver.before(string(appendIdentifiers(append(key, semverPre), p.pre)))
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

// namedPrereleases is the prereleases in the interval that have the numbers of one that is named.
func namedPrereleases(i Interval, named []string) []Interval {
	var out []Interval
	for _, numbers := range named {
		block := Interval{Semver.before(numbers), Semver.after(numbers)}
		out = unite(out, intersect([]Interval{i}, []Interval{block}, early), early)
	}
	return out
}
