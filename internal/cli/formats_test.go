package cli_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
)

func schemaNamed(t *testing.T, file string) *jsonschema.Schema {
	t.Helper()
	data, err := os.ReadFile("../../docs/schemas/" + file)
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(data)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource(file, doc))
	s, err := c.Compile(file)
	require.NoError(t, err)
	return s
}

// TestWhatIsWrittenFitsItsSchema: report, needs and inventory of the demo; and a report that
// lacks what it should have does not.
func TestWhatIsWrittenFitsItsSchema(t *testing.T) {
	dir := estate(t)
	at := func(name string) string { return filepath.Join(dir, name) }
	agent := at("inventories/seed-agent.json")
	for schema, args := range map[string][]string{
		"report.schema.json":    {"survey", "--config", at("wexo.yaml"), "--output", "json", "--inventory", agent, "--inventory", at("inventories/potting-bench.json"), "--fail-on", "never", at("repositories")},
		"needs.schema.json":     {"needs", "--output", "json", "--inventory", agent, at("repositories")},
		"inventory.schema.json": {"inventory", "--output", "json", "--root", at("machines/potting-bench"), "--name", "potting-bench"},
	} {
		status, out, errors := wexo(t, args...)
		want := 0
		if args[0] == "needs" {
			want = 3 // one of the demo's files cannot be read
		}
		require.Equal(t, want, status, errors)
		value, err := jsonschema.UnmarshalJSON(strings.NewReader(out))
		require.NoError(t, err)
		s := schemaNamed(t, schema)
		assert.NoError(t, s.Validate(value), schema)
		if schema != "report.schema.json" {
			continue
		}
		report := value.(map[string]any)
		for _, key := range []string{"asOf", "machines", "repositories", "findings", "causes", "unseen", "summary", "wexo", "format"} {
			was := report[key]
			delete(report, key)
			assert.Error(t, s.Validate(report), key)
			report[key] = was
		}
		report["format"] = "wexo.report/1"
		assert.Error(t, s.Validate(report))
	}
}

// TestEveryToolFitsItsSchema, as editors read it, and a misspelt key does not.
func TestEveryToolFitsItsSchema(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	s := schemaNamed(t, "tool.schema.json")
	check := func(text []byte) error {
		var value any
		require.NoError(t, yaml.Unmarshal(text, &value))
		data, err := json.Marshal(value)
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(data)))
		require.NoError(t, err)
		return s.Validate(doc)
	}
	for _, tool := range c.Tools() {
		assert.NoError(t, check(tool.Text()), tool.Name)
	}
	assert.NoError(t, check([]byte(dibber)))
	for _, wrong := range []string{"colour: green\n", "names: dib\n", "levels: perhaps\n", "setup-dialect: latin\n", "support: {newest: 2, after: soon}\n"} {
		assert.Error(t, check([]byte(dibber+wrong)), wrong)
	}
}
