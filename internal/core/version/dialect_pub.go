package version

import (
	"errors"
	"strings"
)

// parsePub reads a Dart constraint: any, a caret, or comparisons and versions one
// after the other. Prereleases are in the order like everything else, but "<2.0.0"
// ends before those of 2.0.0; builds are told apart and come after what they build.
func parsePub(_ Scheme, raw string) (Set, error) {
	text := strings.TrimSpace(raw)
	if text == "any" {
		return All(Semver), nil
	}
	if rest, ok := strings.CutPrefix(text, "^"); ok {
		return pubCaret(strings.TrimSpace(rest))
	}
	r := pubRange{}
	for text != "" {
		op, rest := cutOperator(text, ">=", "<=", ">", "<")
		word := pubVersion(rest)
		v, err := readPub(word)
		if err != nil {
			return Set{}, err
		}
		r.add(op, v)
		text = strings.TrimSpace(rest[len(word):])
	}
	if r.min.key == "" && r.max.key == "" {
		return Set{}, errNumber
	}
	return r.set(), nil
}

// pubVersion is the version that the text begins with.
func pubVersion(text string) string {
	n := 0
	for n < len(text) && (digit(text[n]) || letter(text[n]) || strings.IndexByte(".-+", text[n]) >= 0) {
		n++
	}
	return text[:n]
}

// readPub reads a version as Dart does: three numbers, zeros before them allowed.
func readPub(raw string) (Version, error) {
	numbers, rest, err := numbersOf(raw)
	switch {
	case err != nil:
		return Version{}, err
	case len(numbers) < 3:
		return Version{}, errThree
	case len(numbers) > 3:
		return Version{}, errParts
	}
	tail, build, hasBuild := strings.Cut(rest, "+")
	pre, hasPre := strings.CutPrefix(tail, "-")
	switch {
	case !hasPre && tail != "":
		return Version{}, errHyphen
	case hasPre && !identifiers(pre, true):
		return Version{}, errPrerelease
	case hasBuild && !identifiers(build, true):
		return Version{}, errBuild
	}
	text := strings.Join(numbers, ".")
	for _, part := range []struct {
		mark string
		ids  string
	}{{"-", pre}, {"+", build}} {
		if part.ids != "" {
			text += part.mark + withoutLeading(part.ids)
		}
	}
	return readSemver(text)
}

// withoutLeading writes the numbers among identifiers without leading zeros.
func withoutLeading(ids string) string {
	parts := strings.Split(ids, ".")
	for i, p := range parts {
		if allDigits(p) {
			parts[i] = shown(p)
		}
	}
	return strings.Join(parts, ".")
}

// pubRange collects bounds; a missing one has no key.
type pubRange struct {
	min, max               Version
	includeMin, includeMax bool
}

func (r *pubRange) add(op string, v Version) {
	if op == "" || op[0] == '>' {
		included := op != ">"
		if r.min.key == "" || v.key > r.min.key || v.key == r.min.key && !included {
			r.min, r.includeMin = v, included
		}
	}
	if op == "" || op[0] == '<' {
		included := op != "<"
		if r.max.key == "" || v.key < r.max.key || v.key == r.max.key && !included {
			r.max, r.includeMax = v, included
		}
	}
}

func (r *pubRange) set() Set {
	i := Interval{first, last}
	if r.min.key != "" {
		i.From = Cut{key: r.min.key, scheme: Semver, after: !r.includeMin}
	}
	if r.max.key != "" {
		i.To = Cut{key: r.max.key, scheme: Semver, after: r.includeMax}
		if r.beforeItsPrereleases() {
			i.To = Semver.before(numberOf(r.max))
		}
	}
	return full(Semver, i)
}

// beforeItsPrereleases: an open upper bound leaves the prereleases of its own number
// out, unless the lower bound is one of them.
func (r *pubRange) beforeItsPrereleases() bool {
	if r.includeMax || r.max.prerelease || strings.Contains(r.max.text, "+") {
		return false
	}
	return r.min.key == "" || !r.min.prerelease || numberOf(r.min) != numberOf(r.max)
}

func pubCaret(rest string) (Set, error) {
	v, err := readPub(rest)
	if err != nil {
		return Set{}, errors.Join(errors.New("a caret stands alone before one version"), err)
	}
	numbers, _ := cutThree(v.key)
	end := numbers[:1]
	if numbers[0] == "0" {
		end = numbers[:2]
	}
	return full(Semver, Interval{Semver.before(v.key), Semver.before(semverNumbers(bumped(end)))}), nil
}
