package sentence

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/assess"
)

// TestEveryClassHasSentences, but for those whose findings are all of a file's problem,
// which words itself; and there are no sentences of classes that are none.
func TestEveryClassHasSentences(t *testing.T) {
	known := map[string]bool{"file-unclaimed": true, "rules-mistaken": true, "rule-idle": true}
	for _, c := range assess.Classes() {
		assert.True(t, known[c.Name] || tellers[c.Name] != nil, c.Name)
		known[c.Name] = true
	}
	for name := range tellers {
		assert.True(t, known[name], name)
	}
}

// TestEveryClassHasATitleForItsCauses, but for the ones whose findings are all of files.
func TestEveryClassHasATitleForItsCauses(t *testing.T) {
	known := map[string]bool{"file-unclaimed": true, "rules-mistaken": true, "rule-idle": true, "tools-incompatible": true, "platform-mismatch": true, "companion-missing": true} // (*words).together
	for _, c := range assess.Classes() {
		assert.True(t, known[c.Name] || causes[c.Name] != nil, c.Name)
		known[c.Name] = true
	}
	for name := range causes {
		assert.True(t, known[name], name)
	}
}
