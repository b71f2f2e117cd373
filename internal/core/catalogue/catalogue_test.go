package catalogue_test

import (
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	calendar "wexo/internal/core/day"
	"wexo/internal/core/version"
)

func embedded(t *testing.T) *catalogue.Catalogue {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	return c
}

func tool(t *testing.T, name string) *catalogue.Tool {
	t.Helper()
	found, known := embedded(t).Tool(name)
	require.True(t, known, name)
	return found
}

func on(text string) *calendar.Day {
	at, err := time.Parse(time.DateOnly, text)
	if err != nil {
		panic(err)
	}
	return calendar.On(at)
}

func TestNamesOfTools(t *testing.T) {
	for name, want := range map[string]string{"node": "Node.js", "nodejs": "Node.js", "NODE": "Node.js", "golang": "Go", "jdk": "Java", "python3": "Python"} {
		assert.Equal(t, want, tool(t, name).Title)
	}
	_, known := embedded(t).Tool("zig")
	assert.False(t, known)
}

func TestPhases(t *testing.T) {
	node := tool(t, "node")
	line := node.LineOf(version22(t, "22.11.0"))
	require.Equal(t, "22", line.Line)
	for day, want := range map[string]catalogue.Phase{
		"2024-04-23": catalogue.Upcoming, "2024-04-24": catalogue.Current, "2024-10-29": catalogue.LongTerm, "2025-10-21": catalogue.Maintenance,
		"2027-04-30": catalogue.Maintenance, "2027-05-01": catalogue.Ended,
	} {
		assert.Equal(t, want, line.PhaseOn(on(day)), day)
	}
}

func version22(t *testing.T, raw string) version.Version {
	t.Helper()
	v, err := version.Semver.Parse(raw)
	require.NoError(t, err)
	return v
}

func TestGoLinesEndWithTheSecondNextRelease(t *testing.T) {
	for _, l := range tool(t, "go").Lines {
		switch l.Line {
		case "1.25":
			assert.Equal(t, "2026-08-18", l.End.Format(time.DateOnly))
		case "1.26", "1.27":
			assert.True(t, l.End.IsZero(), "%s has no end yet", l.Line)
		}
	}
}

func TestAliases(t *testing.T) {
	for _, c := range []struct{ tool, raw, day, set string }{
		{"node", "lts", "2026-11-16", ">=26.0.0 <27.0.0"},
		{"node", "lts", "2026-10-27", ">=24.0.0 <25.0.0"},
		{"node", "LTS/*", "2026-10-27", ">=24.0.0 <25.0.0"},
		{"node", "lts/hydrogen", "2026-11-16", ">=18.0.0 <19.0.0"},
		{"node", "lts-hydrogen", "2026-11-16", ">=18.0.0 <19.0.0"},
		{"node", "lts hydrogen", "2026-11-16", ">=18.0.0 <19.0.0"},
		{"node", "Hydrogen", "2026-11-16", ">=18.0.0 <19.0.0"},
		{"node", "latest", "2026-11-16", ">=26.0.0 <27.0.0"},
		{"node", "stable", "2026-04-01", ">=25.0.0 <26.0.0"},
		{"java", "lts", "2026-11-16", ">=25 <26"},
		{"python", "latest", "2026-09-01", ">=3.14.0 <3.15.0"},
		{"go", "stable", "2026-11-16", ">=1.27 <1.28"},
	} {
		alias, ok := tool(t, c.tool).AliasOn(c.raw, on(c.day))
		require.True(t, ok, c.raw)
		assert.Equal(t, c.set, alias.Set.String(), "%s %s on %s", c.tool, c.raw, c.day)
	}
	for _, raw := range []string{"hydro", "lts/nothing", "3.12", ""} {
		assert.False(t, tool(t, "node").IsAlias(raw), raw)
	}
}

func TestUnreleased(t *testing.T) {
	for _, c := range []struct {
		tool, pin, day string
		unreleased     bool
	}{
		{"node", "18.20.8", "2026-11-16", false},
		{"node", "18.99.0", "2026-11-16", true},
		{"node", "18", "2026-11-16", false},
		{"node", "3", "2026-11-16", true},
		{"node", "99", "2026-11-16", true},
		{"node", "24.99.0", "2026-11-16", true},
		{"node", "24.99.0", "2026-11-25", true}, // a day later nobody can have got that far
		{"node", "24.22.0", "2026-11-25", false},
		{"go", "1.27.5", "2026-12-24", false},
		{"go", "1.27.50", "2026-12-24", true},
		{"node", "22.99.0", "2030-01-01", false},
		{"node", "18.99.0", "2030-01-01", true},  // ended before the data was checked
		{"node", "24.22.0", "2027-03-01", false}, // may have come out since the data was checked
		{"node", "28", "2027-12-01", false},
		{"node", "0.4.1", "2026-11-16", false}, // older than what is recorded
		{"python", "3.8.18", "2026-11-16", false},
		{"python", "3.8.21", "2026-11-16", true},
		{"python", "3.12.7", "2026-11-16", false},
		{"python", "3.12.77", "2026-11-16", true},
		{"python", "2.8", "2026-11-16", true},
		{"java", "17.0.9+9", "2026-11-16", false},
		{"java", "1.8.0_292", "2026-11-16", false},
		{"python", "3.13-dev", "2026-11-16", false},
		{"python", "3.16.0a2", "2026-11-16", false},
		{"java", "42", "2026-11-16", true},
		{"go", "1.22.3", "2026-11-16", false},
		{"go", "1.22.13", "2026-11-16", true},
		{"go", "1.4", "2026-11-16", false},
	} {
		found := tool(t, c.tool)
		set, err := version.ParseRange("plain", found.Scheme(), c.pin)
		require.NoError(t, err)
		assert.Equal(t, c.unreleased, found.Unreleased(set, on(c.day)) != "", "%s %s on %s", c.tool, c.pin, c.day)
	}
}

func TestEveryLineIsSound(t *testing.T) {
	for _, found := range embedded(t).Tools() {
		assert.NotEmpty(t, found.Sources, "%s has no source notes", found.Title)
		for i, l := range found.Lines {
			if i > 0 {
				assert.True(t, found.Lines[i-1].Set().Intersect(l.Set()).IsEmpty(), "%s %s overlaps the line before", found.Title, l.Line)
			}
		}
	}
}

func TestBadDataNamesFileAndLine(t *testing.T) {
	good := "tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: plain\n"
	for name, c := range map[string]struct{ data, says string }{
		"unknown key":              {good + "colour: green\n", "line 5"},
		"unknown scheme":           {"tool: dibber\ntitle: Dibber\nscheme: roman\n", `unknown scheme "roman"`},
		"bad date":                 {good + "lines:\n  - {line: \"1\", released: soon}\n", "line 6"},
		"bad pattern":              {good + "installation:\n  version:\n    - {file: x, pattern: '('}\n", "line 7"},
		"bad role":                 {good + "claims:\n  - {files: [x], format: json, role: boss}\n", `unknown role "boss"`},
		"no title":                 {"tool: dibber\nscheme: semver\n", "title"},
		"ends too early":           {good + "lines:\n  - {line: \"1\", released: 2026-01-01, end: 2025-01-01}\n", "ends before"},
		"unknown scheme, its line": {"tool: dibber\ntitle: Dibber\nscheme: roman\n", "line 3"},
		"dialect":                  {"tool: dibber\ntitle: Dibber\nscheme: semver\ndialect: latin\n", `line 4: unknown dialect "latin"`},
		"dialect of a setup":       {good + "setup-dialect: latin\n", `line 5: unknown dialect "latin"`},
		"dialect of a claim":       {good + "claims:\n  - {files: [x], format: json, role: pin, dialect: plain}\n  - {files: [x], format: json, role: pin, dialect: latin}\n", `line 7: unknown dialect "latin"`},
		"role, its line":           {good + "claims:\n  - {files: [x], format: json, role: boss}\n", "line 6"},
		"alias":                    {good + "aliases:\n  latest: newest\n  green: greenest\n", `line 7: the name "green" stands for "greenest"; it can stand for newest or newest-long-term`},
		"glob in the middle":       {good + "uses: [ok.toml]\nclaims:\n  - {files: ['dib*ber.json'], format: json, role: pin}\n", `line 7: the file pattern "dib*ber.json" can never match`},
		"glob of letters":          {good + "uses: ['[ab].toml']\n", `line 5: the file pattern "[ab].toml" can never match`},
		"folder":                   {good + "uses: [beds/]\n", `"beds/" can never match`},
		"executable":               {good + "installation:\n  executables: ['dib[']\n", "line 6"},
		"a step of no input":       {good + "steps:\n  - {uses: setup-x, input: x}\n  - {uses: setup-dibber}\n", "line 7: a step needs the name it is used by, and an input or reference: true"},
		"a step of no name":        {good + "steps:\n  - {input: dibber}\n", "line 6: a step needs"},
		"dialect of a step":        {good + "steps:\n  - {uses: setup-dibber, input: x, dialect: latin}\n", `line 6: unknown dialect "latin"`},
		"certainty":                {good + "claims:\n  - {files: [x], format: json, role: pin, certainty: sure}\n", `unknown certainty "sure"; known are high, medium, low`},
		"spelled without parts":    {good + "claims:\n  - {files: [x], format: json, role: pin, spell: '$1.$2'}\n", "spells a text without a pattern"},
		"newest outside":           {good + "lines:\n  - {line: \"1\", released: 2026-01-01, newest: 2.0.0}\n", "does not belong"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := catalogue.Load(fstest.MapFS{"tools/dibber.yaml": {Data: []byte(c.data)}})
			assert.ErrorContains(t, err, "dibber.yaml")
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func TestVendors(t *testing.T) {
	java := tool(t, "java")
	for label, want := range map[string]string{
		"tem": "temurin", "Temurin": "temurin", "tmrn": "temurin", "corr": "corretto", "zulu": "zulu", "ms": "microsoft",
		"graal": "graalvm", "lib": "liberica", "open": "openjdk", "adoptopenjdk": "temurin", "sap": "sapmachine",
	} {
		got, known := java.VendorOf(label)
		assert.True(t, known, label)
		assert.Equal(t, want, got, label)
	}
	for _, label := range []string{"gardenjdk", "ea", "lts", "ce", "fx", "slim", "beta", "xyz", ""} {
		_, known := java.VendorOf(label)
		assert.False(t, known, label)
	}
	assert.Equal(t, "temurin", java.VendorMade("Eclipse Adoptium"))
	assert.Equal(t, "Garden Trust", java.VendorMade("Garden Trust"), "an unknown maker is kept")
}
