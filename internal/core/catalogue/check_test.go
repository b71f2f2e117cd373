package catalogue_test

import (
	"errors"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
)

// dibber is a tool's file that is right; mistakes are added behind it, from line 5 on.
const dibber = "tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\n"

// TestMistakesInAToolsFile: each is told with the line that has to be changed.
func TestMistakesInAToolsFile(t *testing.T) {
	for _, c := range []struct{ data, says string }{
		{"", "1: the file is empty; a tool has at least tool, title, scheme and dialect"},
		{"tool: [\n", "1: broken YAML: did not find expected node content"},
		{"- dibber\n", "1: a tool's file should be a mapping, and it is a list"},
		{"tool: dibber\nscheme: semver\ndialect: plain\n", "1: a tool's file should have title"},
		{"tool: Dib ber\ntitle: Dibber\nscheme: semver\ndialect: plain\n", `1: "Dib ber" is no name of a tool; it has lower-case letters, digits and dashes`},
		{"tool: dibber\ntitle: Dibber\nscheme: semvre\ndialect: plain\n", `3: unknown scheme "semvre"; did you mean "semver"?`},
		{"tool: dibber\ntitle: Dibber\nscheme: roman\ndialect: plain\n", `3: unknown scheme "roman"; known are composer, debian, erlang, go, java, maven, numeric, pep440, rubygems and semver`},
		{"tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plan\n", `4: unknown dialect "plan"; did you mean "plain"?`},
		{dibber + "colour: green\n", `5: unknown key "colour" in a tool's file; known are`},
		{dibber + "name: [a]\n", `5: unknown key "name" in a tool's file; did you mean "names"?`},
		{dibber + "names: digger\n", `5: names should be a list, and it is "digger"`},
		{dibber + "levels: perhaps\n", `5: levels should be true or false, and it is "perhaps"`},
		{dibber + "patches-below: many\n", `5: patches-below should be a number, and it is "many"`},
		{dibber + "title: Digger\n", `5: "title" stands twice in a tool's file`},
		{dibber + "names: [dib, dibber]\n", `5: the name "dibber" already belongs to Dibber (tools/dibber.yaml)`},
		{dibber + "setup-dialect: latin\n", `5: unknown dialect "latin"; known are`},
		{dibber + "setup-dialect: pep440\n", "5: the dialect pep440 is for pep440 versions, not semver"},
		{dibber + "bundled-with: spade\n", `5: Dibber is bundled with "spade", and no file describes such a tool`},
		{dibber + "bundled-with: dibber\n", "5: Dibber cannot be bundled with itself"},
		{dibber + "fetches: {from: never}\n", `5: fetches from "never", which is no version`},
		{dibber + "fetches: {variable: DIBBER}\n", "5: fetches should say from which version on, or that proxies do"},
		{dibber + "dropped: [{below: '7'}]\n", `5: dropped should say below which level ("7"), and by which version ("")`},
		{dibber + "built-against:\n  otp: spade\n", `6: the variant otp of Dibber is built against "spade", and no file describes such a tool`},
		{dibber + "aliases:\n  latest: newest\n  green: greenest\n", `7: the name "green" stands for "greenest"; it can stand for newest or newest-long-term`},
		{dibber + "uses: [ok.toml]\nclaims:\n  - {files: ['dib*ber.json'], format: json, role: pin}\n", `7: the file pattern "dib*ber.json" can never match: a star stands before`},
		{dibber + "uses: ['[ab].toml']\n", `5: the file pattern "[ab].toml" can never match`},
		{dibber + "uses: [beds/]\n", `5: the file pattern "beds/" can never match`},
		{dibber + "claims:\n  - {files: [x], format: json, role: pin, dialect: plain}\n  - files: [x]\n    format: json\n    role: pin\n    dialect: latin\n", `10: unknown dialect "latin"`},
		{dibber + "claims:\n  - files: [x]\n    format: json\n    role: pin\n    dialect: pep440\n", "9: the dialect pep440 is for pep440 versions, not semver"},
		{dibber + "claims:\n  - {files: [x], format: json, role: pim}\n", `6: unknown role "pim"; did you mean "pin"?`},
		{dibber + "claims:\n  - {files: [x], format: json}\n", "6: a claim should have a role: pin, bound, wiring, setup, tested, component or residue"},
		{dibber + "claims:\n  - {format: json, role: pin}\n", "6: a pin claim names no files"},
		{dibber + "claims:\n  - {files: [x], role: pin}\n", "6: a pin claim should say in format how its files are read"},
		{dibber + "claims:\n  - {files: [x], format: json, role: pin, certainty: sure}\n", `6: unknown certainty "sure"; known are high, medium and low`},
		{dibber + "claims:\n  - {files: [x], format: json, role: pin, spell: '$1.$2'}\n", "6: a claim spells a text without a pattern"},
		{dibber + "claims:\n  - {files: [x], format: raw, role: pin, pattern: '('}\n", "6: pattern: '(' is no regular expression: missing closing ): `(`"},
		{dibber + "installation:\n  executables: ['dib[']\n", `6: "dib[" is no pattern of a file's name`},
		{dibber + "installation:\n  version:\n    - {file: x, pattern: '('}\n", "7: pattern: '(' is no regular expression"},
		{dibber + "installation:\n  version:\n    - {file: x, pattern: '\\d+'}\n", `7: the pattern '\d+' should have a group around the version`},
		{dibber + "installation:\n  version:\n    - {file: x}\n", "7: a source of the version should have a pattern"},
		{dibber + "installation:\n  version:\n    - {itself: true, pattern: 'v(\\d+)'}\n", "7: a pattern that is searched for in executables begins with plain text"},
		{dibber + "steps:\n  - {uses: setup-x, input: x}\n  - {uses: setup-dibber}\n", "7: a step needs the name it is used by, and an input or reference: true"},
		{dibber + "steps:\n  - {input: dibber}\n", "6: a step needs the name"},
		{dibber + "steps:\n  - {uses: setup-dibber, input: x, dialect: latin}\n", `6: unknown dialect "latin"`},
		{dibber + "spellings:\n  - {pattern: 'x', means: y, dialect: latin}\n", `6: unknown dialect "latin"`},
		{dibber + "frameworks:\n  - {name: trowel, scheme: roman}\n", `6: framework trowel: unknown scheme "roman"`},
		{dibber + "frameworks:\n  - {name: trowel}\n  - {name: trowel}\n", `7: the framework "trowel" is already described by Dibber`},
		{dibber + "lines:\n  - {line: \"1\", released: soon}\n", `6: released: "soon" is not a date such as 2026-11-16`},
		{dibber + "lines:\n  - {line: \"1\"}\n", `6: line "1" has no release date`},
		{dibber + "lines:\n  - {line: one, released: 2026-01-01}\n", `6: line "one" is no version`},
		{dibber + "lines:\n  - line: \"1\"\n    released: 2026-01-01\n    end: 2025-01-01\n", `8: line "1" was released on 2026-01-01, after its end on 2025-01-01`},
		{dibber + "lines:\n  - line: \"1\"\n    released: 2026-01-01\n    long-term: 2025-01-01\n", `8: line "1" was released on 2026-01-01, after its long-term on 2025-01-01`},
		{dibber + "lines:\n  - {line: \"1\", released: 2026-01-01, newest: 2.0.0}\n", `6: line "1" has 2.0.0 as its newest release, which does not belong to it`},
		{dibber + "lines:\n  - {line: \"1\", released: 2026-01-01}\n  - {line: \"1\", released: 2026-02-01}\n", `6: line "1" stands twice`},
		{dibber + "ends: never\n", "5: ends should be second-next-release; support says more"},
		{dibber + "support: {newest: 2, after: soon}\n", `5: after: "soon" is no time such as 90d or 6mo`},
		{dibber + "support: {newest: 1, in-full: 2}\n", "5: more lines are in full support (2) than are supported (1)"},
	} {
		_, err := catalogue.Load(fstest.MapFS{"tools/dibber.yaml": {Data: []byte(c.data)}})
		assert.ErrorContains(t, err, "tools/dibber.yaml:"+c.says[:1], c.data)
		assert.ErrorContains(t, err, c.says, c.data)
		var one catalogue.Problem
		assert.True(t, errors.As(err, &one), c.data)
	}
}

// TestANameThatIsTaken: by a tool of another file, of another folder too.
func TestANameThatIsTaken(t *testing.T) {
	mine := catalogue.Folder{FS: fstest.MapFS{"tools/dibber.yaml": {Data: []byte(dibber + "names:\n  - dib\n  - Golang\n")}}, Name: "garden"}
	_, err := catalogue.Load(catalogue.Shipped(), mine)
	assert.EqualError(t, err, `garden/tools/dibber.yaml:7: the name "golang" already belongs to Go (tools/go.yaml)`)
}

// TestSupportThatFollowsFromLaterLines: how many lines are supported, how many of them in
// full, and how long after the next one support goes on.
func TestSupportThatFollowsFromLaterLines(t *testing.T) {
	const lines = "lines:\n  - {line: \"1\", released: 2020-01-01}\n  - {line: \"2\", released: 2021-01-01}\n  - {line: \"3\", released: 2022-01-31}\n" +
		"  - {line: \"4\", released: 2023-01-01, end: 2030-01-01}\n  - {line: \"5\", released: 2024-01-01}\n"
	for _, c := range []struct {
		support string
		ends    [5]string
		awaits  [5]int
	}{
		{"", [5]string{"", "", "", "2030-01-01", ""}, [5]int{}},
		{"support: {newest: 1}\n", [5]string{"2021-01-01", "2022-01-31", "2023-01-01", "2030-01-01", ""}, [5]int{4: 1}},
		{"support: {newest: 3}\n", [5]string{"2023-01-01", "2024-01-01", "", "2030-01-01", ""}, [5]int{2: 1, 4: 3}},
		{"support: {newest: 2, after: 90d}\n", [5]string{"2022-05-01", "2023-04-01", "2024-03-31", "2030-01-01", ""}, [5]int{4: 2}},
		{"support: {newest: 1, after: 6mo}\n", [5]string{"2021-07-01", "2022-07-31", "2023-07-01", "2030-01-01", ""}, [5]int{4: 1}},
		{"ends: second-next-release\n", [5]string{"2022-01-31", "2023-01-01", "2024-01-01", "2030-01-01", ""}, [5]int{4: 2}},
	} {
		known, err := catalogue.Load(fstest.MapFS{"tools/dibber.yaml": {Data: []byte(dibber + c.support + lines)}})
		require.NoError(t, err, c.support)
		for i, l := range known.Tools()[0].Lines {
			end := ""
			if !l.End.IsZero() {
				end = l.End.Format(time.DateOnly)
			}
			assert.Equal(t, c.ends[i], end, "%s: line %s", c.support, l.Line)
			assert.Equal(t, c.awaits[i], l.Awaits(), "%s: line %s", c.support, l.Line)
		}
	}
	known, err := catalogue.Load(fstest.MapFS{"tools/dibber.yaml": {Data: []byte(dibber + "support: {newest: 4, in-full: 2}\n" + lines)}})
	require.NoError(t, err)
	for day, want := range map[string][5]catalogue.Phase{
		"2021-12-31": {catalogue.Current, catalogue.Current, catalogue.Upcoming, catalogue.Upcoming, catalogue.Upcoming},
		"2022-01-31": {catalogue.Maintenance, catalogue.Current, catalogue.Current, catalogue.Upcoming, catalogue.Upcoming},
		"2024-01-02": {catalogue.Ended, catalogue.Maintenance, catalogue.Maintenance, catalogue.Current, catalogue.Current},
	} {
		for i, l := range known.Tools()[0].Lines {
			assert.Equal(t, want[i], l.PhaseOn(on(day)), "line %s on %s", l.Line, day)
		}
	}
}

// TestElixirsOldLinesAreNotCurrent: its source names five lines, of which the newest alone
// gets more than security fixes.
func TestElixirsOldLinesAreNotCurrent(t *testing.T) {
	want := map[string]catalogue.Phase{"1.14": catalogue.Ended, "1.15": catalogue.Maintenance, "1.16": catalogue.Maintenance,
		"1.17": catalogue.Maintenance, "1.18": catalogue.Maintenance, "1.19": catalogue.Current}
	for _, l := range tool(t, "elixir").Lines {
		assert.Equal(t, want[l.Line], l.PhaseOn(on("2026-11-16")), l.Line)
	}
}
