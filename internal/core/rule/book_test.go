package rule_test

import (
	"encoding/json"
	"io/fs"
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

func shipped(t *testing.T) *rule.Book {
	t.Helper()
	b, err := rule.Embedded()
	require.NoError(t, err)
	return b
}

// TestShippedRows: every row says why, where that is known from and when.
func TestShippedRows(t *testing.T) {
	b := shipped(t)
	assert.GreaterOrEqual(t, len(b.Rules), 60)
	stated := 0
	for _, r := range b.Rules {
		assert.NotEmpty(t, r.Rows, r.Name)
		for _, row := range r.Rows {
			assert.NotEmpty(t, row.Because, "%s %s", r.Name, row.At)
			assert.NotEmpty(t, row.Source, "%s %s", r.Name, row.At)
			if strings.Contains(row.Source, "registry") {
				stated++
				assert.NotEmpty(t, row.Date, "%s %s", r.Name, row.At)
			}
		}
		assert.Contains(t, rule.Severities, r.Severity)
	}
	assert.Greater(t, stated, 100)
}

// TestBothDirections: which of one goes with another follows from one table.
func TestBothDirections(t *testing.T) {
	b := shipped(t)
	for _, q := range []struct{ rule, of, is, left, want string }{
		{"gradle-java", "java", "21", "gradle", ">=8.5"},
		{"gradle-java", "java", "17", "gradle", ">=7.3"},
		{"gradle-java", "gradle", "8.4", "java", "<21"},
		{"gradle-java", "gradle", "7.2", "java", "<17"},
		{"elixir-erlang", "elixir", "1.14.0", "erlang", ">=23 <26"},
		{"elixir-erlang", "elixir", "1.14.5", "erlang", ">=23 <27"},
		{"django-python", "django", "4.1.7", "python", ">=3.8.0 <3.12.0"},
		{"vite-node", "vite", "7.1.0", "node", ">=20.19.0 <21.0.0 || >=22.12.0"},
		{"flutter-dart", "flutter", "3.19.6", "dart", ">=3.3.0 <3.4.0"},
		{"rails-ruby", "rails", "9.0.0", "ruby", ">=3.2"}, // so new that nothing is recorded: no less than before
	} {
		var found *rule.Rule
		for _, r := range b.Rules {
			if r.Name == q.rule {
				found = r
			}
		}
		require.NotNil(t, found, q.rule)
		scheme, _ := b.Catalogue.SchemeNamed(q.of)
		is, err := catalogue.Range(scheme, q.is)
		require.NoError(t, err)
		values := make([]rule.Value, len(found.Ends))
		values[found.Speaks(q.of)].Set = is
		assert.Equal(t, q.want, found.Left(found.Speaks(q.left), values).WithoutPrereleases().String(), "%+v", q)
	}
}

// TestRanges: a version alone is a line; each scheme has its own words, and comparisons go
// everywhere else.
func TestRanges(t *testing.T) {
	for _, q := range []struct{ scheme, text, want string }{
		{"semver", "22", ">=22.0.0 <23.0.0"}, {"semver", "^22.12", ">=22.12.0 <23.0.0"}, {"pep440", "3.12", ">=3.12.0 <3.13.0"}, {"pep440", ">=3.8,<3.11", ">=3.8.0 <3.11.0"},
		{"java", "21", ">=21 <22"}, {"java", "[17,22)", ">=17 <22"}, {"java", ">=17 <22 || 25", ">=17 <22 || >=25 <26"}, {"maven", ">=8.5", ">=8.5"}, {"rubygems", ">= 2.7", ">=2.7"}, {"erlang", "*", "*"},
	} {
		s, _ := version.SchemeNamed(q.scheme)
		set, err := catalogue.Range(s, q.text)
		require.NoError(t, err, q.text)
		assert.Equal(t, q.want, set.WithoutPrereleases().String(), "%s %s", q.scheme, q.text)
	}
	for _, text := range []string{"", ">17", "seventeen", "=>17", ">=", ">= 17"} {
		_, err := catalogue.Range(version.Java, text)
		assert.Error(t, err, text)
	}
}

// badFolders are catalogue folders with one mistake each, and what is said of it.
var badFolders = []struct{ file, text, says string }{
	{"rules/a.yaml", "rules: []\n", "rules/a.yaml:1: a file of rules should be a list, and this is a mapping"},
	{"rules/a.yaml", "- {name: a, when: {nodee: '22'}, need: {npm: '11'}, because: x}\n", `rules/a.yaml:1: "nodee" is no tool or component`},
	{"rules/a.yaml", "- name: a\n  when: {node: '22'}\n  because: x\n", "rules/a.yaml:1: a rule should have need"},
	{"rules/a.yaml", "- name: a\n  when: {node: '>>22'}\n  need: {npm: '11'}\n  because: x\n", "rules/a.yaml:2: node: "},
	{"rules/a.yaml", "- name: a\n  when: {node: '>=22 <20'}\n  need: {npm: '11'}\n  because: x\n", "rules/a.yaml:2: node: no version is in \">=22 <20\", so this never applies"},
	{"rules/a.yaml", "- {name: a, when: {node: '3'}, need: {npm: '11'}, because: x}\n", "rules/a.yaml:1: node: no version in \"3\" was ever released (no Node.js line covers it"},
	{"rules/a.yaml", "- {name: a, when: {node: '22'}, need: {npm: '11'}, because: x, level: error}\n", `rules/a.yaml:1: unknown key "level"`},
	{"rules/a.yaml", "- {name: a, when: {node: '22'}, need: {npm: '11'}, because: x, severity: awful}\n", `severity should be error, warning or note, and it is "awful"`},
	{"rules/a.yaml", "- {name: a, when: {node: '22'}, need: {node: '22'}, because: x}\n", "node stands on both sides of a rule"},
	{"rules/a.yaml", "- {name: a, when: {node: '22'}, need: {npm: '11'}, because: x}\n- {name: a, when: {node: '24'}, need: {npm: '11'}, because: x}\n", "rules/a.yaml:2: the rule a stands in rules/a.yaml:1 already"},
	{"rules/a.yaml", "- {name: a, when: {npm: '>=10'}, need: {yarn: '1'}, because: x}\n- {name: b, when: {npm: '>=11'}, need: {yarn: '4'}, because: x}\n", "rules/a.yaml:2: it contradicts a (rules/a.yaml:1): where both apply, no yarn is both 1 and 4"},
	{"rules/a.yaml", "- table: t\n  rows-of: npm\n  need: yarn\n  because: x\n  rows:\n    '10': '1'\n    '>=10.2 <10.4': '1'\n", "rules/a.yaml:7: this row can never decide: rules/a.yaml:6 says it of the same versions already"},
	{"rules/a.yaml", "- table: t\n  rows-of: npm\n  need: yarn\n  because: x\n  rows:\n    '10': '1'\n    '>=10.2': '4'\n", "rules/a.yaml:7: this row and rules/a.yaml:6 speak of the same versions; part them"},
	{"rules/a.yaml", "- table: t\n  rows-of: npm\n  need: yarn\n  because: x\n", "rules/a.yaml:1: a table should have rows"},
	{"rules/a.yaml", "- [\n", "rules/a.yaml:1: broken YAML: did not find expected node content"},
	{"baselines/a.yaml", "baseline: a\n", "baselines/a.yaml:1: a baseline should have demands, companions or both"},
	{"baselines/a.yaml", "baseline: a\ndemands: {nodee: '22'}\n", `baselines/a.yaml:2: "nodee" is no tool or component`},
	{"baselines/a.yaml", "baseline: a\ndemands: {node: '>=22 <20'}\n", "baselines/a.yaml:2: node: no version is in"},
	{"baselines/a.yaml", "baseline: a\ndemands: {node: '22'}\ncompanions: {node: {tulip: '>>1'}}\n", "baselines/a.yaml:3: tulip: "},
	{"baselines/a.yaml", "baseline: a\ndemands: {node: '22'}\nmachines: [{a: b}]\n", "baselines/a.yaml:3: machines should be a list of groups"},
	{"rules/a.yaml", "- {name: x, when: {node: '16'}, need: {pnpm: '11'}, because: x}\n- {name: y, when: {node: '16'}, need: {pnpm: '10'}, because: x}\n", "it contradicts x"},
}

func TestMistakesAreToldWithTheirPlace(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for _, bad := range badFolders {
		_, err := rule.Load(c, catalogue.Shipped(), fstest.MapFS{bad.file: {Data: []byte(bad.text)}})
		if assert.Error(t, err, bad.text) {
			assert.Contains(t, err.Error(), bad.says, bad.text)
		}
	}
}

// TestFoldersAddAndReplace: a later folder's rule, table or baseline stands in place of one of
// the same name.
func TestFoldersAddAndReplace(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	first := fstest.MapFS{"baselines/k.yaml": {Data: []byte("baseline: k\ndemands: {node: '22'}\n")}}
	second := fstest.MapFS{"baselines/k.yaml": {Data: []byte("baseline: k\ndemands: {node: '24'}\n")},
		"rules/v.yaml": {Data: []byte("- {table: vite-node, rows-of: vite, need: node, because: tried here, rows: {'7': '>=24'}}\n- {name: own, when: {vite: '8'}, need: {npm: '>=11'}, because: x}\n")}}
	b, err := rule.Load(c, catalogue.Shipped(), first, second)
	require.NoError(t, err)
	k, known := b.Baseline("k")
	require.True(t, known)
	assert.Equal(t, "24", k.Demands[0].Text)
	assert.True(t, b.Has("own"))
	assert.Len(t, b.Rules, len(shipped(t).Rules)+1)
	for _, r := range b.Of("vite") {
		if r.Name == "vite-node" {
			assert.Equal(t, "tried here", r.Rows[0].Because)
		}
	}
	_, known = b.Baseline("nobody")
	assert.False(t, known)
	assert.ErrorContains(t, b.ErrBaseline("nobody"), `no baseline is called "nobody"; the one that is known is k`)
}

// TestRuleSchemas: the published schemas take what is shipped, and refuse what the reader does.
func TestRuleSchemas(t *testing.T) {
	schema := func(file string) *jsonschema.Schema {
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
	check := func(s *jsonschema.Schema, text []byte) error {
		var value any
		if err := yaml.Unmarshal(text, &value); err != nil {
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
	rules, baselines := schema("rules.schema.json"), schema("baseline.schema.json")
	names, err := fs.Glob(catalogue.Shipped(), "rules/*.yaml")
	require.NoError(t, err)
	for _, name := range names {
		data, err := fs.ReadFile(catalogue.Shipped(), name)
		require.NoError(t, err)
		assert.NoError(t, check(rules, data), name)
	}
	assert.NoError(t, check(baselines, []byte("baseline: k\ndemands: {node: '22'}\ncompanions: {node: {tulip: '>=2'}}\nmachines: [kiosks]\n")))
	for _, bad := range badFolders {
		// What a schema cannot tell: which names and ranges there are, and how rows stand to each other.
		if strings.Contains(bad.says, "is no tool") || strings.Contains(bad.says, "node: ") || strings.Contains(bad.says, "tulip: ") || strings.Contains(bad.says, "this row") || strings.Contains(bad.says, "contradicts") || strings.Contains(bad.says, "stands") {
			continue
		}
		s := rules
		if strings.HasPrefix(bad.file, "baselines") {
			s = baselines
		}
		assert.Error(t, check(s, []byte(bad.text)), bad.text)
	}
}
