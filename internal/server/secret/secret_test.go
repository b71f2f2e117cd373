package secret_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/server/secret"
)

// TestMask: what makers of services mark is found by its mark, and versions stay.
func TestMask(t *testing.T) {
	for text, want := range map[string]string{
		"node: 22.11.0\npython: 3.12":                                        "node: 22.11.0\npython: 3.12",
		"pay: sk_live_" + "4eC39HqLyjWDarjtT1zdp7dcTYooMQauvdEDq54NiTphI7jx": "pay: •••",
		"hook\nglpat-" + "bK3zQ9xW7vN2mR5tY8pL\nnode 22":                     "hook\n•••\nnode 22",
		"": "",
	} {
		assert.Equal(t, want, secret.Mask(text))
	}
}
