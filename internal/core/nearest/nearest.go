// Package nearest finds the word that somebody meant who wrote another one: a tool, a key,
// a command. Every message that refuses a word goes through it, so that all of them help
// in the same way.
package nearest

import (
	"fmt"
	"slices"
	"strings"
)

// shown is how many words a message lists; of more it names the nearest alone, or the
// first of them.
const shown = 12

// To is the known word nearest to another one; false where none is so near that it can
// have been meant. Case, dashes and underscores do not count.
func To(word string, known []string) (string, bool) {
	folded := fold(word)
	best, least := "", allowed(folded)+1 // so many are too many
	for _, k := range known {
		d := distance(folded, fold(k), least+1)
		if d < least || best != "" && d == least && alike(folded, fold(k)) > alike(folded, fold(best)) {
			best, least = k, d
		}
	}
	if best != "" || len(folded) < 3 {
		return best, best != ""
	}
	begins := slices.IndexFunc(known, func(k string) bool { return strings.HasPrefix(fold(k), folded) })
	if begins < 0 {
		return "", false
	}
	return known[begins], true
}

// Hint is what a message says behind an unknown word: the nearest known one, or which are
// known.
func Hint(word string, known []string) string {
	if near, ok := To(word, known); ok {
		return fmt.Sprintf("did you mean %q?", near)
	}
	switch rest := len(known) - shown; {
	case len(known) == 0:
		return "none is known"
	case len(known) == 1:
		return "the one that is known is " + known[0]
	case rest > 2:
		return fmt.Sprintf("known are %s and %d others", strings.Join(known[:shown], ", "), rest)
	}
	return "known are " + Listed(known, "and")
}

// Listed joins words as a sentence does: a, b and c.
func Listed(words []string, last string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " " + last + " " + words[len(words)-1]
}

// alike is how many letters two words begin with in common.
func alike(a, b string) int {
	n := 0
	for n < len(a) && n < len(b) && a[n] == b[n] {
		n++
	}
	return n
}

func fold(word string) string {
	return strings.NewReplacer("-", "", "_", "", " ", "").Replace(strings.ToLower(word))
}

// allowed is how many letters may be wrong in a word: a third of it, three at most.
func allowed(word string) int { return min(max(len(word)/3, 1), 3) }

// distance counts the letters that have to be put in, taken out, changed or swapped with
// their neighbour to make one word of the other; at least most where it is no less.
func distance(a, b string, most int) int {
	if len(a)-len(b) >= most || len(b)-len(a) >= most {
		return most
	}
	before, last, row := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := range len(a) {
		row[0] = i + 1
		for j := range len(b) {
			cost := 1
			if a[i] == b[j] {
				cost = 0
			}
			row[j+1] = min(last[j]+cost, last[j+1]+1, row[j]+1)
			if i > 0 && j > 0 && a[i] == b[j-1] && a[i-1] == b[j] {
				row[j+1] = min(row[j+1], before[j-1]+1)
			}
		}
		before, last, row = last, row, before
	}
	return last[len(b)]
}
