package cli

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestEveryKeyOfTheConfigurationHasASchema, and an option or a variable that it stands beside.
func TestEveryKeyOfTheConfigurationHasASchema(t *testing.T) {
	data, err := os.ReadFile("../../docs/schemas/wexo.schema.json")
	require.NoError(t, err)
	var schema struct {
		Properties map[string]struct{ Description string }
	}
	require.NoError(t, json.Unmarshal(data, &schema))
	serve := newServe(Streams{})
	for key := range configKeys {
		assert.NotEmpty(t, schema.Properties[key].Description, key)
		assert.True(t, key == catalogueKey || key == linksKey || key == trustedKey || serve.Flags().Lookup(key) != nil, key)
	}
}
