package reading_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/userrule"
	"wexo/internal/core/version"
)

func readWith(t *testing.T, files map[string]string) claim.Reading {
	t.Helper()
	return newReader(t).Read(tree(files))
}

func shownAll(r claim.Reading) []string {
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
	}), reading.Options{Rules: rules, Name: "seed-ledger"})
	assert.Equal(t, []string{"garden"}, read.Settings.Tags, "a reading holds what the repository says")
	got := struct{ Settings policy.Settings }{estate.For("seed-ledger", read.Settings)}
	assert.Equal(t, []string{"trust", "ledgers", "garden"}, got.Settings.Tags)
	assert.Equal(t, "2027-05-01", got.Settings.PlannedEnd, "the repository's own counts")
	assert.Equal(t, []string{"kiosk-image"}, got.Settings.Baselines)
	assert.True(t, got.Settings.NeedsNoPin("go", "anywhere"))
	assert.True(t, got.Settings.NeedsNoPin("node", "docs"))
	assert.True(t, got.Settings.NeedsNoPin("node", "web/a/b"))
	assert.False(t, got.Settings.NeedsNoPin("node", "kiosk"))
	assert.False(t, got.Settings.NeedsNoPin("python", ""))
}

// badRules are rules that cannot be understood, each with the line and a part of the reason.
var badRules = []struct {
	text   string
	line   int
	reason string
}{
	{"claim: []\n", 1, `unknown key "claim" in the file; expected claims, leave-out,`},
	{"tags: [a]\ntags: [b]\n", 2, "stands twice"},
	{"claims:\n  - files: [x]\n    tool: gardener\n", 3, `unknown tool "gardener"; expected one of bun,`},
	{"claims:\n  - files: [x]\n", 2, "a claim should name its tool"},
	{"claims:\n  - tool: node\n", 2, "a claim should name its files"},
	{"claims: {files: x}\n", 1, "claims should be a list, and it is a mapping"},
	{"claims:\n  - {files: [x], tool: node, role: pinned}\n", 2, `role should be one of pin, bound, wiring, setup, component or residue, and it is "pinned"`},
	{"claims:\n  - {files: [x], tool: node, format: csv}\n", 2, "format should be one of gomod,"},
	{"claims:\n  - {files: [x], tool: node, dialect: garden}\n", 2, "dialect should be one of"},
	{"claims:\n  - {files: [x.json], tool: node, select: 'a.b'}\n", 2, `select should be a JSONPath, and "a.b" is none`},
	{"claims:\n  - {files: [x.xml], tool: node, select: '//['}\n", 2, "select should be an XPath"},
	{"claims:\n  - {files: [x], tool: node, pattern: '\\d+'}\n", 2, "pattern should be a regular expression with a group"},
	{"claims:\n  - {files: [x], tool: node, pattern: '('}\n", 2, "pattern should be a regular expression with a group"},
	{"claims:\n  - {files: ['../x'], tool: node}\n", 2, "files should hold paths or globs inside the repository"},
	{"claims:\n  - {files: [x], tool: node, format: yaml}\n", 2, "should say with select where the version stands"},
	{"leave-out:\n  - a: b\n", 2, "leave-out should be a text or a list of texts, and it is a mapping"},
	{"planned-end: next year\n", 1, `planned-end should be a date such as 2027-05-01, and it is "next year"`},
	{"unpinned-is-fine: [gardener]\n", 1, `unknown tool "gardener"`},
	{"unpinned-is-fine:\n  - {tool: node, where: docs}\n", 2, `unknown key "where" in an entry of unpinned-is-fine; expected tool or folders`},
	{"repositories: {a: {tags: [x]}}\n", 1, `unknown key "repositories"`},
	{"- a\n", 1, "the file should be a mapping with claims,"},
	{"tags: [\n", 1, "broken YAML"},
}

func TestBadRules(t *testing.T) {
	for _, bad := range badRules {
		got := readWith(t, map[string]string{".wexo.yaml": bad.text, "web/.node-version": "22\n"})
		assert.Equal(t, []string{"pin node 22 @web/.node-version:1:1"}, shownAll(got), "the rest is read: %s", bad.text)
		if assert.NotEmpty(t, got.Problems, bad.text) {
			p := got.Problems[0]
			assert.Equal(t, ".wexo.yaml", p.File)
			assert.Equal(t, bad.line, p.Line, bad.text)
			assert.Contains(t, p.Reason, bad.reason, bad.text)
		}
	}
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
	} {
		before := readWith(t, files)
		var settle string
		for _, p := range before.Problems {
			if p.Kind == claim.Unclaimed {
				settle = p.Settle
			}
		}
		require.NotEmpty(t, settle, "%v", files)
		assert.Equal(t, 3, strings.Count(settle, "\n")+1, settle)
		files[".wexo.yaml"] = strings.ReplaceAll(settle, "TOOL", "python") + "\n"
		after := readWith(t, files)
		assert.Empty(t, after.Problems, "%s", settle)
	}
}

func schema(t *testing.T, file string) *jsonschema.Schema {
	t.Helper()
	data, err := os.ReadFile("../../../docs/schemas/" + file)
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(data)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource(file, doc))
	s, err := c.Compile(file)
	require.NoError(t, err)
	return s
}

// TestSchema: the published schema refuses what the reader refuses and takes what it takes.
func TestSchema(t *testing.T) {
	s := schema(t, "wexo-repository.schema.json")
	check := func(text string) error {
		var value any
		if err := yaml.Unmarshal([]byte(text), &value); err != nil {
			return err
		}
		data, err := json.Marshal(value)
		if err != nil {
			return err
		}
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(data)))
		require.NoError(t, err)
		return s.Validate(doc)
	}
	for _, bad := range badRules {
		// What a schema cannot tell: whether a selector or pattern can be compiled, and what a file's format needs.
		if strings.Contains(bad.text, "select: '") || strings.Contains(bad.text, "pattern: '('") || strings.Contains(bad.text, "format: yaml") {
			continue
		}
		assert.Error(t, check(bad.text), bad.text)
	}
	for _, good := range []string{"", "tags: a\n", "tags: [a, b]\n", "planned-end: '2027-05-01'\n", "claims:\n  - {files: x, tool: node}\n",
		"claims:\n  - {files: [x, y/*.json], tool: node, role: bound, format: json, select: $.a, pattern: '(a)', dialect: npm}\n",
		"leave-out: [a, b/**]\n", "unpinned-is-fine: [node, {tool: python, folders: [docs]}]\n", "baselines: [x]\n"} {
		assert.NoError(t, check(good), good)
		c, err := catalogue.Embedded()
		require.NoError(t, err)
		_, _, problems := userrule.Parse([]byte(good), c, false)
		assert.Empty(t, problems, good)
	}
}

// TestSchemaNamesWhatThereIs: tools and dialects stand in the schema as they are known.
func TestSchemaNamesWhatThereIs(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	var names []string
	for _, tool := range c.Tools() {
		names = append(names, tool.Name)
	}
	for _, file := range []string{"wexo-repository.schema.json", "wexo.schema.json"} {
		data, err := os.ReadFile("../../../docs/schemas/" + file)
		require.NoError(t, err)
		var doc struct {
			Properties struct {
				Claims struct {
					Items struct {
						Properties struct {
							Tool, Dialect, Format struct{ Enum []string }
						}
					}
				}
			}
		}
		require.NoError(t, json.Unmarshal(data, &doc))
		p := doc.Properties.Claims.Items.Properties
		assert.ElementsMatch(t, names, p.Tool.Enum, file)
		assert.ElementsMatch(t, version.DialectNames(), p.Dialect.Enum, file)
		assert.NotEmpty(t, p.Format.Enum)
	}
}
