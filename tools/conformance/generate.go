package main

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

// cut leaves numbers at the end of a version out, or puts a wildcard in their place.
func (g *generator) cut(v string) string {
	parts := strings.SplitN(strings.SplitN(v, "-", 2)[0], ".", 4)
	n := 1 + g.IntN(len(parts))
	short := strings.Join(parts[:n], ".")
	if n < len(parts) && g.chance(2) {
		short += g.one(".x", ".*", ".X", ".x.x", ".*.*")
	}
	return short
}

func semverText(g *generator) string {
	v := g.numbers(3, 3)
	if g.chance(12) {
		v = g.numbers(1, 4)
	}
	if g.chance(3) {
		v += "-" + identifiersText(g)
	}
	if g.chance(12) {
		v += "+" + identifiersText(g)
	}
	if g.chance(20) {
		v = g.one("v", "=", "v=", " ", "V") + v
	}
	return v
}

func identifiersText(g *generator) string {
	n := 1 + g.IntN(3)
	parts := make([]string, n)
	for i := range parts {
		parts[i] = g.one("alpha", "beta", "rc", "a", "b", "0", "1", "2", "10", "x", "rc1", "1a", "-", "a-b", "A", "Beta", "01", "dev")
	}
	return strings.Join(parts, ".")
}

const semverSigns = "0123456789.-+abx"

func npmRange(g *generator, draw func() string) string {
	var alternatives []string
	for range 1 + g.IntN(2)*g.IntN(3) {
		alternatives = append(alternatives, npmAlternative(g, draw))
	}
	return strings.Join(alternatives, g.one("||", " || ", "|| ", " ||"))
}

func npmAlternative(g *generator, draw func() string) string {
	partial := func() string {
		if v := draw(); !g.chance(3) {
			return v
		} else if !g.chance(6) {
			return g.cut(v)
		}
		return g.one("*", "x", "", "1.x.2", "x.1", "v1", "=2")
	}
	if g.chance(6) {
		return partial() + g.one(" - ", " - ", "  -  ", " -", "- ") + partial()
	}
	var list []string
	for range 1 + g.IntN(2)*g.IntN(2) {
		list = append(list, g.one("", "", "^", "^", "~", "~", ">", "<", ">=", "<=", ">=", "<", "=", "~>", "==", "^ ", "> ", "~ ", ">=v", "^v", "=v", "~=")+partial())
	}
	return strings.Join(list, g.one(" ", " ", "  ", ", "))
}

func cargoRange(g *generator, draw func() string) string {
	var list []string
	for range 1 + g.IntN(3) {
		v := draw()
		if g.chance(3) {
			v = g.cut(v)
		}
		if g.chance(20) {
			v = g.one("*", "x", "", "1.*.1")
		}
		list = append(list, g.one("", "", "^", "~", "=", ">", "<", ">=", "<=", ">= ", "= ", "^ ", "~>", "!=")+v)
	}
	return strings.Join(list, g.one(",", ", ", ", ", " , ", " "))
}

func hexRange(g *generator, draw func() string) string {
	text := ""
	for n := range 1 + g.IntN(3) {
		if n > 0 {
			text += g.one(" and ", " or ", " and ", " or ", " ", "and", " AND ", "  and  ")
		}
		v := draw()
		if g.chance(4) {
			v = g.cut(v)
		}
		text += g.one("", "~> ", "~>", ">= ", ">", "< ", "<=", "== ", "!= ", "! ", "=", "~> ") + v
	}
	return text
}

func terraformRange(g *generator, draw func() string) string {
	var list []string
	for range 1 + g.IntN(3) {
		v := draw()
		if g.chance(3) {
			v = g.cut(v)
		}
		list = append(list, g.one("", "~> ", "~>", ">= ", ">", "< ", "<=", "= ", "!= ", "== ", "~> ")+v)
	}
	return strings.Join(list, g.one(",", ", ", " , ", " "))
}

func terraformText(g *generator) string {
	v := g.numbers(1, 3)
	if g.chance(25) {
		v = g.numbers(4, 5)
	}
	if g.chance(3) {
		v += g.one("-", "-", "-", "", "--") + identifiersText(g)
	}
	if g.chance(15) {
		v += "+" + identifiersText(g)
	}
	if g.chance(20) {
		v = "v" + v
	}
	return v
}

func pythonText(g *generator) string {
	v := g.numbers(1, 4)
	if g.chance(25) {
		v = g.one("1!", "0!", "2!", "01!") + v
	}
	if g.chance(3) {
		v += g.one("", "", ".", "-", "_") + g.one("a", "b", "rc", "a", "b", "rc", "alpha", "beta", "c", "pre", "preview", "RC", "A") + g.one("", "", ".", "-") + g.one("0", "1", "2", "10", "01", "")
	}
	if g.chance(5) {
		v += g.one(".post1", ".post0", "-1", ".post2", "post1", ".rev1", "-r2", ".post", "-post-1", "_POST1")
	}
	if g.chance(5) {
		v += g.one(".dev1", ".dev0", "dev2", "-dev3", ".dev", "_dev_1")
	}
	if g.chance(8) {
		v += g.one("+local", "+1", "+a.1", "+ubuntu-1", "+A_b", "+01", "+1a")
	}
	if g.chance(30) {
		v = g.one("v", "V", " ", "v.") + v
	}
	return v
}

const pythonSigns = "0123456789.-+abrcdevpost!_*"

func pythonRange(g *generator, draw func() string) string {
	var list []string
	for range 1 + g.IntN(3) {
		v := draw()
		op := g.one("~=", "==", "!=", "<=", ">=", "<", ">", "===", ">=", "<", ">= ", " == ", "=", "", "~> ")
		if strings.HasPrefix(strings.TrimSpace(op), "=") || op == "!=" {
			if g.chance(3) {
				v = strings.SplitN(v, "+", 2)[0] + ".*"
			}
		} else if g.chance(2) {
			v = strings.SplitN(v, "+", 2)[0]
		}
		list = append(list, op+v)
	}
	return strings.Join(list, g.one(",", ", ", " , ", ",", ", ,"))
}

func mavenText(g *generator) string {
	v := g.numbers(1, 4)
	words := func() string {
		return g.one("alpha", "beta", "milestone", "rc", "cr", "snapshot", "SNAPSHOT", "ga", "final", "Final", "RELEASE", "sp", "SP1", "a", "b", "m", "a1", "b2", "M3", "RC1", "rc2", "redhat", "jre", "android", "foo", "x", "incubating", "20240101")
	}
	for range g.IntN(3) * g.IntN(2) {
		v += g.one("-", "-", "-", ".", "", "_", "--", "..") + words()
		if g.chance(3) {
			v += g.one("-", ".", "", "-") + g.number()
		}
	}
	if g.chance(40) {
		v = g.one("v", "-", ".", "x") + v
	}
	return v
}

const mavenSigns = "0123456789.-abmrcsp"

func mavenRange(g *generator, draw func() string) string {
	if g.chance(10) {
		return draw()
	}
	text := ""
	for n := range 1 + g.IntN(2)*g.IntN(3) {
		if n > 0 {
			text += g.one(",", ", ", " ,", "")
		}
		switch g.IntN(5) {
		case 0:
			text += "[" + draw() + "]"
		case 1:
			text += g.one("(,", "[,", "( , ") + draw() + g.one("]", ")")
		case 2:
			text += g.one("[", "(") + draw() + g.one(",)", ",]", ", )")
		default:
			text += g.one("[", "(") + draw() + g.one(",", ", ") + draw() + g.one("]", ")")
		}
	}
	return text
}

func rubyText(g *generator) string {
	v := g.numbers(1, 4)
	if g.chance(3) {
		v += g.one(".", "", "-", ".") + g.one("a", "b", "pre", "rc", "rc1", "beta.2", "alpha", "pre.1", "a0", "A", "rc.0.1", "x.0.y")
	}
	if g.chance(40) {
		v = g.one("v", " ", ".", "") + v
	}
	return v
}

const rubySigns = "0123456789.-abprc"

func rubyRange(g *generator, draw func() string) string {
	var list []string
	for range 1 + g.IntN(3)*g.IntN(2) {
		list = append(list, g.one("", "~> ", "~>", ">= ", ">", "< ", "<=", "= ", "!= ", "== ", "~> ", ">=  ")+draw())
	}
	return strings.Join(list, g.one(",", ", ", " , "))
}

func composerText(g *generator) string {
	v := g.numbers(1, 4)
	switch g.IntN(30) {
	case 0:
		return g.one("dev-main", "dev-master", "master", "trunk", "dev-feature/x", "default", "DEV-main", "1.x-dev", "1.2.x-dev", "2.*-dev", "dev-")
	case 1:
		return g.one("2024.01.15", "20240115", "2024-01-15", "20240115-1203", "2024.1.5", "202401151", "2024.01.15-beta", "2010-01-02.5", "2010.01.02.2")
	}
	if g.chance(3) {
		v += g.one("-", "", ".", "_", "-") + g.one("alpha", "beta", "RC", "rc", "a", "b", "patch", "pl", "p", "stable", "dev", "beta", "alpha") + g.one("", "1", "2", ".1", "-1", "10", "1.2")
	}
	if g.chance(8) {
		v += g.one("-dev", ".dev", "dev", ".x-dev")
	}
	if g.chance(20) {
		v += g.one("+build", "@stable", "@beta", " as 1.0", "+a.b")
	}
	if g.chance(20) {
		v = g.one("v", "V") + v
	}
	return v
}

const composerSigns = "0123456789.-abpRCdevx"

func composerRange(g *generator, draw func() string) string {
	text := ""
	for n := range 1 + g.IntN(2)*g.IntN(3) {
		if n > 0 {
			text += g.one("|", "||", " || ", " | ")
		}
		for m := range 1 + g.IntN(2)*g.IntN(2) {
			if m > 0 {
				text += g.one(" ", ",", ", ", " , ", "  ")
			}
			text += composerOne(g, draw)
		}
	}
	return text
}

func composerOne(g *generator, draw func() string) string {
	v := draw()
	if g.chance(3) {
		v = g.cut(v)
	}
	switch g.IntN(12) {
	case 0:
		return v + g.one(" - ", " - ", "  -  ", "-") + draw()
	case 1:
		return g.one("*", "v*", "x", "*.*", "@dev", "@stable", "1.*", "1.2.x", "0.*", "0.0.*", "v1.x", "^1.x-dev", "~1.x-dev", "dev-main#abc")
	}
	text := g.one("", "^", "^", "~", "~", ">", "<", ">=", "<=", "!=", "=", "==", "<>", ">= ", "~>", "< ") + v
	if g.chance(15) {
		text += g.one("@dev", "@stable", "@beta", "@RC", "@alpha")
	}
	return text
}

func debianText(g *generator) string {
	v := g.numbers(1, 4)
	if g.chance(10) {
		v = g.one("1:", "2:", "0:", "01:", "a:", ":", "4294967296:") + v
	}
	if g.chance(3) {
		v += g.one("~", "+", "~~", ".", "", "-") + g.one("rc1", "beta", "dfsg", "git20240101", "a", "deb12u1", "alpha1", "~", "Z", "z")
	}
	if g.chance(2) {
		v += "-" + g.one("1", "2", "1ubuntu1", "0", "1+deb12u1", "1~bpo12+1", "0.1", "")
	}
	return v
}

const debianSigns = "0123456789.-+~:abZ_"

func goText(g *generator) string {
	v := g.one("1", "1", "1", "1", "2", "01") + "." + g.one("0", "2", "9", "19", "20", "21", "22", "23", "100", "021")
	switch g.IntN(6) {
	case 0:
		v += g.one("rc", "beta", "alpha", "RC", "x", "") + g.one("", "0", "1", "2", "10", "01")
	case 1, 2, 3:
		v += "." + g.number()
	case 4:
		v = g.numbers(1, 4)
	}
	if g.chance(15) {
		v += g.one("-custom", "-x.y", "+auto", " linux")
	}
	if g.chance(6) {
		v = "go" + v
	}
	return v
}

func javaText(g *generator) string {
	v := g.one("8", "9", "11", "17", "21", "2", "0", "1") + g.one("", "", ".0.1", ".0.9", ".0.10", ".1", ".0.2.1", ".0.0.1", ".0", ".0.01")
	if g.chance(3) {
		v += "-" + g.one("ea", "beta", "internal", "1", "01", "2", "a1", "rc", "EA")
	}
	if g.chance(2) {
		v += g.one("+9", "+10", "+35", "+1", "+0", "+01", "+", "+9-LTS", "-LTS", "+-foo", "+9-2024.1", "-ea+-x")
	}
	return v
}
