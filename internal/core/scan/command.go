package scan

import (
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// assignment is a variable as a shell is given it, with its value.
var assignment = regexp.MustCompile(`(?:^|[\s;&])([A-Za-z_]\w*)=(?:"([^"]*)"|'([^']*)'|([^\s"';&]+))`)

// Assignments calls do for every NAME=value of a text.
func Assignments(text string, do func(name, value string, at int)) {
	if !strings.Contains(text, "=") {
		return
	}
	for _, m := range assignment.FindAllStringSubmatchIndex(text, 64) {
		for g := 4; g < len(m); g += 2 {
			if m[g] >= 0 {
				do(text[m[2]:m[3]], text[m[g]:m[g+1]], m[g])
			}
		}
	}
}

var commandLike = regexp.MustCompile(`^[A-Za-z][\w+.@=-]*\d[\w.:~+-]*$`)

// Installs reads the packages that a script installs and that name a tool with its version.
func (s *File) Installs(text string, at func(int) document.Value, holds, stage string) {
	words := &s.Catalogue.Places().Pipelines
	if !slices.ContainsFunc(words.Install, func(word string) bool { return strings.Contains(text, word) }) {
		return
	}
	s.Budget.Spend(len(text))
	text = strings.ReplaceAll(text, "\\\n", "  ") // a line that goes on
	for _, m := range words.Installs.FindAllStringSubmatchIndex(text, 64) {
		if words.Talked.MatchString(text[strings.LastIndexByte(text[:m[0]], '\n')+1 : m[0]]) {
			continue
		}
		from := m[2]
		for word := range strings.FieldsSeq(text[m[2]:m[3]]) {
			from += strings.Index(text[from:m[3]], word)
			v := at(from + len(word) - len(strings.TrimLeft(word, `"'(`)))
			from += len(word)
			v.Text = strings.Trim(word, `"'(),`)
			for _, c := range s.Commanded(v) {
				c.Folder, c.Stage = holds, stage
				c.Certainty, c.Why = claim.Medium, "a package that is installed"
				s.Add(c)
			}
		}
	}
}

// Commanded are the claims of a text that is nothing but a command with its version.
func (s *File) Commanded(v document.Value) []claim.Claim {
	v.Text = strings.TrimSpace(v.Text)
	if len(v.Text) > 40 || !commandLike.MatchString(v.Text) {
		return nil
	}
	var out []claim.Claim
	for _, tool := range s.Catalogue.Tools() {
		for _, pattern := range tool.Commands {
			m := pattern.FindStringSubmatchIndex(v.Text)
			if m == nil || m[0] != 0 || m[1] != len(v.Text) {
				continue
			}
			var parts []string
			for g := 2; g+1 < len(m); g += 2 {
				if m[g] >= 0 {
					parts = append(parts, v.Text[m[g]:m[g+1]])
				}
			}
			v.Means = strings.Join(parts, ".")
			out = append(out, s.Claim(tool, claim.Setup, v, "plain", s.Folder))
			break
		}
	}
	return out
}
