package version

import "strings"

// Any dotted numbers, for tools that follow no scheme of their own: missing numbers
// count as zero, 1.10 comes after 1.9, and letters decide last: those that announce a
// release (rc, beta, dev) put a version before it, others (1.1.1w) after it.
func parseNumeric(raw string) (Version, error) {
	return readDotted(strings.TrimLeft(strings.TrimSpace(raw), "v="), true)
}

func lineNumeric(raw string) (from, to string, err error) {
	return lineDotted(strings.TrimLeft(strings.TrimSpace(raw), "v="))
}

func printNumeric(key string) (text, mark string) { return printDotted(key) }

func settleNumeric(key string) string { return settleDotted(key) }
