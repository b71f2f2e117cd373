package probe_test

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/reading"
	"wexo/internal/host/probe"
)

// BenchmarkLocal probes the machine it runs on for every tool, without measuring sizes: cold,
// where nothing is remembered of what executables said, and warm.
func BenchmarkLocal(b *testing.B) {
	c, err := catalogue.Embedded()
	require.NoError(b, err)
	r, err := reading.New(c)
	require.NoError(b, err)
	for _, warm := range []bool{false, true} {
		b.Run(map[bool]string{false: "cold", true: "warm"}[warm], func(b *testing.B) {
			file := filepath.Join(b.TempDir(), "said.json")
			for b.Loop() {
				if !warm {
					file = filepath.Join(b.TempDir(), "said.json")
				}
				m := probe.Local(time.Now())
				m.Said = probe.OpenSaid(file)
				probe.Take(b.Context(), c, r, m)
				if err := m.Said.Close(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
