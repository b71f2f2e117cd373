// Package ruletest gives tests the rules that come with Wexo.
package ruletest

import (
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/rule"
)

// Book is the shipped book for a catalogue.
func Book(t require.TestingT, c *catalogue.Catalogue) *rule.Book {
	b, err := rule.Load(c, catalogue.Shipped())
	require.NoError(t, err)
	return b
}
