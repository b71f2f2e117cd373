package rule

import "wexo/internal/core/catalogue"

// Embedded is the book that comes with Wexo, with the catalogue that does.
func Embedded() (*Book, error) {
	c, err := catalogue.Embedded()
	if err != nil {
		return nil, err
	}
	return Load(c, catalogue.Shipped())
}
