package reading_test

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
)

// TestPrecision: what merely lies about in repositories is not taken for a version file.
// Each file is read alone and beside manifests of many tools, where a bare version could
// be mistaken for a tool's.
func TestPrecision(t *testing.T) {
	data, err := os.ReadFile("testdata/ordinary.txt")
	require.NoError(t, err)
	files := txtar.Parse(data).Files
	require.Greater(t, len(files), 228)
	r := newReader(t)
	manifests := map[string]string{"package.json": "{}", "pyproject.toml": "", "go.mod": "module x\n", "Gemfile": "", "composer.json": "{}", "mix.exs": "", "Cargo.toml": ""}
	mistaken := 0
	for _, f := range files {
		alone := r.Read(tree(map[string]string{f.Name: string(f.Data)}))
		all := map[string]string{f.Name: string(f.Data)}
		for name, content := range manifests {
			all[name] = content
		}
		beside := r.Read(tree(all))
		if !assert.Empty(t, alone.Claims, f.Name) || !assert.Empty(t, beside.Claims, f.Name) {
			mistaken++
		}
		for _, p := range append(alone.Problems, beside.Problems...) {
			assert.Contains(t, p.Reason, "it holds nothing but a version", "%s: %s", f.Name, p.Reason)
		}
	}
	t.Logf("%d ordinary files, %d taken for version files", len(files), mistaken)
}
