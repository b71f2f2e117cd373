package rule

import (
	"fmt"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// derived are the rules that follow from what the catalogue says of tools and that nobody
// writes: a build made against another tool's major runs on no older one, and on a newer one
// without what that has.
func derived(c *catalogue.Catalogue) []*Rule {
	var out []*Rule
	for _, t := range c.Tools() {
		for _, label := range sortedKeys(t.BuiltAgainst) {
			other, known := c.Tool(t.BuiltAgainst[label])
			if !known || len(other.Lines) == 0 {
				continue
			}
			older := &Rule{Name: t.Name + "-built-for-" + other.Name, Severity: "error", Table: true}
			newer := &Rule{Name: t.Name + "-built-before-" + other.Name, Severity: "warning", Table: true}
			for _, r := range []*Rule{older, newer} {
				r.Ends = []End{{t.Name + ".variant", t.Name, "variant"}, {other.Name, other.Name, ""}}
				r.At = Place{File: "tools/" + t.Name + ".yaml"}
			}
			for _, l := range other.Lines {
				word := fmt.Sprintf("%s-%s", label, l.Line)
				from, err := version.Minimum(other.Scheme(), l.Line)
				if err != nil {
					continue
				}
				until := from.Complement().Unite(l.Set())
				older.Rows = append(older.Rows, built(word, from, "what is built for it starts on no older one"))
				newer.Rows = append(newer.Rows, built(word, until, "on a newer one it works without what is new there"))
			}
			out = append(out, older, newer)
		}
	}
	return out
}

// built is a row on builds of one variant.
func built(word string, need version.Set, because string) Row {
	return Row{When: []Term{{End: 0, Text: word, Word: word}}, Need: []Term{{End: 1, Text: need.String(), Set: need}}, Because: because, Source: "follows from the build's own label"}
}
