package main

import (
	"regexp"
	"strings"
)

var (
	linked  = regexp.MustCompile(`\]\(([^)\s]+)\)`)
	heading = regexp.MustCompile("^#+ (.+)$")
	named   = regexp.MustCompile(`<a id="([^"]+)">`)
	dropped = regexp.MustCompile(`[^\p{L}\p{N} _-]`)
)

// anchors are the places of a page that links may lead to: its headings as hosts of Markdown
// name them, and names given by hand.
func anchors(text string) map[string]bool {
	out := map[string]bool{}
	fenced := false
	for line := range strings.SplitSeq(text, "\n") {
		if strings.HasPrefix(line, "```") {
			fenced = !fenced
		}
		for _, m := range named.FindAllStringSubmatch(line, -1) {
			out[m[1]] = true
		}
		if m := heading.FindStringSubmatch(line); m != nil && !fenced {
			out[strings.ReplaceAll(strings.ToLower(dropped.ReplaceAllString(m[1], "")), " ", "-")] = true
		}
	}
	return out
}
