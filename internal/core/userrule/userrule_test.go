package userrule_test

import (
	"encoding/json"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/policy"
	"wexo/internal/core/userrule"
	"wexo/internal/core/version"
)

func parse(t *testing.T, text string, estate bool) (userrule.Rules, policy.Policy, []userrule.Problem) {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	return userrule.Parse([]byte(text), c, estate)
}

// badRules are rules that cannot be understood, each with the line and a part of the reason.
var badRules = []struct {
	text   string
	line   int
	reason string
	estate bool // it stands in the estate's file, which may say more
}{
	{"claim: []\n", 1, `unknown key "claim" in the file; did you mean "claims"?`, false},
	{"tags: [a]\ntags: [b]\n", 2, "stands twice", false},
	{"claims:\n  - files: [x]\n    tool: gardener\n", 3, `unknown tool "gardener"; known are bun,`, false},
	{"claims:\n  - files: [x]\n", 2, "a claim should name its tool", false},
	{"claims:\n  - tool: node\n", 2, "a claim should name its files", false},
	{"claims: {files: x}\n", 1, "claims should be a list, and it is a mapping", false},
	{"claims:\n  - {files: [x], tool: node, role: pinned}\n", 2, `role should be one of pin, bound, wiring, setup, tested, component or residue, and it is "pinned"`, false},
	{"claims:\n  - {files: [x], tool: node, format: csv}\n", 2, "format should be one of cmake, gomod,", false},
	{"claims:\n  - {files: [x], tool: node, dialect: garden}\n", 2, "dialect should be one of", false},
	{"claims:\n  - {files: [x.json], tool: node, select: 'a.b'}\n", 2, `select should be a JSONPath, and "a.b" is none`, false},
	{"claims:\n  - {files: [x.xml], tool: node, select: '//['}\n", 2, "select should be an XPath", false},
	{"claims:\n  - {files: [x], tool: node, pattern: '\\d+'}\n", 2, "pattern should be a regular expression with a group", false},
	{"claims:\n  - {files: [x], tool: node, pattern: '('}\n", 2, "pattern should be a regular expression with a group", false},
	{"claims:\n  - {files: ['../x'], tool: node}\n", 2, "files should hold paths or globs inside the repository", false},
	{"claims:\n  - {files: [x], tool: node, format: yaml}\n", 2, "should say with select where the version stands", false},
	{"leave-out:\n  - a: b\n", 2, "leave-out should be a text or a list of texts, and it is a mapping", false},
	{"planned-end: next year\n", 1, `planned-end should be a date such as 2027-05-01, and it is "next year"`, false},
	{"unpinned-is-fine: [gardener]\n", 1, `unknown tool "gardener"`, false},
	{"unpinned-is-fine:\n  - {tool: node, where: docs}\n", 2, `unknown key "where" in an entry of unpinned-is-fine; known are tool and folders`, false},
	{"repositories: {a: {tags: [x]}}\n", 1, `unknown key "repositories"`, false},
	{"- a\n", 1, "the file should be a mapping with claims,", false},
	{"tags: [\n", 1, "broken YAML", false},
	{"horizon: 0\n", 1, `horizon should be a number of days from 1 to 3650, and it is "0"`, true},
	{"groups: [a]\n", 1, "groups should map tags of machines to titles, and it is a list", true},
	{"groups: {a: [b]}\n", 1, "the title of the group a should be a text, and it is a list", true},
	{"machines:\n  a: {report-within: soon}\n", 2, `report-within should be a time such as 36h or 7d, and it is "soon"`, true},
	{"repositories: {'tag:a': {leave-out: [b]}}\n", 1, `unknown key "leave-out"`, true},
	{"groups: {a: b}\n", 1, `unknown key "groups"`, false},
	{"horizon: soon\n", 1, `and it is "soon"`, true},
	{"horizon: [30]\n", 1, "and it is a list", true},
	{"severities: [x]\n", 1, "severities should map classes of findings to error, warning or note, and it is a list", true},
	{"tags: [a]\nseverities:\n  pin-missing: awful\n", 3, `the severity of pin-missing should be error, warning or note, and it is "awful"`, true},
}

func TestBadRules(t *testing.T) {
	for _, bad := range badRules {
		_, decided, problems := parse(t, bad.text, bad.estate)
		if assert.NotEmpty(t, problems, bad.text) {
			assert.Equal(t, bad.line, problems[0].Line, bad.text)
			assert.Contains(t, problems[0].Reason, bad.reason, bad.text)
			assert.Positive(t, problems[0].Column, bad.text)
		}
		assert.Zero(t, decided.Horizon, bad.text)
		assert.Empty(t, decided.Severities, bad.text)
	}
}

// TestWhatIsDecidedReadsNothingAnew: the digest, which memories are kept by, knows what
// readers are told and nothing else.
func TestWhatIsDecidedReadsNothingAnew(t *testing.T) {
	digest := func(text string) string {
		rules, _, problems := parse(t, text, true)
		require.Empty(t, problems, text)
		return rules.Digest
	}
	assert.Empty(t, digest("tags: [a]\nhorizon: 30\nseverities: {pin-missing: note}\nrepositories: {a: {planned-end: 2027-05-01, baselines: [x]}}\n"))
	base := digest("leave-out: [legacy]\n")
	assert.Len(t, base, 16)
	assert.Equal(t, base, digest("# a comment\nhorizon: 30\nleave-out: [legacy]\n"))
	assert.NotEqual(t, base, digest("leave-out: [legacy, old]\n"))
	assert.NotEqual(t, base, digest("repositories: {a: {leave-out: [legacy]}}\n"))
	assert.NotEqual(t, digest("repositories: {b: {leave-out: [legacy]}}\n"), digest("repositories: {a: {leave-out: [legacy]}}\n"))
}

// TestRulesForARepository: those that name it are nearer and come first.
func TestRulesForARepository(t *testing.T) {
	rules, _, problems := parse(t, "claims:\n  - {files: [x], tool: node}\nleave-out: [a]\nrepositories:\n  seed-*:\n    claims:\n      - {files: [y], tool: go}\n    leave-out: [b]\n  other: {leave-out: [c]}\n", true)
	require.Empty(t, problems)
	got := rules.For(policy.Called{Name: "seed-ledger"})
	require.Len(t, got.Claims, 2)
	assert.Equal(t, "go", got.Claims[0].Tool.Name)
	texts := func(globs []userrule.Glob) []string {
		var out []string
		for _, g := range globs {
			out = append(out, g.Text)
		}
		return out
	}
	assert.Equal(t, []string{"a", "b"}, texts(got.LeaveOut))
	assert.Equal(t, []string{"a"}, texts(rules.For(policy.Called{Name: "glasshouse"}).LeaveOut))
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
	repositories, estates := schema(t, "wexo-repository.schema.json"), schema(t, "wexo.schema.json")
	check := func(s *jsonschema.Schema, text string) error {
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
		// What a schema cannot tell: which tools catalogue folders add, whether a selector or pattern can be compiled, and what a file's format needs.
		if strings.Contains(bad.text, "gardener") || strings.Contains(bad.text, "select: '") || strings.Contains(bad.text, "pattern: '('") || strings.Contains(bad.text, "format: yaml") {
			continue
		}
		schema := repositories
		if bad.estate {
			schema = estates
		}
		assert.Error(t, check(schema, bad.text), bad.text)
	}
	for _, good := range []string{"", "tags: a\n", "tags: [a, b]\n", "planned-end: '2027-05-01'\n", "claims:\n  - {files: x, tool: node}\n",
		"claims:\n  - {files: [x, y/*.json], tool: node, role: bound, format: json, select: $.a, pattern: '(a)', dialect: npm}\n",
		"leave-out: [a, b/**]\n", "unpinned-is-fine: [node, {tool: python, folders: [docs]}]\n", "baselines: [x]\n", "built-by: [agents]\n"} {
		assert.NoError(t, check(repositories, good), good)
		assert.NoError(t, check(estates, good), good)
		_, _, problems := parse(t, good, false)
		assert.Empty(t, problems, good)
	}
	for _, good := range []string{"machines: {k: {tags: [kiosks]}}\ngroups: {kiosks: 'The kiosks'}\n", "machines: {'kiosk-*': {tags: [kiosks], report-within: 36h}}\n", "machines: {k: {tags: [kiosks]}}\nrepositories: {'tag:kiosk': {built-by: [kiosks]}}\n", "horizon: 30\n", "severities: {pin-missing: note, end-of-life: warning}\n", "repositories: {'seed-*': {horizon: 400, severities: {pin-missing: error}}}\n"} {
		assert.NoError(t, check(estates, good), good)
		assert.Error(t, check(repositories, good), "a repository decides nothing of it")
		_, _, problems := parse(t, good, true)
		assert.Empty(t, problems, good)
	}
}

// TestSchemaNamesWhatThereIs: tools and dialects stand in the schema as they are known. Where
// they do not, make generate puts them there.
func TestSchemaNamesWhatThereIs(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	var names []string
	for _, tool := range c.Tools() {
		names = append(names, tool.Name)
	}
	for file, keys := range map[string][]string{"wexo-repository.schema.json": userrule.RepositoryKeys, "wexo.schema.json": userrule.EstateKeys} {
		data, err := os.ReadFile("../../../docs/schemas/" + file)
		require.NoError(t, err)
		var doc struct {
			Properties struct {
				Claims struct {
					Items struct {
						Properties struct {
							Tool            struct{ Examples []string }
							Dialect, Format struct{ Enum []string }
						}
					}
				}
			}
		}
		require.NoError(t, json.Unmarshal(data, &doc))
		var whole struct{ Properties map[string]any }
		require.NoError(t, json.Unmarshal(data, &whole))
		assert.Subset(t, slices.Collect(maps.Keys(whole.Properties)), keys, file)
		p := doc.Properties.Claims.Items.Properties
		assert.ElementsMatch(t, names, p.Tool.Examples, file)
		assert.ElementsMatch(t, version.DialectNames(), p.Dialect.Enum, file)
		assert.NotEmpty(t, p.Format.Enum)
	}
}
