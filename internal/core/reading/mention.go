package reading

import (
	"bytes"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// MaxMentions is how many mentions of one repository are kept.
const MaxMentions = 500

// unread is why a mention is no claim where nothing reads its line.
const unread = "no rule reads what stands here"

// mentions keeps what files mention, without lines of which a rule of the user's, or what
// refers to them, made a claim after all.
func (p *pass) mentions() {
	claimed := map[claim.Place]bool{}
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		claimed[claim.Place{File: c.File, Line: c.Line}] = true
		if c.Given != nil {
			claimed[claim.Place{File: c.Given.File, Line: c.Given.Line}] = true
		}
	}
	for _, s := range p.scans {
		for _, m := range s.Mentions {
			if len(p.reading.Mentions) == MaxMentions {
				return
			}
			if m.Reason != unread || !claimed[claim.Place{File: m.File, Line: m.Line}] {
				p.reading.Mentions = append(p.reading.Mentions, m)
			}
		}
	}
}

// overlooked keeps the places of the file that look like a tool beside a version, on lines
// at which no claim and no mention stands: what no rule reads.
func (s *scanning) overlooked() {
	if len(s.Data) > scan.MaxShape || catalogue.Covers(s.Catalogue.Places().Unsaid.Files, s.Path) {
		return
	}
	s.Budget.Spend(len(s.Data))
	told := map[int]bool{}
	for i := range s.Said.Claims {
		told[s.Said.Claims[i].Line] = true
		if given := s.Said.Claims[i].Given; given != nil {
			told[given.Line] = true
		}
	}
	for i := range s.Said.Mentions {
		told[s.Said.Mentions[i].Line] = true
	}
	number := 0
	for line := range bytes.SplitSeq(s.Data, []byte{'\n'}) {
		number++
		if told[number] || len(s.Said.Mentions) >= scan.MaxMentions || len(line) > scan.MaxText {
			continue
		}
		if tool, at, end := s.toolBeside(line); tool != nil {
			s.Said.Mentions = append(s.Said.Mentions, claim.Mention{Tool: tool.Name, Raw: document.Clip(string(line[at:end])), Folder: s.Folder, File: s.Path,
				Line: number, Column: at + 1, Reason: unread})
		}
	}
}

// toolBeside finds a tool's name with a version behind it in a line; nil where there is
// none, or the line is a comment.
func (s *scanning) toolBeside(line []byte) (tool *catalogue.Tool, at, end int) {
	text := bytes.TrimLeft(line, " \t-")
	if len(text) == 0 || text[0] == '#' || text[0] == '%' || bytes.HasPrefix(text, []byte("//")) || bytes.HasPrefix(text, []byte("*")) || bytes.HasPrefix(text, []byte("<!--")) {
		return nil, 0, 0
	}
	for i := 1; i < len(line); i++ {
		if !isDigit(line[i]) || isDigit(line[i-1]) || line[i-1] == '.' {
			continue
		}
		end := i
		for end < len(line) && (isDigit(line[end]) || line[end] == '.') {
			end++
		}
		if end < len(line) && (isLetter(line[end]) || line[end] == '_') { // a part of a word
			continue
		}
		word := i
		if line[word-1] == 'v' && i > 1 && line[i-2] == '@' {
			continue // a step's own version
		}
		if line[word-1] == 'v' {
			word--
		}
		gap := word
		for gap > 0 && bytes.IndexByte([]byte(" \t-_=:@/\"'~^<>!({[,"), line[gap-1]) >= 0 {
			gap--
		}
		if word-gap > 8 || word == gap && bytes.IndexByte(line[i:end], '.') < 0 {
			continue
		}
		from := gap
		for from > 0 && (isLetter(line[from-1]) || line[from-1] == '+') {
			from--
		}
		if from > 0 && (line[from-1] == '/' || line[from-1] == '.') {
			continue // a part of a package's or a step's name
		}
		name := strings.TrimSuffix(strings.ToLower(string(line[from:gap])), "version")
		if name == "" && from > 1 { // node-version: 18
			gap = from - 1
			for from = gap; from > 0 && (isLetter(line[from-1]) || line[from-1] == '+'); {
				from--
			}
			name = strings.ToLower(string(line[from:gap]))
		}
		if len(name) < 2 || len(name) > 20 {
			continue
		}
		if tool, known := s.Catalogue.Tool(name); known && claim.Plausible(tool, string(line[i:end])) {
			if !s.Catalogue.Places().Unsaid.Says(text) {
				return nil, 0, 0
			}
			return tool, from, end
		}
	}
	return nil, 0, 0
}

func isDigit(c byte) bool  { return c >= '0' && c <= '9' }
func isLetter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }
