package catalogue_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// TestRulesSpeakOfWhatIsKnown: a rule whose names nobody knows would be left out in silence.
func TestRulesSpeakOfWhatIsKnown(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	files, err := filepath.Glob("rules/*.yaml")
	require.NoError(t, err)
	names, rules := map[string]bool{}, 0
	for _, file := range files {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		var list []catalogue.Rule
		require.NoError(t, yaml.Unmarshal(data, &list))
		for _, r := range list {
			rules++
			assert.False(t, names[r.Name], "%s stands twice", r.Name)
			names[r.Name] = true
			assert.NotEmpty(t, r.Because, r.Name)
			assert.NotEmpty(t, r.Source, r.Name)
			for _, texts := range []map[string]string{r.When, r.Need} {
				for name := range texts {
					_, tool := c.Tool(name)
					_, component := c.SchemeOf(name)
					assert.True(t, tool || component, "%s speaks of %s", r.Name, name)
				}
			}
		}
	}
	assert.Greater(t, rules, 70)
}

// TestWhatGoesTogether: rules leave of a tool's versions what is admitted beside others, in
// both directions.
func TestWhatGoesTogether(t *testing.T) {
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for _, q := range []struct {
		tool, beside, dialect, is string
		admits, refuses           []string
	}{
		{"python", "django", "pep440", "==4.1.7", []string{"3.8", "3.11.4"}, []string{"3.7.9", "3.12.0"}},
		{"python", "django", "pep440", ">=4.1", []string{"3.7.9", "3.14.0"}, nil}, // not said which one it is
		{"node", "angular", "npm", "17.3.0", []string{"18.13.0", "22.1.0"}, []string{"16.20.0", "20.1.0"}},
		{"ruby", "rails", "rubygems", "= 7.2.1", []string{"3.1.0"}, []string{"3.0.6"}},
		{"java", "gradle", "plain", "7.2", []string{"16.0.1", "8.0.402"}, []string{"17.0.1", "21", "26"}},
		{"gradle", "java", "plain", "21", []string{"8.5", "9.1"}, []string{"7.6"}},
		{"erlang", "elixir", "plain", "1.14.0", []string{"25.0"}, []string{"26.0", "22.3"}},
	} {
		tool, _ := c.Tool(q.tool)
		scheme, known := c.SchemeOf(q.beside)
		if other, isTool := c.Tool(q.beside); isTool {
			scheme, known = other.Scheme(), true
		}
		require.True(t, known, q.beside)
		is, err := version.ParseRange(q.dialect, scheme, q.is)
		require.NoError(t, err)
		left := version.All(tool.Scheme())
		var by []*catalogue.Rule
		for _, r := range c.RulesOf(tool) {
			if admitted, narrows := r.Admits(tool, catalogue.Known{q.beside: is}); narrows {
				left, by = left.Intersect(admitted), append(by, r)
			}
		}
		for _, text := range q.admits {
			v, err := tool.Scheme().Parse(text)
			require.NoError(t, err)
			assert.True(t, left.Contains(v), "%s %s beside %s %s: %s", q.tool, text, q.beside, q.is, left)
		}
		for _, text := range q.refuses {
			v, err := tool.Scheme().Parse(text)
			require.NoError(t, err)
			assert.False(t, left.Contains(v), "%s %s beside %s %s: %s", q.tool, text, q.beside, q.is, left)
			assert.NotEmpty(t, by)
			assert.NotEmpty(t, by[0].Because)
			assert.Equal(t, q.beside, by[0].About(tool))
		}
	}
}
