package assess_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/assess"
)

// TestWritten: what is to be written keeps a version's labels, and nothing that is none.
func TestWritten(t *testing.T) {
	a := &assess.Advice{Text: "1.26", Exact: "1.26.4"}
	for raw, want := range map[string]string{
		"1.25": "1.26", "go1.25": "go1.26", "v1.25.1": "v1.26.4", "1.25-alpine": "1.26-alpine", "temurin-17": "temurin-1.26", "1.25t": "1.26t",
		"1.25І": "1.26", "1.25\u200b": "1.26", "іс1.25": "1.26", "1.25\x07": "1.26", "1.25;x": "1.26", ">=1.25": "1.26", "latest": "1.26", "1.25$(x)": "1.26", "`1.25`": "1.26",
	} {
		assert.Equal(t, want, a.Written(raw), "%q", raw)
	}
}
