package assess_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/report"
)

// of gives the findings of a class.
func of(a assessment, class string) []report.Finding {
	var out []report.Finding
	for _, f := range a.Findings {
		if f.Class == class {
			out = append(out, f)
		}
	}
	return out
}

const workflow = ".github/workflows/test.yml"

func matrix(values string) string {
	return "jobs:\n  test:\n    strategy:\n      matrix:\n        node: [" + values + "]\n"
}

func TestSetupsAndPins(t *testing.T) {
	for name, c := range map[string]struct {
		files map[string]string
		says  string // empty where nothing is wrong
	}{
		"a container of another version":       {map[string]string{".node-version": "22\n", "Dockerfile": "FROM node:18\n"}, "Dockerfile:1 sets up Node.js 18, but .node-version:1 asks for Node.js 22"},
		"a container of the same line":         {map[string]string{".node-version": "22.11.0\n", "Dockerfile": "FROM node:22-alpine\n"}, ""},
		"one value of a matrix fits":           {map[string]string{".node-version": "22\n", workflow: matrix("18, 20, 22")}, ""},
		"no value of a matrix fits":            {map[string]string{".node-version": "22\n", workflow: matrix("18, 20")}, workflow + ":5 sets up Node.js 18 and 20, but .node-version:1 asks for Node.js 22"},
		"a matrix of many values":              {map[string]string{".node-version": "22\n", workflow: matrix("1, 2, 3, 3, 4, 5, 6, 7, 8, 9, 10")}, "sets up Node.js 1, 2, 3, 4, 5, 6, 7, 8 and 2 others, but"},
		"a number that lost its zero":          {map[string]string{".python-version": "3.10\n", workflow: "steps:\n  - with:\n      python-version: 3.10\n"}, "sets up Python 3.1 (written as 3.10)"},
		"the same in quotes":                   {map[string]string{".python-version": "3.12\n", workflow: "steps:\n  - with:\n      python-version: '3.12'\n"}, ""},
		"an image that names no version":       {map[string]string{".node-version": "22\n", "Dockerfile": "FROM node@sha256:f0a5da17e0ffa3a21c2b07c964d465799eb0deb62905ccb1b271ce7716614746\nFROM node:slim\n"}, ""},
		"nothing is pinned":                    {map[string]string{"package.json": "{}", "Dockerfile": "FROM node:18\n"}, ""},
		"a pin that names no version compares": {map[string]string{".beds": "node path:/opt/node\n", "Dockerfile": "FROM node:18\n"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			found := of(judge(t, c.files, day, bench()), "claims-disagree")
			if c.says == "" {
				assert.Empty(t, found)
				return
			}
			require.Len(t, found, 1)
			assert.Contains(t, found[0].Message, c.says)
		})
	}
}

// TestManyPins: each pin is reported beside the first it disagrees with, not beside all.
func TestManyPins(t *testing.T) {
	var pins []string
	for _, f := range of(judge(t, map[string]string{".a-beds": "node 18\n", ".b-beds": "node 20\n", ".c-beds": "node 20.1\n", ".d-beds": "node 24\n"}, day, bench()), "claims-disagree") {
		pins = append(pins, f.Evidence[0].File+" "+f.Evidence[1].File)
	}
	assert.ElementsMatch(t, []string{".a-beds .b-beds", ".a-beds .c-beds", ".a-beds .d-beds"}, pins)

	lines := strings.Builder{}
	for i := range 2000 {
		fmt.Fprintf(&lines, "node 22.%d\n", i)
	}
	assert.Len(t, of(judge(t, map[string]string{".beds": lines.String()}, day, bench()), "claims-disagree"), 1999)
}

// TestFilesReadInPart: what is left out is not checked, what is kept is.
func TestFilesReadInPart(t *testing.T) {
	got := judge(t, map[string]string{workflow: matrix(strings.Repeat("20, ", 20_000) + "22"), ".node-version": "22\n", ".zig-version": "0.14.1\n"}, day, bench())
	found := of(got, "file-unreadable")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, workflow+" is read only in part: it has more places for versions than anybody needs; after 10000 versions the rest is left out.")
	assert.Len(t, of(got, "claims-disagree"), 1, "none of the first 10,000 is 22")
	stranger := of(got, "file-unclaimed")
	require.Len(t, stranger, 1)
	assert.Contains(t, stranger[0].Remedy, "Mend the tool's name if it is misspelt")
}

func TestNamedWirings(t *testing.T) {
	misc := func(name string) map[string]string {
		return map[string]string{".java-version": "21\n", ".idea/misc.xml": `<project><component name="ProjectRootManager" project-jdk-name="` + name + `" project-jdk-type="JavaSDK"/></project>`}
	}
	found := of(judge(t, misc("corretto-17 (2)"), day, bench()), "interpreter-mismatch")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, `.idea/misc.xml:1 sets the editor to "corretto-17 (2)", but .java-version:1 asks for Java 21`)
	for _, fits := range []string{"21", "temurin-21", "JavaSE-21", "the team's own", "openjdk-21 (3)"} {
		assert.Empty(t, of(judge(t, misc(fits), day, bench()), "interpreter-mismatch"), fits)
	}
}

// TestNearerSettingsCount: what a folder's own settings beat is not judged.
func TestNearerSettingsCount(t *testing.T) {
	files := map[string]string{
		".python-version":       "3.12\n",
		"beds.code-workspace":   `{"folders": [{"path": "."}], "settings": {"python.defaultInterpreterPath": "/opt/python/3.8.18/bin/python3.8"}}`,
		".vscode/settings.json": `{"python.defaultInterpreterPath": "/opt/python/3.12.7/bin/python3.12"}`,
	}
	assert.Empty(t, of(judge(t, files, day, bench()), "interpreter-mismatch"))
	delete(files, ".vscode/settings.json")
	assert.Len(t, of(judge(t, files, day, bench()), "interpreter-mismatch"), 1, "alone it counts")
}

func TestLockedBoundsNameTheDependency(t *testing.T) {
	found := of(judge(t, map[string]string{".node-version": "22\n", "package-lock.json": `{"lockfileVersion": 3, "packages": {
"node_modules/fern": {"version": "1.0.0", "engines": {"node": ">=10"}},
"node_modules/moss": {"version": "2.3.1", "engines": {"node": "^20.0.0 || >=24"}}}}`}, day, bench()), "bound-violated")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "package-lock.json:3 allows only Node.js >=20.0.0 <21.0.0 || >=24.0.0 (moss 2.3.1 demands ^20.0.0 || >=24; 2 demands are locked)")
	assert.Equal(t, 3, found[0].Evidence[0].Line)

	// One alone admits what would run; only together they do not.
	found = of(judge(t, map[string]string{".node-version": "20\n", "package-lock.json": `{"lockfileVersion": 3, "packages": {
"node_modules/fern": {"version": "1.0.0", "engines": {"node": ">=22.12"}},
"node_modules/moss": {"version": "2.3.1", "engines": {"node": "^20.0.0 || ^22.0.0 || >=24"}}}}`}, day, bench()), "bound-violated")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "moss 2.3.1 demands ^20.0.0 || ^22.0.0 || >=24")
	assert.Contains(t, found[0].Message, "fern 1.0.0 demands >=22.12")
}

func TestFallbacksAreTriedInOrder(t *testing.T) {
	for text, runs := range map[string]string{"python 3.11.1 3.8.18 3.12.7": "3.8.18", "python 3.13 3.12": "3.13.1", "python 3.11 3.10 3.12.7": "3.12.7"} {
		a := judge(t, map[string]string{".beds": text + "\n"}, day, bench())
		assert.Equal(t, runs, a.Subjects[0].Resolutions[0].Version, text)
	}
	a := judge(t, map[string]string{".beds": "python 3.10.1 3.9.2\n"}, day, bench())
	assert.NotEmpty(t, of(a, "toolchain-missing"), "none of them is installed")
}

// TestPinsThatNameNoVersion: paths, references and dated builds are pins all the same,
// and no verdict is made up for them.
func TestPinsThatNameNoVersion(t *testing.T) {
	for _, files := range []map[string]string{{".beds": "python path:/opt/python/x\n"}, {".beds": "python ref:0f1e2d\n"}, {"rust-toolchain": "nightly-2024-05-01\n", "Cargo.toml": "[package]\nname = 'x'\n"}} {
		a := judge(t, files, day, bench())
		assert.Empty(t, a.Findings, "%v", files)
		assert.Equal(t, "unknown", string(a.Subjects[0].Resolutions[0].State))
	}
}

func TestSettingsOfARepository(t *testing.T) {
	files := map[string]string{"package.json": "{}", "docs/go.mod": "module x\n"}
	assert.Len(t, of(judge(t, files, day, bench()), "pin-missing"), 2)
	files[".wexo.yaml"] = "unpinned-is-fine: [node, {tool: go, folders: [docs]}]\n"
	assert.Empty(t, of(judge(t, files, day, bench()), "pin-missing"))

	planned := map[string]string{".python-version": "3.12\n", ".wexo.yaml": "planned-end: 2028-12-01\n"}
	found := of(judge(t, planned, day, bench()), "support-ending")
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "The repository is planned to live until 1 Dec 2028.")
	planned[".wexo.yaml"] = "planned-end: 2028-06-01\n"
	assert.Empty(t, of(judge(t, planned, day, bench()), "support-ending"))
}

func TestUnclaimedFilesEndWithThreeLines(t *testing.T) {
	found := of(judge(t, map[string]string{"web/.pinned": "9.9.9\n"}, day, bench()), "file-unclaimed")
	require.Len(t, found, 1)
	assert.True(t, strings.HasSuffix(found[0].Remedy, "the file itself stays as its own reader wants it:"))
	assert.Equal(t, "claims:\n  - files: [web/.pinned]\n    tool: TOOL # the tool's name", found[0].Configuration)
}

// TestWhatTheBuildFetchesIsNotMissing: a wrapper or a build's plugin brings its version
// along; nothing has to be installed.
func TestWhatTheBuildFetchesIsNotMissing(t *testing.T) {
	a := judge(t, map[string]string{"gradle/wrapper/gradle-wrapper.properties": "distributionUrl=x/gradle-8.5-bin.zip\n", "build.gradle.kts": "plugins { kotlin(\"jvm\") version \"2.0.21\" }\n", ".java-version": "21\n"}, day, bench())
	assert.Empty(t, a.Findings)
	for _, s := range a.Subjects {
		if s.Tool.Name == "gradle" {
			assert.Equal(t, "met", string(s.Resolutions[0].State))
			assert.Equal(t, "8.5", s.Resolutions[0].Version)
			assert.Equal(t, "the build fetches it itself", s.Resolutions[0].Ladder[1].Note)
		}
	}
}
