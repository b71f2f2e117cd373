package main

import (
	"fmt"
	"math/rand/v2"
	"path"
	"slices"
	"strings"
)

// contents are texts that want to hurt whoever parses them, in many grammars.
func contents() map[string]string {
	r := strings.Repeat
	return map[string]string{
		"open brackets": r("[", 300_000), "open braces": r("{", 300_000), "open parentheses": "a=" + r("(", 300_000), "open objects": r(`{"a":`, 100_000),
		"brackets behind a comment": "// \"\n# '\n" + r("[", 300_000), "brackets behind a block": "/* \" */" + r("[", 300_000), "brackets in a value": "a = " + r("[", 300_000),
		"negations": "a=" + r("!", 300_000), "minus signs": "a=" + r("-", 300_000), "sums": "a=1" + r("+1", 200_000), "sums over lines": "a=(1" + r("\n+1", 200_000) + ")",
		"calls": "a=" + r("f(", 200_000), "conditions": "a=" + r("a?b:", 200_000), "texts in texts": "a=" + r("\"${", 100_000), "here-documents": r("a=<<E\n", 200_000),
		"template conditions": "a=\"" + r("%{if a}", 50_000) + "\"", "dotted keys": r("a.", 1_000_000) + "a=1\n", "dotted tables": "[" + r("a.", 1_000_000) + "a]\n",
		"endless tables": numbered("[t#]\na=1\n", 50_000), "endless keys": numbered("a#=1\n", 100_000), "endless values": "[" + r("1,", 1_000_000) + "1]",
		"endless lines": r("a: 1\n", 300_000), "endless elements": "<a>" + r("<b/>", 500_000) + "</a>", "deep elements": r("<a>", 200_000), "endless attributes": "<a " + r("b='c' ", 100_000) + "/>",
		"aliases that multiply": "a: &a [x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b,*b,*b]\nd: &d [*c,*c,*c,*c,*c,*c,*c,*c,*c]\ne: &e [*d,*d,*d,*d,*d,*d,*d,*d,*d]\nf: [*e,*e,*e,*e,*e,*e,*e,*e,*e]\n",
		"an alias in itself":    "a: &a\n  b: *a\n", "deep lists": r("- ", 200_000) + "a\n", "deep flow": "a: " + r("[", 200_000), "merges": "a: &a\n  <<: *a\n",
		"entities": `<!DOCTYPE p [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]><project><version>&b;</version></project>`, "an outside entity": `<!DOCTYPE p [<!ENTITY x SYSTEM "file:///etc/passwd">]><project>&x;</project>`,
		"nothing": "", "a zero byte": "\x00", "zero bytes": r("\x00", 100_000), "bad text": "\xff\xfe\xfd" + r("\xc3\x28", 1000), "half of UTF-16": "\xff\xfe{\x00\"", "one long line": r("a", 1_000_000), "quotes": r(`"`, 300_000),
		"digits": r("9", 300_000), "dots": r("1.", 100_000), "escapes": r(`"\u`, 50_000), "control characters": "\x1b[31m\x1b]0;x\a\r\n", "many claims": r("node 22\n", 5_000), "endless demands": "{\"packages\":{" + numbered(`"node_modules/k#":{"engines":{"node":"1.2.# || 9.1.#"}},`, 10_000) + `"":{}}}`,
		"a matrix": "jobs:\n  a:\n    strategy:\n      matrix:\n        node: [" + r("20, ", 50_000) + "22]\n", "variables in a circle": "variables: {A: $B$B, B: $A$A}\nimage: node:$A\n", "endless images": r("FROM node:20\n", 50_000),
	}
}

// targets are files in which such texts are read.
var targets = []string{"package.json", "package-lock.json", "pnpm-lock.yaml", "pyproject.toml", "Cargo.toml", "pom.xml", "main.tf", "go.mod", ".github/workflows/a.yml", "Dockerfile", "gradle.properties",
	"setup.cfg", "build.gradle", "CMakeLists.txt", "Gemfile.lock", ".pins", ".node-version", ".pins.toml", ".vscode/settings.json", "compose.yaml", ".idea/misc.xml", "Package.swift", "mix.exs", "rebar.config", ".config/pins.json"}

// ownRules are rules of a repository against itself.
var ownRules = map[string]string{
	"many globs":          "leave-out:\n" + strings.Repeat("  - '**/a/**/b/**/c/**/d/**/e/**/f/**/g'\n", 1_000),
	"long globs":          "leave-out: ['" + strings.Repeat("**/a/", 190) + "b']\n",
	"stars":               "leave-out: ['" + strings.Repeat("*a", 400) + "b']\n",
	"descendants":         "claims: [{files: [big.json], tool: node, select: '$..*..*..*..*..*..*'}]\n",
	"filters":             "claims: [{files: [big.json], tool: node, select: '$..[?@..[?@..a]]'}]\n",
	"paths":               "claims: [{files: [big.xml], tool: node, select: '//*//*//*//*//*//*'}]\n",
	"counting paths":      "claims: [{files: [big.xml], tool: node, select: '//*[count(//*[count(//*) > 1]) > 1]'}]\n",
	"large patterns":      "claims: [{files: [big.txt], tool: node, pattern: '(" + strings.Repeat("(?:(?:a{10}){10}){10}", 40) + ")'}]\n",
	"patterns that look":  "claims: [{files: [big.txt], tool: node, pattern: '(?s)(a)(?:.*b)?'}]\n",
	"every file":          "claims: [{files: ['**'], tool: node, format: raw, pattern: '(a)(?:.*b)?'}]\n",
	"deep rules":          "tags: " + strings.Repeat("[", 10_000),
	"aliases":             "claims: &a [{files: [x], tool: node}]\nleave-out: *a\n",
	"rules of all kinds":  "claims: 3\nleave-out: {a: b}\nunpinned-is-fine: [[[]]]\nplanned-end: never\nbaselines: {}\n",
	"outside":             "claims: [{files: [../../../etc/passwd], tool: node, pattern: '(root)'}]\nleave-out: ['/..']\n",
	"many claims of many": "claims:\n" + strings.Repeat("  - {files: ['**'], tool: node, format: raw, pattern: '(a+)+b'}\n", 190),
}

// big are files that rules are set on.
var big = map[string]string{"big.json": strings.Repeat(`{"a":`, 150) + "1" + strings.Repeat("}", 150), "big.xml": "<r>" + strings.Repeat("<a/>", 5_000) + "</r>", "big.txt": strings.Repeat("a", 2_000_000)}

func numbered(text string, n int) string {
	var b strings.Builder
	for i := range n {
		b.WriteString(strings.ReplaceAll(text, "#", fmt.Sprint(i)))
	}
	return b.String()
}

// hostileFiles are the files of n hostile repositories, each with a name that says what it tries.
func hostileFiles(n int, random *rand.Rand) map[string]map[string]string {
	out := map[string]map[string]string{}
	texts := contents()
	for what, rules := range ownRules {
		files := map[string]string{".wexo.yaml": rules}
		for name, content := range big {
			files[name] = content
			files[path.Join("deep/er/still", name)] = content
		}
		out["rules: "+what] = files
	}
	var names []string
	for what := range texts {
		names = append(names, what)
	}
	slices.Sort(names)
	for i := 0; len(out) < n; i++ { // every text in some of the files, then drawn ones
		what := names[i%len(names)]
		files := map[string]string{}
		for k := range 3 {
			files[targets[(i/len(names)*3+i+k*7)%len(targets)]] = texts[what]
		}
		if i >= 2*len(names) {
			files[targets[random.IntN(len(targets))]] = mutated(texts[what], texts[names[random.IntN(len(names))]], random)
		}
		out[fmt.Sprintf("text: %s %d", what, i)] = files
	}
	return out
}

// mutated is one text cut into another, with some bytes changed.
func mutated(a, b string, random *rand.Rand) string {
	cut := func(s string) string {
		if len(s) == 0 {
			return s
		}
		from := random.IntN(len(s))
		return s[from:min(len(s), from+random.IntN(100_000)+1)]
	}
	out := []byte(cut(a) + cut(b) + cut(a))
	for range min(len(out), 50) {
		out[random.IntN(len(out))] = byte(random.Uint32())
	}
	return string(out)
}
