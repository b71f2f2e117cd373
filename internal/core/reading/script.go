package reading

import (
	"regexp"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

var (
	scriptVariable = regexp.MustCompile(`(?m)^[ \t]*(?:export[ \t]+|readonly[ \t]+|local[ \t]+|declare[ \t]+(?:-\w[ \t]+)?)?([A-Za-z]\w*_(?:VERSION|version))[ \t]*[:?]?=[ \t]*["']?([^\s"'#;]+)["']?[ \t]*(?:[#;].*)?$`)
	scriptImage    = regexp.MustCompile(`(?m)\bimage[ \t]*[(:=]?[ \t]*["']([^"'\s]+)["']|\bdocker[ \t]*(?:\([ \t]*)?["']([\w./-]+:[^"'\s]+)["']`)
)

// script reads the variables of a script, or of a file of rules to build by, that are called
// after a tool and version, and the images it names.
func (s *scanning) script(holds string) {
	for _, m := range scriptVariable.FindAllSubmatchIndex(s.Data, 256) {
		name := string(s.Data[m[2]:m[3]])
		tool, known := s.toolKey(name)
		if !known {
			continue
		}
		v := document.Value{Text: string(s.Data[m[4]:m[5]]), Offset: m[4]}
		if document.Refers(v.Text) {
			if at, end, ok := document.FallbackAt(v.Text); ok && end+1 == len(v.Text) {
				v.Offset, v.Text = v.Offset+at, v.Text[at:end]
			}
		}
		dialect, ok := s.variableDialect(tool, v.Text)
		if !ok {
			s.mention(tool, v, "no version of "+tool.Title)
			continue
		}
		c := s.claim(tool, claim.Setup, v, dialect, holds)
		c.Certainty, c.Why = claim.Low, "a variable in a script; what reads it is not known"
		s.add(c)
	}
	for _, m := range scriptImage.FindAllSubmatchIndex(s.Data, 64) {
		for g := 2; g < len(m); g += 2 {
			if m[g] >= 0 {
				text := string(s.Data[m[g]:m[g+1]])
				s.image(text, m[g], document.Composed{Text: text}, holds)
			}
		}
	}
}
