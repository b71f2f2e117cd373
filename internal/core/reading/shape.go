package reading

import (
	"errors"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

var (
	spaced   = regexp.MustCompile(`^([A-Za-z][\w.:/-]*)[ \t]+([^\s=]\S*)((?:[ \t]+\S+)*)$`)
	assigned = regexp.MustCompile(`^(?:export[ \t]+)?([A-Za-z][\w.-]*)[ \t]*=[ \t]*["']?([^\s"']+)["']?$`)
)

// shape looks at a small file that no rule knows.
func (s *scanning) shape(data []byte) {
	named := claim.VersionFile(path.Base(s.Path))
	var err error
	if s.Text, err = document.Decode(data); err != nil {
		if named != "" {
			s.Unreadable(err)
		}
		return
	}
	lines := document.Lines(s.Data)
	switch {
	case named != "":
		s.named(named, lines)
	case len(lines) == 0:
	case s.visible():
		s.mapped(lines)
	case s.mapped(lines):
	case len(lines) == 1 && !strings.ContainsAny(lines[0].Text, " \t="):
		s.bare(lines[0])
	default:
		s.pairs(lines)
	}
}

// named reads .<tool>-version: its first line is the version, further ones are fallbacks.
func (s *scanning) named(name string, lines []document.Line) {
	if len(lines) == 0 {
		s.Unreadable(errors.New("it is empty; it should hold one version"))
		return
	}
	first := lines[0]
	words := strings.Fields(first.Text)
	for _, l := range lines[1:] {
		words = append(words, strings.Fields(l.Text)...)
	}
	tool, known := s.Catalogue.Tool(name)
	if !known {
		if claim.VersionLike(words[0]) {
			s.unclaimed(first, fmt.Sprintf("it pins %s, a tool that the catalogue does not know", name), "")
		}
		return
	}
	c := s.shapeClaim(tool, words[0], first.Offset, claim.High, "the file's name says "+tool.Title)
	if _, err := c.Want(tool); err != nil {
		line, column := s.Position(first.Offset)
		s.Said.Problems = append(s.Said.Problems, claim.Problem{Kind: claim.Unreadable, Folder: s.Folder, File: s.Path, Line: line, Column: column, Raw: document.Clip(first.Text),
			Reason: fmt.Sprintf("it should hold one %s version, and %q is none", tool.Title, document.Clip(first.Text))})
		return
	}
	s.fallbacks(&c, tool, words[1:])
	s.Add(c)
}

// fallbacks keeps the further versions of a pin, as far as they are any.
func (s *scanning) fallbacks(c *claim.Claim, tool *catalogue.Tool, words []string) {
	for _, w := range words {
		if claim.Fits(tool, w) && len(c.Fallbacks) < 32 {
			c.Fallbacks = append(c.Fallbacks, w)
		}
	}
	if len(c.Fallbacks) > 0 {
		c.Why += "; further versions are tried in order"
	}
}

// bare reads a file with nothing but one version; the tool follows from the file's name,
// or later from the manifests beside it.
func (s *scanning) bare(line document.Line) {
	for _, part := range nameParts(path.Base(s.Path)) {
		if tool, known := s.Catalogue.Tool(strings.TrimSuffix(part, "version")); known && claim.Fits(tool, line.Text) {
			s.Add(s.shapeClaim(tool, line.Text, line.Offset, claim.High, "the file's name says "+tool.Title))
			return
		}
	}
	if len(line.Text) <= 64 {
		at, column := s.Position(line.Offset)
		begin, end := s.Span(document.Value{Text: line.Text, Offset: line.Offset}, s.Budget)
		s.Said.Bare = &scan.Bare{Text: line.Text, Line: at, Column: column, Begin: begin, End: end, Else: s.another()}
	}
}

// tellsNewest reports whether a name tells what is the newest of something: it chooses nothing.
func (s *scanning) tellsNewest(name string) bool {
	name = strings.ToLower(name)
	return slices.ContainsFunc(s.Catalogue.Places().Ordinary.Newest, func(word string) bool { return strings.HasPrefix(name, word) })
}

// nameParts are the words of a file's name, in lower case.
func nameParts(base string) []string {
	return strings.FieldsFunc(strings.ToLower(base), func(c rune) bool { return c == '.' || c == '-' || c == '_' })
}

// another says why what a file holds is more likely the version of something else; empty where
// nothing says so.
func (s *scanning) another() string {
	for _, part := range nameParts(path.Base(s.Path)) {
		for _, word := range s.Catalogue.Places().Ordinary.Words {
			if part == word || len(word) >= len("version") && (strings.HasPrefix(part, word) || strings.HasSuffix(part, word)) {
				return "its name says " + word + ", and not of what"
			}
		}
	}
	if strings.Contains("/"+claim.Above(s.Path), "/.") {
		return "it lies in a folder that some program keeps for itself"
	}
	return ""
}

// pairs reads lines of "<tool> <version>" or "<tool>=<version>". Lines with a space count
// only where every line has that shape.
func (s *scanning) pairs(lines []document.Line) {
	if pairs, ok := s.spacedPairs(lines); ok {
		for _, pair := range pairs {
			s.pair(pair, claim.High, "every line is a name and a version")
		}
		return
	}
	if s.onlyStrangers(lines) {
		s.unclaimed(lines[0], "its lines are names with versions, and the catalogue knows none of the names", "")
		return
	}
	s.assignedPairs(lines)
}

func (s *scanning) assignedPairs(lines []document.Line) {
	var known []pair
	strange := 0
	sections := slices.ContainsFunc(lines, func(l document.Line) bool { return l.Text[0] == '[' })
	for _, line := range lines {
		m := assigned.FindStringSubmatchIndex(line.Text)
		if m == nil {
			strange++
			continue
		}
		name, text := line.Text[m[2]:m[3]], line.Text[m[4]:m[5]]
		at := document.Line{Text: line.Text, Offset: line.Offset + m[4]}
		if tool, ok := s.Catalogue.Tool(name); ok && claim.Fits(tool, text) {
			known = append(known, pair{name, text, nil, at})
		} else if tool, ok := s.ToolKey(name); ok && s.tellsNewest(name) {
			s.Mention(tool, document.Value{Text: text, Offset: at.Offset}, "it tells what is the newest, and chooses nothing")
		} else if tool, ok := s.ToolKey(name); ok && !sections && claim.Fits(tool, text) && claim.NumberLike(text) {
			c := s.shapeClaim(tool, text, at.Offset, claim.Low, "a variable in a file of variables; what reads it is not known")
			c.Role = claim.Setup
			s.Add(c)
		} else if !claim.VersionLike(text) || !strings.Contains(text, ".") {
			strange++
		}
	}
	certainty, why := claim.High, "every line is a tool and its version"
	if strange > 0 {
		certainty, why = claim.Medium, "other lines of the file are no versions"
	}
	for _, pair := range known {
		if strange > 0 && !strings.Contains(pair.text, ".") {
			continue // a lone number among settings is one more setting
		}
		s.pair(pair, certainty, why)
	}
}

// pair is a tool's name and a version with the place of the latter.
type pair struct {
	name, text string
	rest       []string
	line       document.Line
}

func (s *scanning) spacedPairs(lines []document.Line) ([]pair, bool) {
	var pairs []pair
	known := false
	for _, line := range lines {
		m := spaced.FindStringSubmatchIndex(line.Text)
		if m == nil {
			return nil, false
		}
		name, text := line.Text[m[2]:m[3]], line.Text[m[4]:m[5]]
		tool, ok := s.Catalogue.Tool(name)
		if !(ok && claim.Fits(tool, text)) && !claim.VersionLike(text) && keptText(text) == "" && !strings.Contains(text, ":") {
			return nil, false
		}
		known = known || ok
		pairs = append(pairs, pair{name, text, strings.Fields(line.Text[m[6]:m[7]]), document.Line{Text: line.Text, Offset: line.Offset + m[4]}})
	}
	return pairs, known
}

// onlyStrangers tells whether every line is an unknown name with a full version.
func (s *scanning) onlyStrangers(lines []document.Line) bool {
	names := map[string]bool{"version": true, "release": true, "date": true}
	for _, line := range lines {
		m := spaced.FindStringSubmatch(line.Text)
		if m == nil || names[strings.ToLower(m[1])] || !strings.Contains(m[2], ".") || !claim.NumberLike(m[2]) {
			return false
		}
		if _, known := s.Catalogue.Tool(m[1]); known {
			return false
		}
		names[strings.ToLower(m[1])] = true
	}
	return true
}

func (s *scanning) pair(pair pair, certainty, why string) {
	tool, ok := s.Catalogue.Tool(pair.name)
	if !ok {
		s.unclaimed(pair.line, fmt.Sprintf("it pins %s, a tool that the catalogue does not know", pair.name), "")
		return
	}
	c := s.shapeClaim(tool, pair.text, pair.line.Offset, certainty, why)
	if what := keptText(pair.text); what != "" {
		c.Reading, c.Why = "kept", what
	}
	if _, err := c.Want(tool); err != nil {
		s.unclaimed(pair.line, fmt.Sprintf("%q is no %s version", document.Clip(pair.text), tool.Title), tool.Name)
		return
	}
	s.fallbacks(&c, tool, pair.rest)
	s.Add(c)
}

var gitReference = regexp.MustCompile(`^(?:(?:ref|git|branch|tag|rev|sha|commit):\S+|(?:git\+)?(?:https?|ssh|git)(?:://|@)\S+|[0-9a-f]{40})$`)

// keptText says what a text is that names no version but is a pin all the same: a path, a
// git reference. It is empty for others.
func keptText(text string) string {
	switch {
	case strings.HasPrefix(text, "path:") || strings.HasPrefix(text, "/") || strings.HasPrefix(text, "~/") || strings.HasPrefix(text, "./") || strings.HasPrefix(text, "file:"):
		return "it names a path, not a version"
	case gitReference.MatchString(text):
		return "it names a git reference, not a version"
	}
	return ""
}

func (s *scanning) shapeClaim(tool *catalogue.Tool, raw string, offset int, certainty, why string) claim.Claim {
	return s.shaped(tool, document.Value{Text: raw, Offset: offset}, certainty, why)
}

func (s *scanning) shaped(tool *catalogue.Tool, v document.Value, certainty, why string) claim.Claim {
	c := s.Claim(tool, claim.Pin, document.Value{Text: v.Text, Offset: v.Offset, Size: v.Size}, tool.Dialect, s.Folder)
	c.Recognised, c.Certainty, c.Why = claim.Shape, certainty, why
	return c
}

func (s *scanning) unclaimed(at document.Line, reason, tool string) {
	line, column := s.Position(at.Offset)
	s.Said.Problems = append(s.Said.Problems, claim.Problem{Kind: claim.Unclaimed, Folder: s.Folder, File: s.Path, Line: line, Column: column,
		Raw: document.Clip(at.Text), Reason: reason, Settle: settle(s.Path, tool), Stranger: tool == ""})
}

// settle is the three lines of configuration that end an unclaimed file's finding: a
// claim of a tool, or that the file is none of ours.
func settle(file, tool string) string {
	if tool == "" {
		return fmt.Sprintf("# none of ours\nleave-out:\n  - %s", quoted(file))
	}
	return fmt.Sprintf("claims:\n  - files: [%s]\n    tool: %s", quoted(file), tool)
}

// quoted is a path as YAML reads it back.
func quoted(s string) string {
	if plainPath.MatchString(s) {
		return s
	}
	return fmt.Sprintf("%q", s)
}

var plainPath = regexp.MustCompile(`^[A-Za-z0-9._/][A-Za-z0-9._/ -]*$`)

func titles(tools []*catalogue.Tool) string {
	var out []string
	for _, t := range tools {
		out = append(out, t.Title)
	}
	slices.Sort(out)
	return strings.Join(out, " or ")
}
