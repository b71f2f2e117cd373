package version

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
)

var (
	setupOperator = regexp.MustCompile(`([\^~<>=]+)\s+`)
	// setupPrerelease is a version that comes before a release; its group is the release.
	setupPrerelease = regexp.MustCompile(`^v?(\d+\.\d+\.\d+)(?:-0|-?[a-wyz]\w*(?:[.\d]+)?)$`)
	setupHyphen     = regexp.MustCompile(`^(\S+)\s+-\s+(\S+)$`)
)

var errSetupWord = errors.New("it holds a word that is no version")

// parseSetup reads the ranges that the setup steps of pipelines take, for tools of any
// scheme: comparisons, carets, tildes, x for any number, and || between alternatives. Parts
// parted by spaces or commas must all hold. Prereleases are in the range only where a bound
// of it names one.
func parseSetup(s Scheme, raw string) (Set, error) {
	out := None(s)
	for alternative := range strings.SplitSeq(raw, "||") {
		set, err := setupAlternative(s, strings.TrimSpace(alternative))
		if err != nil {
			return Set{}, err
		}
		out = out.Unite(set)
	}
	return out, nil
}

func setupAlternative(s Scheme, text string) (Set, error) {
	parts := strings.FieldsFunc(setupOperator.ReplaceAllString(text, "$1"), func(c rune) bool { return c == ' ' || c == ',' || c == '\t' })
	if m := setupHyphen.FindStringSubmatch(text); m != nil {
		parts = []string{">=" + m[1], "<=" + m[2]}
	}
	if len(parts) == 0 {
		return Set{}, errors.New("it is empty")
	}
	releases, early := Releases(s), None(s)
	for _, part := range parts { // what names a prerelease admits those of the same release
		_, rest := cutOperator(part, setupOperators...)
		if m := setupPrerelease.FindStringSubmatch(rest); m != nil {
			if release, err := parsePlain(s, m[1]); err == nil {
				early = early.Unite(release.WithPrereleases())
			}
		}
	}
	for _, part := range parts {
		op, rest := cutOperator(part, setupOperators...)
		rest, all := strings.CutSuffix(rest, "-0") // with all that comes before the release
		one, err := setupCompared(s, op, rest)
		if err != nil {
			return Set{}, err
		}
		releases = releases.Intersect(one)
		early = early.Intersect(one.Unite(setupBefore(s, op, rest, all)))
	}
	return releases.Unite(early), nil
}

// setupOperators are what may stand before a version, the longer ones first.
var setupOperators = []string{">=", "<=", "==", "~>", "^", "~", ">", "<", "="}

// setupBefore is the prereleases that an operator leaves beside what it compares releases with:
// those below an upper end, or where all are asked for those of the release that is named.
func setupBefore(s Scheme, op, text string, all bool) Set {
	from, err := Minimum(s, strings.TrimLeft(text, "v"))
	release, other := parsePlain(s, text)
	switch {
	case err != nil || other != nil:
		return None(s)
	case op == "<":
		return from.Complement()
	case op == "<=":
		return from.Complement().Unite(release.WithPrereleases())
	case all:
		return release.WithPrereleases()
	}
	return None(s)
}

// setupCompared is the versions that stand to a version, or to all that a part of one
// stands for, as the operator says.
func setupCompared(s Scheme, op, text string) (Set, error) {
	if text == "" || strings.ContainsAny(text, "^~<>=|") {
		return Set{}, errOperator
	}
	if op == "" && (text == "*" || text == "x" || text == "X") {
		return Releases(s), nil
	}
	family, err := parsePlain(s, text)
	if err != nil {
		return Set{}, errSetupWord
	}
	if op == "" || op == "=" || op == "==" {
		return family, nil
	}
	numbers := strings.Split(strings.TrimLeft(text, "v"), ".")
	for len(numbers) > 1 && (numbers[len(numbers)-1] == "x" || numbers[len(numbers)-1] == "X" || numbers[len(numbers)-1] == "*") {
		numbers = numbers[:len(numbers)-1]
	}
	from, err := Minimum(s, strings.Join(numbers, "."))
	if err != nil {
		return Set{}, err
	}
	below := from.Complement()
	switch op {
	case ">=":
		return from, nil
	case "<":
		return below.WithoutPrereleases(), nil
	case ">":
		return from.Minus(family), nil
	case "<=":
		return below.Unite(family).WithoutPrereleases().Unite(family), nil
	}
	kept := 1 // how many numbers may not change
	switch {
	case op != "^" && len(numbers) > 1:
		kept = 2
	case op == "^":
		for kept < len(numbers) && strings.Trim(numbers[kept-1], "0") == "" {
			kept++
		}
	}
	whole, err := parsePlain(s, strings.Join(numbers[:kept], ".")+".x")
	if err != nil {
		return Set{}, fmt.Errorf("%q has no numbers to hold on to", text)
	}
	return from.Intersect(whole.Unite(family)), nil
}
