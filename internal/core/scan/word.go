package scan

import (
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
)

// WhyNone tells why a text is no version that somebody sets up.
func WhyNone(tool *catalogue.Tool, text string) string {
	w, err := claim.WantOf(tool, "plain", "", text)
	switch {
	case err == nil && w.Unknown != "" && !strings.ContainsAny(w.Unknown, "<>=^~|"):
		return w.Unknown + " is no vendor or build of " + tool.Title + " that the catalogue knows"
	case err == nil && !claim.Plausible(tool, text):
		return "no version of " + tool.Title + " is near this number"
	}
	return "neither a version of " + tool.Title + " nor a range that is understood here"
}

// IsSwitch tells whether a value turns something on or off, or is empty.
func IsSwitch(text string) bool {
	switch strings.ToLower(text) {
	case "", "true", "false", "yes", "no", "on", "off", "none", "null", "default", "auto", "local":
		return true
	}
	return false
}

// SetUp gives the dialect in which a text is a version of the tool, or a range of them.
func SetUp(tool *catalogue.Tool, text, ranges string) (dialect string, ok bool) {
	if text == "" || len(text) > 80 || strings.ContainsAny(text, "\n$") {
		return "", false
	}
	if IsPlain(tool, text) {
		return "plain", true
	}
	if ranges == "" || !strings.ContainsFunc(text, unicode.IsDigit) {
		return "", false
	}
	_, err := claim.WantOf(tool, ranges, "", text)
	return ranges, err == nil
}

func IsPlain(tool *catalogue.Tool, text string) bool {
	w, err := claim.WantOf(tool, "plain", "", text)
	return err == nil && w.Unknown == ""
}

// VariableDialect tells whether a variable's text is a version of the tool: a number, since
// words among variables mean anything.
func (s *File) VariableDialect(tool *catalogue.Tool, text string) (string, bool) {
	if !claim.VersionLike(text) || !claim.Plausible(tool, text) {
		return "", false
	}
	return SetUp(tool, text, "")
}
