package catalogue_test

import (
	"testing"
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
