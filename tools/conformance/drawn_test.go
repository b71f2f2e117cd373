package conformance

import "strings"

// Versions and ranges as each kind of tool writes them, with some that it would not.

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
	v := g.one("8", "9", "11", "17", "17", "21", "25", "2") + g.one("", "", ".0.1", ".0.9", ".0.10", ".1", ".0.2.1", ".0.0.1")
	if g.chance(30) {
		v = g.one("0", "1", "17.0", "17.0.01", "11.0.0", "1.8.0")
	}
	if g.chance(3) {
		v += "-" + g.one("ea", "beta", "internal", "1", "01", "2", "a1", "rc", "EA")
	}
	if g.chance(2) {
		v += g.one("+9", "+10", "+35", "+1", "+0", "+9-LTS", "+9-2024.1", "+12-LTS")
	} else if g.chance(20) {
		v += g.one("+01", "+", "-LTS", "+-foo", "-ea+-x")
	}
	return v
}
