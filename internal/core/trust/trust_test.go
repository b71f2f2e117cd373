package trust_test

import (
	"io/fs"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/trust"
)

var (
	function = regexp.MustCompile(`(?m)^func (Test\w+)\(`)
	attack   = regexp.MustCompile(`\{("[^"]+"), \d*`)
)

// TestEveryRowIsATest: what the line says is held by tests that are there.
func TestEveryRowIsATest(t *testing.T) {
	there := map[string]bool{}
	require.NoError(t, fs.WalkDir(os.DirFS("../../.."), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return fs.SkipDir
		}
		if !strings.HasSuffix(name, "_test.go") && name != "tools/attack/main.go" {
			return nil
		}
		data, err := os.ReadFile("../../../" + name)
		pattern := function
		if name == "tools/attack/main.go" {
			pattern = attack
		}
		for _, m := range pattern.FindAllStringSubmatch(string(data), -1) {
			there[m[1]] = true
		}
		return err
	}))
	require.Greater(t, len(there), 300)
	for _, row := range trust.Line {
		for what, text := range map[string]string{"who": row.Who, "run": row.Run, "read": row.Read, "decide": row.Decide, "show": row.Show} {
			assert.NotEmpty(t, text, "%s: %s", row.Who, what)
			assert.NotContains(t, text, "|")
		}
		assert.NotEmpty(t, row.Tests, row.Who)
		for _, name := range row.Tests {
			assert.True(t, there[name], "%s rests on %s, and there is no such test", row.Who, name)
		}
	}
}
