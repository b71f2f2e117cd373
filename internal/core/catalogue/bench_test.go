package catalogue_test

import (
	"testing"

	"wexo/internal/core/catalogue"
)

func BenchmarkEmbedded(b *testing.B) {
	for b.Loop() {
		if _, err := catalogue.Embedded(); err != nil {
			b.Fatal(err)
		}
	}
}
