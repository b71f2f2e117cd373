package main

import (
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"strings"
)

// wordRow is a row of the glossary: a word, with others that mean the same, and what it means.
var wordRow = regexp.MustCompile(`(?m)^\| <a id="([a-z-]+)"></a>\*\*([^*]+)\*\* \| (.+) \|$`)

// link is a link of Markdown, of which the console shows the words.
var link = regexp.MustCompile(`\[([^\]]+)\]\([^)]+\)`)

// glossary writes the words of docs/glossary.md for the console, which links to them.
func glossary(from, to string) error {
	text, err := os.ReadFile(from)
	if err != nil {
		return err
	}
	rows := wordRow.FindAllStringSubmatch(string(text), -1)
	if len(rows) == 0 {
		return fmt.Errorf("%s has no words", from)
	}
	var b strings.Builder
	b.WriteString("// Written by make generate from docs/glossary.md.\n\nexport const glossary = [\n")
	for _, row := range rows {
		meaning := strings.NewReplacer("`", "", "*", "", `\|`, "|").Replace(link.ReplaceAllString(row[3], "$1"))
		fmt.Fprintf(&b, "  { id: %s, word: %s, meaning: %s },\n", quoted(row[1]), quoted(row[2]), quoted(meaning))
	}
	b.WriteString("] as const;\n\nexport type Word = (typeof glossary)[number][\"id\"];\n")
	return os.WriteFile(to, []byte(b.String()), 0o644)
}

func quoted(text string) string {
	data, err := json.Marshal(text)
	if err != nil {
		return `""`
	}
	return string(data)
}
