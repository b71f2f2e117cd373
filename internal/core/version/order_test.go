package version_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/version"
)

// TestOrder: the runs of a set are the versions that it contains, whatever is in it.
func TestOrder(t *testing.T) {
	for name, dialect := range map[string]string{"semver": "npm", "pep440": "pep440", "maven": "maven", "rubygems": "rubygems", "java": "plain"} {
		scheme, known := version.SchemeNamed(name)
		require.True(t, known)
		t.Run(name, func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				text := rapid.Custom(func(t *rapid.T) string {
					out := fmt.Sprintf("%d.%d.%d", rapid.IntRange(0, 4).Draw(t, "a"), rapid.IntRange(0, 3).Draw(t, "b"), rapid.IntRange(0, 3).Draw(t, "c"))
					if rapid.IntRange(0, 4).Draw(t, "pre") == 0 {
						out += map[string]string{"semver": "-rc.1", "pep440": "rc1", "maven": "-rc-1", "rubygems": ".rc1", "java": "-ea"}[name]
					}
					return out
				})
				var list []version.Version
				for _, one := range rapid.SliceOfN(text, 0, 40).Draw(t, "versions") {
					if v, err := scheme.Parse(one); err == nil {
						list = append(list, v)
					}
				}
				order := version.NewOrder(list)
				set := version.None(scheme)
				for range rapid.IntRange(1, 3).Draw(t, "parts") {
					a, b := text.Draw(t, "from"), text.Draw(t, "to")
					written := map[string]string{"npm": ">=" + a + " <" + b, "pep440": ">=" + a + ",<" + b, "maven": "[" + a + "," + b + "]", "rubygems": ">= " + a + ", < " + b, "plain": a}[dialect]
					if part, err := version.ParseRange(dialect, scheme, written); err == nil {
						set = set.Unite(part)
					}
				}
				in := map[int]bool{}
				for _, run := range order.Runs(set) {
					for i := run[0]; i < run[1]; i++ {
						assert.False(t, in[i], "runs share nothing")
						in[i] = true
					}
				}
				for i := range order.Len() {
					assert.Equal(t, set.Contains(order.At(i)), in[i], "%s in %s", order.At(i), set)
				}
				for _, v := range list {
					found := 0
					for i := range order.Len() {
						if order.At(i).Compare(v) == 0 {
							found++
						}
					}
					assert.Equal(t, 1, found, "each is there once")
				}
			})
		})
	}
}
