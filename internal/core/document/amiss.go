package document

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
)

// libraryNames are what the libraries that compile selectors and patterns put before their
// words.
var libraryNames = regexp.MustCompile(`^(jsonpath|expr|error parsing regexp): `)

// functionIn finds a function in the words about a selector.
var functionIn = regexp.MustCompile(`function (\w+)\(\)`)

// amissJSONPath says what is wrong with a text that is no JSONPath.
func amissJSONPath(text string, err error) error {
	switch m := functionIn.FindStringSubmatch(err.Error()); {
	case text == "" || text[0] != '$':
		if fixed := "$." + strings.TrimLeft(text, "./"); compiles(fixed) {
			return fmt.Errorf("it does not begin with $; did you mean %q?", fixed)
		}
		return errors.New("it does not begin with $, as $.tools.node does")
	case m != nil:
		return fmt.Errorf("there is no function %s()", m[1])
	case strings.Contains(err.Error(), "unterminated"):
		return errors.New("a quotation mark is not closed")
	case strings.Contains(err.Error(), "unexpected eof"):
		return errors.New("it ends too early")
	case strings.HasPrefix(text, "$") && len(text) > 1 && text[1] != '.' && text[1] != '[' && compiles("$."+text[1:]):
		return fmt.Errorf("behind $ stands a dot or a bracket; did you mean %q?", "$."+text[1:])
	}
	return errors.New("it is not written as one; a key that is no plain word stands in brackets and quotes: $['node-version']")
}

func compiles(path string) bool {
	_, err := compileJSONPath(path)
	return err == nil
}

// amissXPath says what is wrong with a text that is no XPath.
func amissXPath(err error) error {
	if m := functionIn.FindStringSubmatch(err.Error()); m != nil {
		return fmt.Errorf("there is no function %s()", m[1])
	}
	return errors.New("it leads to no elements, as //properties/java.version does")
}

// amissPattern says what is wrong with a text that is no regular expression.
func amissPattern(err error) error {
	return errors.New(libraryNames.ReplaceAllString(err.Error(), ""))
}

// ends is what libraries say of a text that is not whole.
var ends = regexp.MustCompile(`(?i)\bunexpected (eof|end of (json )?(input|file))\b`)

// steps is what a library was about when something went wrong.
var steps = regexp.MustCompile(`^(?:(?:parsing|decoding|reading) (?:value|object|array|element)[\w ]*: )+`)

// plainly is what a library says of a text, without what it was about to do.
func plainly(reason string) string {
	return ends.ReplaceAllString(steps.ReplaceAllString(reason, ""), "it ends too early")
}
