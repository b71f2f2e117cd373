package reading

import (
	"regexp"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/pipeline"
	"wexo/internal/core/scan"
)

var (
	scriptVariable = regexp.MustCompile(`^[ \t]*(?:export[ \t]+|readonly[ \t]+|local[ \t]+|declare[ \t]+(?:-\w[ \t]+)?)?([A-Za-z]\w*_(?:VERSION|version))[ \t]*[:?]?=[ \t]*["']?([^\s"'#;]+)["']?[ \t]*(?:[#;].*)?$`)
	scriptImage    = regexp.MustCompile(`\bimage[ \t]*[(:=]?[ \t]*["']([^"'\s]+)["']|\bdocker[ \t]*(?:\([ \t]*)?["']([\w./-]+:[^"'\s]+)["']|^[ \t]*(?:export[ \t]+)?\w*IMAGE[ \t]*[:?]?=[ \t]*["']?([\w./-]+:[\w.-]+)["']?[ \t]*(?:#.*)?$`)
	scriptCommand  = regexp.MustCompile(`^[ \t]*(?:export[ \t]+)?[A-Za-z]\w*[ \t]*[:?]?=[ \t]*["']?([A-Za-z][\w.+@-]*\d)["']?[ \t]*(?:[#;].*)?$`)
)

// script reads the variables of a script, or of a file of rules to build by, that are called
// after a tool and version, and the images it names.
func (s *scanning) script(holds string) {
	s.Budget.Spend(len(s.Data))
	pipeline.Sets(s.File, holds)
	offset := 0
	for line := range strings.SplitSeq(string(s.Data), "\n") {
		start := offset
		offset += len(line) + 1
		if len(line) > scan.MaxText {
			continue
		}
		if strings.Contains(line, "_VERSION") || strings.Contains(line, "_version") {
			s.scriptVariable(line, start, holds)
		} else if strings.IndexByte(line, '=') > 0 {
			s.scriptCommand(line, start, holds)
		}
		s.Installs(line, func(at int) document.Value { return document.Value{Offset: start + at} }, holds, "")
		if strings.Contains(line, "image") || strings.Contains(line, "IMAGE") || strings.Contains(line, "docker") {
			s.scriptImages(line, start, holds)
		}
	}
}

func (s *scanning) scriptVariable(line string, offset int, holds string) {
	m := scriptVariable.FindStringSubmatchIndex(line)
	if m == nil {
		return
	}
	tool, known := s.ToolKey(line[m[2]:m[3]])
	if !known || s.tellsNewest(line[m[2]:m[3]]) {
		return
	}
	v := document.Value{Text: line[m[4]:m[5]], Offset: offset + m[4]}
	if at, end, ok := document.FallbackAt(v.Text); ok && end+1 == len(v.Text) {
		v.Offset, v.Text = v.Offset+at, v.Text[at:end]
	}
	dialect, ok := s.VariableDialect(tool, v.Text)
	if !ok {
		if !strings.ContainsAny(v.Text, "$`(") { // others are found out when the script runs
			s.Mention(tool, v, "no version of "+tool.Title)
		}
		return
	}
	c := s.Claim(tool, claim.Setup, v, dialect, holds)
	c.Certainty, c.Why = claim.Low, "a variable in a script; what reads it is not known"
	s.Add(c)
}

// scriptCommand reads a variable whose text is a command with its version, as in CC = gcc-12.
func (s *scanning) scriptCommand(line string, offset int, holds string) {
	_, value, _ := strings.Cut(line, "=")
	value, _, _ = strings.Cut(value, "#")
	if value = strings.TrimRight(value, " \t\r;\"'"); value == "" || !isDigit(value[len(value)-1]) || len(value) > 60 {
		return
	}
	m := scriptCommand.FindStringSubmatchIndex(line)
	if m == nil {
		return
	}
	for _, c := range s.Commanded(document.Value{Text: line[m[2]:m[3]], Offset: offset + m[2]}) {
		c.Folder = holds
		c.Certainty, c.Why = claim.Low, "a variable in a script; what reads it is not known"
		s.Add(c)
	}
}

func (s *scanning) scriptImages(line string, offset int, holds string) {
	for _, m := range scriptImage.FindAllStringSubmatchIndex(line, 8) {
		for g := 2; g < len(m); g += 2 {
			if m[g] >= 0 {
				s.Image(line[m[g]:m[g+1]], offset+m[g], document.Composed{Text: line[m[g]:m[g+1]]}, holds)
			}
		}
	}
}

var property = regexp.MustCompile(`^[ \t]*([A-Za-z][\w.-]*)[ \t]*[=:][ \t]*(\S+)[ \t]*$`)

// properties reads a build's properties that are called after a tool and version, also with
// another name before them, as in Beds_kotlinVersion.
func (s *scanning) properties(holds string) {
	for _, line := range document.Lines(s.Data) {
		m := property.FindStringSubmatchIndex(line.Text)
		if m == nil {
			continue
		}
		name := line.Text[m[2]:m[3]]
		tool, known := s.ToolKey(name)
		if first, last, prefixed := strings.Cut(name, "_"); !known && prefixed {
			if _, also := s.Catalogue.Tool(first); !also { // gradle_node_version is a plug-in's
				tool, known = s.ToolKey(last)
			}
		}
		v := document.Value{Text: line.Text[m[4]:m[5]], Offset: line.Offset + m[4]}
		if !known || s.claimed(tool, v.Offset) {
			continue
		}
		dialect, ok := s.VariableDialect(tool, v.Text)
		if !ok {
			s.Mention(tool, v, "no version of "+tool.Title)
			continue
		}
		c := s.Claim(tool, claim.Setup, v, dialect, holds)
		c.Certainty, c.Why = claim.Medium, "a property of the build; what reads it is not known"
		s.Add(c)
	}
}
