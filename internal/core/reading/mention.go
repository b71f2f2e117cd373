package reading

import (
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// maxMentions is how many mentions of one file are kept.
const maxMentions = 50

// mention keeps a place that looks like a tool beside a version and makes no claim.
func (s *scanning) mention(tool *catalogue.Tool, v document.Value, reason string) {
	if len(s.out.Mentions) >= maxMentions {
		return
	}
	line, column := s.Position(v.Offset)
	s.out.Mentions = append(s.out.Mentions, claim.Mention{Tool: tool.Name, Raw: document.Clip(v.Text), Folder: s.folder, File: s.file, Line: line, Column: column, Reason: reason})
}
