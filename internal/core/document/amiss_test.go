package document_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/document"
)

// libraries are words that only those know who know what Wexo is made of.
const libraries = `jsonpath:|expr |error parsing|parsing value|EOF|strconv|yaml:|toml:|unmarshal`

// TestSelectorsThatAreNone are told in words of the selector, with the one that was meant.
func TestSelectorsThatAreNone(t *testing.T) {
	for _, c := range []struct{ format, text, says string }{
		{"json", "engines.node", `it does not begin with $; did you mean "$.engines.node"?`},
		{"yaml", ".engines", `it does not begin with $; did you mean "$.engines"?`},
		{"json", "", ""},
		{"json", "a b", "it does not begin with $, as $.tools.node does"},
		{"json", "$engines", `behind $ stands a dot or a bracket; did you mean "$.engines"?`},
		{"toml", "$.a[", "it ends too early"},
		{"json", "$['a", "a quotation mark is not closed"},
		{"json", "$.node-version", "it is not written as one; a key that is no plain word stands in brackets and quotes: $['node-version']"},
		{"json", "$[?foo(@)]", "there is no function foo()"},
		{"xml", "//[", "it leads to no elements, as //properties/java.version does"},
		{"xml", "//a[foo()]", "there is no function foo()"},
	} {
		err := document.Selectors{}.Add(c.format, c.text)
		if c.says == "" {
			assert.NoError(t, err)
			continue
		}
		assert.EqualError(t, err, c.says, c.text)
		assert.NotRegexp(t, libraries, err.Error())
	}
}

// TestBrokenFilesAreToldPlainly, whichever library reads them.
func TestBrokenFilesAreToldPlainly(t *testing.T) {
	for format, text := range map[string]string{"json": `{"engines": {"node": `, "xml": "<project><a>", "toml": "a = ", "yaml": "a: [b", "hcl": "terraform { a = ", "gomod": "go 1.x y\n"} {
		_, err := document.Parse(format, document.Source{Data: []byte(text)})
		if assert.Error(t, err, format) {
			assert.NotRegexp(t, libraries, err.Error(), format)
		}
	}
	_, err := document.Parse("json", document.Source{Data: []byte(`{"a": `)})
	assert.ErrorContains(t, err, "broken JSON: it ends too early")
	_, err = document.CompilePattern("(")
	assert.EqualError(t, err, "missing closing ): `(`")
}
