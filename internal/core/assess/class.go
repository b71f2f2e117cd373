package assess

import (
	"cmp"
	"slices"
)

// Class is a kind of findings: what it is called, how bad it is, how it is explained and
// drawn, and when it holds. Each stands in a file of its own and is listed below.
type Class struct {
	Name     string
	Order    int // worst first, among those of one severity
	Severity Severity
	Title    string
	Short    string // for narrow places
	Mark     string // the shape that the console draws
	Help     string // when it holds, in half a sentence
	check    func(*check)
}

// Severity is how bad a finding is.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

// Rank orders severities: error 3, warning 2, note 1, anything else 0.
func (s Severity) Rank() int {
	switch s {
	case Error:
		return 3
	case Warning:
		return 2
	case Note:
		return 1
	}
	return 0
}

// Classes lists every class, worst first.
func Classes() []*Class { return classes }

var classes = sorted(
	&toolchainMissing, &claimsDisagree, &boundViolated, &toolsIncompatible, &platformMismatch, &companionMissing, &interpreterMismatch, &interpreterDangling, &supportEnded, &versionUnknown, &rulesUndecided,
	&supportEnding, &pinMissing, &pinFloating, &overrideLingering, &fileUnreadable, &residueStale, &fileUnclaimed, &rulesMistaken, &ruleIdle, &defaultMismatch,
	&installationBroken, &installationUnneeded,
)

// blinding are the classes whose findings tell that something was not seen.
var blinding = []*Class{&fileUnreadable, &rulesMistaken, &rulesUndecided}

// sorted makes the order in which classes are listed decide nothing.
func sorted(list ...*Class) []*Class {
	slices.SortFunc(list, func(a, b *Class) int { return cmp.Or(b.Severity.Rank()-a.Severity.Rank(), a.Order-b.Order) })
	return list
}

// ClassNamed finds a class.
func ClassNamed(name string) (*Class, bool) {
	for _, c := range classes {
		if c.Name == name {
			return c, true
		}
	}
	return nil, false
}

// ClassNames are the names of all classes, worst first.
func ClassNames() []string {
	var out []string
	for _, c := range classes {
		out = append(out, c.Name)
	}
	return out
}
