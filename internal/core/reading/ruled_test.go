package reading_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
)

func readWith(t *testing.T, files map[string]string) fact.Reading {
	t.Helper()
	return newReader(t).Read(tree(files))
}

func shownAll(r fact.Reading) []string {
	var out []string
	for _, c := range r.Claims {
		out = append(out, shown(c))
	}
	slices.Sort(out)
	return out
}

func TestClaimsOfTheUsers(t *testing.T) {
	got := readWith(t, map[string]string{
		".wexo.yaml": `
claims:
  - {files: [ops/node.txt], tool: node}
  - files: ["**/versions.json"]
    tool: python
    role: bound
    select: $.tools.py
    dialect: pep440
  - files: ops/*.env
    tool: go
    pattern: '(?m)^GO=(\S+)$'
    role: setup
  - {files: [.beds], tool: ruby}
  - {files: [build.xml], tool: java, select: "//property[@name='jdk']/@value", reading: minimum, role: bound}
  - {files: [tools.ini], tool: php, select: tools.php}
`,
		"ops/node.txt":           "# the kiosk's\n 22.3.0\n",
		"deep/er/versions.json":  "{\"tools\": {\"py\": \">=3.11\"}}",
		"ops/build.env":          "A=1\nGO=1.25.1\n",
		".beds":                  "3.3.1\n",
		"build.xml":              "<project>\n<property name=\"jdk\" value=\"17\"/></project>",
		"tools.ini":              "[tools]\nphp = 8.3\n",
		"elsewhere/ops/node.txt": "1.0.0\n",
	})
	assert.Equal(t, []string{
		"bound java 17 @build.xml:2:29",
		"bound python >=3.11 @deep/er/versions.json:1:19",
		"pin node 22.3.0 @ops/node.txt:2:2",
		"pin php 8.3 @tools.ini:2:7",
		"pin ruby 3.3.1 @.beds:1:1",
		"setup go 1.25.1 @ops/build.env:2:4",
	}, shownAll(got))
	assert.Empty(t, got.Problems)
	for _, c := range got.Claims {
		assert.Equal(t, claim.Rule, c.Recognised)
	}
}

// TestRulesWin: where a rule speaks of a file and tool, what is built in does not.
func TestRulesWin(t *testing.T) {
	got := readWith(t, map[string]string{
		".wexo.yaml":      "claims:\n  - {files: [package.json], tool: node, select: $.kiosk.runs, role: pin}\n",
		"package.json":    `{"engines": {"node": ">=1", "npm": ">=2"}, "kiosk": {"runs": "22.1.0"}}`,
		"go/package.json": `{"engines": {"node": ">=20"}}`,
	})
	assert.Equal(t, []string{"bound node >=20 @go/package.json:1:23", "bound npm >=2 @package.json:1:37", "pin node 22.1.0 @package.json:1:63"}, shownAll(got))
}

func TestLeavingOut(t *testing.T) {
	got := readWith(t, map[string]string{
		".wexo.yaml":                 "leave-out: [legacy/, '**/fixtures', old-*.json, web/.node-version]\n",
		"legacy/.node-version":       "1.0.0\n",
		"a/b/fixtures/.node-version": "1.0.0\n",
		"web/.node-version":          "1.0.0\n",
		"web/in/.node-version":       "22\n",
		"x/old-package.json":         "{}",
	})
	assert.Equal(t, []string{"pin node 22 @web/in/.node-version:1:1"}, shownAll(got))
	assert.Contains(t, got.Skipped, claim.SkippedFolder{Folder: "legacy", Why: "left out by rule"})
}

func TestSettings(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	rules, estate, problems := userrule.Parse([]byte("tags: trust\nunpinned-is-fine: [go]\nrepositories:\n  seed-*: {tags: [ledgers], planned-end: 2026-12-31}\n  other: {tags: [x]}\n"), c, true)
	require.Empty(t, problems)
	assert.Empty(t, rules.Digest, "nothing of it changes what is read")
	read := newReader(t).ReadTree(t.Context(), tree(map[string]string{
		".wexo.yaml": "tags: [garden]\nplanned-end: 2027-05-01\nbaselines: [kiosk-image]\nunpinned-is-fine:\n  - {tool: nodejs, folders: [docs, 'web/**']}\n",
	}), reading.Options{Rules: rules, Called: policy.Called{Name: "seed-ledger"}})
	assert.Equal(t, []string{"garden"}, read.Settings.Tags, "a reading holds what the repository says")
	got := struct{ Settings policy.Settings }{estate.For(policy.Called{Name: "seed-ledger"}, read.Settings)}
	assert.Equal(t, []string{"trust", "ledgers", "garden"}, got.Settings.Tags)
	assert.Equal(t, "2027-05-01", got.Settings.PlannedEnd, "the repository's own counts")
	assert.Equal(t, []string{"kiosk-image"}, got.Settings.Baselines)
	assert.True(t, got.Settings.NeedsNoPin("go", "anywhere"))
	assert.True(t, got.Settings.NeedsNoPin("node", "docs"))
	assert.True(t, got.Settings.NeedsNoPin("node", "web/a/b"))
	assert.False(t, got.Settings.NeedsNoPin("node", "kiosk"))
	assert.False(t, got.Settings.NeedsNoPin("python", ""))
}

// TestBadRulesCostOnlyThemselves: they are a problem of their file, and the rest is read.
func TestBadRulesCostOnlyThemselves(t *testing.T) {
	got := readWith(t, map[string]string{".wexo.yaml": "tags: [garden]\nclaims:\n  - {files: [x], tool: gardener}\nleave-out: [legacy]\n",
		"web/.node-version": "22\n", "legacy/.node-version": "1\n"})
	assert.Equal(t, []string{"pin node 22 @web/.node-version:1:1"}, shownAll(got))
	require.Len(t, got.Problems, 1)
	assert.Equal(t, ".wexo.yaml", got.Problems[0].File)
	assert.Equal(t, 3, got.Problems[0].Line)
	assert.Contains(t, got.Problems[0].Reason, `unknown tool "gardener"`)
	assert.Equal(t, []string{"garden"}, got.Settings.Tags)
}

// TestSettleLines: the lines that an unclaimed file's problem ends with settle it.
func TestSettleLines(t *testing.T) {
	for _, files := range []map[string]string{
		{".moss-version": "1.4.0\n"},
		{".pinned": "3.12.1\n"},
		{".beds": "moss 1.2.3\nfern 2.0.1\n"},
		{".beds": "node 20.1.0\nmoss 1.2.3\n"},
		{"a b/.moss-version": "1.4.0\n"},
		{".pinned": "22\n", "package.json": "{}", "pom.xml": "<project/>"},
		{"robot.json": `{"constraints": {"go": "1.26.0"}}`},
		{"a/.gen/VERSION": "7.2.0\n", "b/.gen/VERSION": "7.2.0\n"},
		{".version": "3.12.1\n", "setup.py": "setup()"},
	} {
		before := readWith(t, files)
		var settle string
		for _, p := range before.Problems {
			if p.Kind == claim.Unclaimed {
				settle = p.Settle
			}
		}
		require.NotEmpty(t, settle, "%v", files)
		assert.LessOrEqual(t, strings.Count(settle, "\n")+1, 3, settle)
		files[".wexo.yaml"] = strings.ReplaceAll(settle, "TOOL", "python") + "\n"
		after := readWith(t, files)
		assert.Empty(t, after.Problems, "%s", settle)
	}
}
