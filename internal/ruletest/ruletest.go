// Package ruletest gives tests the rules that come with Wexo.
package ruletest

import (
	"sync"

	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/rule"
)

// books are those of catalogues that tests share: making one takes longer than most of what is
// asked of it.
var books sync.Map

// Book is the shipped book for a catalogue.
func Book(t require.TestingT, c *catalogue.Catalogue) *rule.Book {
	if known, ok := books.Load(c); ok {
		return known.(*rule.Book)
	}
	b, err := rule.Load(c, catalogue.Shipped())
	require.NoError(t, err)
	books.Store(c, b)
	return b
}
