package claim_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
)

func TestWantedOfAPin(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for _, x := range []struct{ tool, raw, set, vendor, unknown string }{
		{"java", "temurin-17.0.9+9-jre-arm64", "17.0.9+9", "temurin", ""},
		{"java", "17-jdk-gardenjdk", ">=17 <18", "", "gardenjdk"},
		{"node", "20.11.1-otp-27", "20.11.1", "", ""},
		{"node", "20.11.1-linux-x64", "20.11.1-linux-x64", "", ""}, // a prerelease, as far as semver goes
		{"python", "3.12-slim", ">=3.12.0 <3.13.0", "", ""},
		{"java", "17.0.9+9", "17.0.9+9", "", ""},
		{"java", "temurin-17", ">=17 <18", "temurin", ""},
		{"java", "17.0.2-tem", ">=17.0.2 <17.0.3", "temurin", ""},
		{"java", "1.8.0_292", ">=8.0.292 <8.0.293", "", ""},
		{"java", "zulu-8u102", ">=8.0.102 <8.0.103", "zulu", ""},
		{"java", "openjdk-21", ">=21 <22", "", ""},
		{"java", "gardenjdk-21", ">=21 <22", "", "gardenjdk"},
		{"java", "21-gardenjdk", ">=21 <22", "", "gardenjdk"},
		{"node", "node-v18.1", ">=18.1.0 <18.2.0", "", ""},
		{"python", "cpython-3.12", ">=3.12.0 <3.13.0", "", ""},
		{"go", "go1.22.3", "1.22.3", "", ""},
		{"java", "openjdk64-1.8.0.292", ">=8.0.292 <8.0.293", "", ""},
		{"java", "semeru-openj9-17.0.9", ">=17.0.9 <17.0.10", "semeru", ""},
	} {
		t.Run(x.raw, func(t *testing.T) {
			tool, known := c.Tool(x.tool)
			require.True(t, known)
			w, err := claim.Claim{Raw: x.raw, Dialect: "plain", Role: claim.Pin}.Want(tool)
			require.NoError(t, err)
			assert.Equal(t, x.set, w.Set.String())
			assert.Equal(t, x.vendor, w.Vendor)
			assert.Equal(t, x.unknown, w.Unknown)
		})
	}
}

// TestBuildOfAPin: what labels ask of an installation beside its number.
func TestBuildOfAPin(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for raw, want := range map[string]claim.Wanted{
		"temurin-17-jre-x64": {Vendor: "temurin", Package: "runtime", Arch: "amd64"},
		"17-jdk-aarch64":     {Package: "kit", Arch: "arm64"},
		"17.0.9-mulch-2":     {Variant: "mulch-2"},
		"17":                 {},
	} {
		tool, _ := c.Tool("java")
		w, err := claim.Claim{Raw: raw, Dialect: "plain", Role: claim.Pin}.Want(tool)
		require.NoError(t, err)
		w.Set = want.Set
		assert.Equal(t, want, w, raw)
	}
}

// TestFallbacks: what is tried in order, and all of it together.
func TestFallbacks(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	tool, _ := c.Tool("python")
	w, err := claim.Claim{Raw: "3.12", Dialect: "plain", Role: claim.Pin, Fallbacks: []string{"3.11", "moss", "2.7.18"}}.Want(tool)
	require.NoError(t, err)
	var sets []string
	for _, f := range w.Fallbacks {
		sets = append(sets, f.Set.String())
	}
	assert.Equal(t, []string{">=3.12.0 <3.13.0", ">=3.11.0 <3.12.0", "2.7.18"}, sets, "a text that is no version is passed over")
	assert.Equal(t, "2.7.18 || >=3.11.0 <3.13.0", w.Set.String())
}

// TestReadings: what a claim rule says of how its text is to be read.
func TestReadings(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for _, x := range []struct{ tool, dialect, reading, text, set string }{
		{"dotnet", "plain", "minimum", "8.0.100", ">=8.0.100"},
		{"dotnet", "plain", "minimum-same-hundred", "8.0.110", ">=8.0.110 <8.0.200"},
		{"dotnet", "plain", "minimum-same-minor", "8.0.100", ">=8.0.100 <8.1.0"},
		{"dotnet", "plain", "minimum-same-major", "8.0.100", ">=8.0.100 <9.0.0"},
		{"python", "pep440", "caret", "^3.9", ">=3.9.0 <4.0.0"},
		{"python", "pep440", "caret", "~3.9 || ^2.7", ">=2.7.0 <3.0.0 || >=3.9.0 <3.10.0"},
		{"python", "pep440", "caret", "^0.3.1,!=0.3.2", ">=0.3.1 <0.3.2 || >0.3.2 <0.4.0"},
		{"java", "plain", "name", "JavaSE-17", ">=17 <18"},
	} {
		tool, known := c.Tool(x.tool)
		require.True(t, known)
		w, err := claim.WantOf(tool, x.dialect, x.reading, x.text)
		require.NoError(t, err, x.text)
		assert.Equal(t, x.set, w.Set.String(), "%s %s", x.reading, x.text)
	}
}
