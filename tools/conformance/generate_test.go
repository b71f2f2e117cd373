package conformance

import (
	"math/rand/v2"
	"strings"
)

// generator makes questions: realistic texts, changed a little, so that most are near
// to each other and some are junk.
type generator struct{ *rand.Rand }

func (g *generator) one(list ...string) string { return list[g.IntN(len(list))] }

// chance is true once in n times.
func (g *generator) chance(n int) bool { return g.IntN(n) == 0 }

// number is mostly small, sometimes of several digits, now and then huge or padded.
func (g *generator) number() string {
	switch g.IntN(40) {
	case 0:
		return g.one("9007199254740991", "9007199254740992", "18446744073709551615", "18446744073709551616", "9223372036854775807", "9223372036854775808",
			"99999999999999999999999999", "2147483648", "100000", "9999999")
	case 1:
		return g.one("00", "01", "007", "010")
	case 2, 3, 4, 5:
		return g.one("10", "11", "12", "18", "20", "21", "22", "99", "100", "2024", "292")
	}
	return g.one("0", "0", "0", "1", "1", "1", "2", "2", "3", "4", "9")
}

// numbers are between low and high numbers with points between them.
func (g *generator) numbers(low, high int) string {
	n := low + g.IntN(high-low+1)
	parts := make([]string, n)
	for i := range parts {
		parts[i] = g.number()
	}
	return strings.Join(parts, ".")
}

// changed is the text with a small change: a sign put in, left out or doubled, a number replaced.
func (g *generator) changed(text, alphabet string) string {
	if text == "" {
		return string(alphabet[g.IntN(len(alphabet))])
	}
	at := g.IntN(len(text))
	switch g.IntN(6) {
	case 0:
		return text[:at] + string(alphabet[g.IntN(len(alphabet))]) + text[at:]
	case 1:
		return text[:at] + text[at+1:]
	case 2:
		return text[:at] + string(alphabet[g.IntN(len(alphabet))]) + text[at+1:]
	case 3:
		return text[:at] + text[at:at+1] + text[at:]
	}
	end := at // a run of digits
	for end < len(text) && text[end] >= '0' && text[end] <= '9' {
		end++
	}
	return text[:at] + g.number() + text[end:]
}

// near is a version next to another: mostly itself a little changed.
func (g *generator) near(text, alphabet string, fresh func() string) string {
	switch g.IntN(10) {
	case 0:
		return text
	case 1, 2, 3:
		return fresh()
	case 4:
		return g.changed(g.changed(text, alphabet), alphabet)
	}
	return g.changed(text, alphabet)
}

// orders asks for the order of two versions.
func orders(fresh func(g *generator) string, alphabet string) func(g *generator) question {
	return func(g *generator) question {
		a := fresh(g)
		if g.chance(30) {
			a = g.changed(a, alphabet)
		}
		return question{"order", a, g.near(a, alphabet, func() string { return fresh(g) })}
	}
}

// ranges asks whether a version is in a range made of versions near to it.
func ranges(fresh func(g *generator) string, shape func(g *generator, draw func() string) string, alphabet, junk string) func(g *generator) question {
	return func(g *generator) question {
		v := fresh(g)
		draw := func() string { return g.near(v, alphabet, func() string { return fresh(g) }) }
		text := shape(g, draw)
		if g.chance(25) {
			text = g.changed(text, junk)
		}
		if g.chance(40) {
			v = g.changed(v, junk)
		}
		return question{"range", text, v}
	}
}
