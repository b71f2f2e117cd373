package version

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestSeparate: the number is found, and nothing of the text is lost.
func TestSeparate(t *testing.T) {
	for _, c := range []struct {
		scheme                     Scheme
		raw, before, number, after string
	}{
		{Semver, "20.11.1", "", "20.11.1", ""},
		{Semver, "v20.11.1", "v", "20.11.1", ""},
		{Semver, "20.11-alpine3.19", "", "20.11", "-alpine3.19"},
		{Semver, "22-bookworm-slim", "", "22", "-bookworm-slim"},
		{Semver, "22.0.0-rc.1-alpine", "", "22.0.0-rc.1", "-alpine"},
		{Semver, "1.18.1-otp-27", "", "1.18.1", "-otp-27"},
		{Semver, "1.18.0-rc.0-otp-27", "", "1.18.0-rc.0", "-otp-27"},
		{Semver, "20.x", "", "20.x", ""},
		{Semver, "node-v20.11.1-linux-x64", "node-v", "20.11.1", "-linux-x64"},
		{PEP440, "3.12-slim", "", "3.12", "-slim"},
		{PEP440, "3.13.0rc1-slim-bookworm", "", "3.13.0rc1", "-slim-bookworm"},
		{PEP440, "3.13.0a6", "", "3.13.0a6", ""},
		{PEP440, "python-3.12.4", "python-", "3.12.4", ""},
		{Java, "17-jdk-jammy", "", "17", "-jdk-jammy"},
		{Java, "17.0.2-temurin", "", "17.0.2", "-temurin"},
		{Java, "temurin-17", "temurin-", "17", ""},
		{Java, "temurin-17.0.9+9", "temurin-", "17.0.9+9", ""},
		{Java, "openj9-17.0.2", "openj9-", "17.0.2", ""},
		{Java, "8u392-b08-jre", "", "8u392-b08", "-jre"},
		{Java, "1.8.0_292", "", "1.8.0_292", ""},
		{Java, "21-ea-jdk", "", "21-ea", "-jdk"},
		{Java, "openjdk64-11.0.2", "openjdk64-", "11.0.2", ""},
		{Go, "go1.22.3", "go", "1.22.3", ""},
		{Go, "1.22rc1-bookworm", "", "1.22rc1", "-bookworm"},
		{Go, "1.22.3-alpine3.20", "", "1.22.3", "-alpine3.20"},
		{Erlang, "OTP-26.2.5.3", "OTP-", "26.2.5.3", ""},
		{Erlang, "27.0-rc1-slim", "", "27.0-rc1", "-slim"},
		{Numeric, "3.28.1-linux-aarch64", "", "3.28.1", "-linux-aarch64"},
		{Maven, "3.9.6-eclipse-temurin-17", "", "3.9.6", "-eclipse-temurin-17"},
	} {
		l, err := Separate(c.scheme, c.raw)
		require.NoError(t, err, c.raw)
		assert.Equal(t, Labelled{c.before, c.number, c.after}, l, c.raw)
		assert.Equal(t, c.raw, l.String())
	}
	for _, raw := range []string{"", strings.Repeat("a1", MaxLength), "latest", "lts", "stable-alpine", "v"} {
		_, err := Separate(Semver, raw)
		assert.Error(t, err, raw)
	}
}

// TestLabels: what the words beside a number say; a word nobody knows is kept.
func TestLabels(t *testing.T) {
	for raw, want := range map[string][]Label{
		"17-jdk-jammy":         {{Kind: KitLabel, Text: "jdk"}, {Kind: SystemLabel, Text: "jammy"}},
		"8-jre":                {{Kind: RuntimeLabel, Text: "jre"}},
		"1.18.1-otp-27":        {{Kind: BuiltAgainst, Text: "otp-27", Tool: "otp", Of: "27"}},
		"20-linux-x64":         {{Kind: SystemLabel, Text: "linux"}, {Kind: Architecture, Text: "x64", Of: "amd64"}},
		"20-linux-aarch64":     {{Kind: SystemLabel, Text: "linux"}, {Kind: Architecture, Text: "aarch64", Of: "arm64"}},
		"20-x86_64":            {{Kind: Architecture, Text: "x86_64", Of: "amd64"}},
		"20-alpine3.19":        {{Kind: SystemLabel, Text: "alpine3.19"}},
		"v20":                  nil,
		"temurin-17":           {{Kind: OtherLabel, Text: "temurin"}},
		"17.0.2-greenhouse":    {{Kind: OtherLabel, Text: "greenhouse"}},
		"3.9.6-mulch-17-amd64": {{Kind: BuiltAgainst, Text: "mulch-17", Tool: "mulch", Of: "17"}, {Kind: Architecture, Text: "amd64", Of: "amd64"}},
	} {
		l, err := Separate(Semver, raw)
		require.NoError(t, err, raw)
		assert.Equal(t, want, l.Labels("alpine", "bookworm", "jammy", "slim"), raw)
	}
}

// TestSeparateLosesNothing: for any text, the three parts are the text again.
func TestSeparateLosesNothing(t *testing.T) {
	part := rapid.SampledFrom([]string{"1", "20", "3.12", ".", "-", "_", "v", "jdk", "rc", "otp", "x", "+", "alpine", "temurin", "b08", "u392", "*"})
	rapid.Check(t, func(t *rapid.T) {
		raw := ""
		for _, p := range rapid.SliceOfN(part, 0, 8).Draw(t, "parts") {
			raw += p
		}
		for s := Semver; int(s) < len(schemes); s++ {
			if l, err := Separate(s, raw); err == nil && (l.String() != raw || l.Number == "") {
				t.Fatalf("%s %q becomes %+v", s, raw, l)
			}
		}
	})
}
