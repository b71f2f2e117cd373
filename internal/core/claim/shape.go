package claim

import (
	"bytes"
	"errors"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
)

// MaxShape is the largest file, in bytes, that is looked at for its shape.
const MaxShape = 64 << 10

var (
	versionFile = regexp.MustCompile(`^\.([A-Za-z][\w.-]*?)[-_]version$`)
	spaced      = regexp.MustCompile(`^([A-Za-z][\w.-]*)[ \t]+([^\s=]\S*)((?:[ \t]+\S+)*)$`)
	assigned    = regexp.MustCompile(`^([A-Za-z][\w.-]*)[ \t]*=[ \t]*["']?([^\s"']+)["']?$`)
)

// textLine is a line that is neither blank nor a comment.
type textLine struct {
	text   string
	number int
	column int
}

func contentLines(data []byte) []textLine {
	var out []textLine
	number := 0
	for raw := range bytes.SplitSeq(data, []byte{'\n'}) {
		number++
		text := string(raw)
		for _, mark := range []string{" #", "\t#"} {
			if i := strings.Index(text, mark); i >= 0 {
				text = text[:i]
			}
		}
		trimmed := strings.TrimSpace(text)
		if trimmed == "" || trimmed[0] == '#' || strings.HasPrefix(trimmed, "//") {
			continue
		}
		column := strings.Index(text, trimmed) + 1
		if n := len(trimmed); n > 1 && (trimmed[0] == '"' || trimmed[0] == '\'') && trimmed[n-1] == trimmed[0] {
			trimmed, column = trimmed[1:n-1], column+1
		}
		out = append(out, textLine{trimmed, number, column})
	}
	return out
}

// namedVersionFile is the tool part of .<tool>-version; "" for other names.
func namedVersionFile(base string) string {
	if m := versionFile.FindStringSubmatch(base); m != nil {
		return m[1]
	}
	return ""
}

// readShape looks at a small dot-file that no rule knows.
func (r *Reader) readShape(p *pass, file, folder string, data []byte, beside []*catalogue.Tool) {
	base := path.Base(file)
	named := namedVersionFile(base)
	data = bytes.TrimPrefix(data, bom)
	if err := checkText(data); err != nil {
		if named != "" {
			p.unreadable(folder, file, err)
		}
		return
	}
	lines := contentLines(data)
	switch {
	case named != "":
		r.readNamed(p, file, folder, named, lines)
	case len(lines) == 1 && !strings.ContainsAny(lines[0].text, " \t="):
		r.readBare(p, file, folder, lines[0], beside)
	case len(lines) > 0:
		r.readPairs(p, file, folder, lines)
	}
}

// readNamed reads .<tool>-version: its first line is the version.
func (r *Reader) readNamed(p *pass, file, folder, named string, lines []textLine) {
	if len(lines) == 0 {
		p.unreadable(folder, file, errors.New("it is empty; it should hold one version"))
		return
	}
	first := lines[0]
	word := strings.Fields(first.text)[0]
	tool, known := r.catalogue.Tool(named)
	if !known {
		if versionLike(word) {
			p.unclaimed(folder, file, first, fmt.Sprintf("it pins %s, a tool that the catalogue does not know", named))
		}
		return
	}
	c := shapeClaim(tool, file, folder, word, first, High, "")
	if _, err := c.Want(tool); err != nil {
		p.problems = append(p.problems, Problem{Unreadable, folder, file, first.number, first.column, clip(first.text),
			fmt.Sprintf("it should hold one %s version, and %q is none", tool.Title, clip(first.text))})
		return
	}
	p.claims = append(p.claims, c)
}

// readBare reads a file with nothing but one version; the tool follows from the
// file's name or from the manifests beside it.
func (r *Reader) readBare(p *pass, file, folder string, line textLine, beside []*catalogue.Tool) {
	for part := range strings.FieldsFuncSeq(path.Base(file), func(c rune) bool { return c == '.' || c == '-' || c == '_' }) {
		if tool, known := r.catalogue.Tool(part); known && fits(tool, line.text) {
			p.claims = append(p.claims, shapeClaim(tool, file, folder, line.text, line, High, ""))
			return
		}
	}
	var fitting []*catalogue.Tool
	for _, tool := range beside {
		if fits(tool, line.text) {
			fitting = append(fitting, tool)
		}
	}
	if len(fitting) == 1 {
		why := fmt.Sprintf("the file names no tool; %s is the only one beside it that has such a version", fitting[0].Title)
		p.claims = append(p.claims, shapeClaim(fitting[0], file, folder, line.text, line, Medium, why))
		return
	}
	if !numberLike.MatchString(line.text) {
		return
	}
	reason := "it holds nothing but a version, and no manifest beside it says of which tool"
	if len(fitting) > 1 {
		reason = fmt.Sprintf("it holds nothing but a version, which could be of %s", titles(fitting))
	}
	p.unclaimed(folder, file, line, reason)
}

// readPairs reads lines of "<tool> <version>" or "<tool>=<version>". Lines with a
// space count only where every line has that shape.
func (r *Reader) readPairs(p *pass, file, folder string, lines []textLine) {
	if pairs, ok := r.spacedPairs(lines); ok {
		for _, pair := range pairs {
			r.readPair(p, file, folder, pair, High)
		}
		return
	}
	if r.onlyStrangers(lines) {
		p.unclaimed(folder, file, lines[0], "its lines are names with versions, and the catalogue knows none of the names")
		return
	}
	var known []pair
	strange := 0
	for _, line := range lines {
		m := assigned.FindStringSubmatchIndex(line.text)
		if m == nil {
			strange++
			continue
		}
		name, text := line.text[m[2]:m[3]], line.text[m[4]:m[5]]
		if tool, ok := r.catalogue.Tool(name); ok && fits(tool, text) {
			known = append(known, pair{name, text, textLine{line.text, line.number, line.column + m[4]}})
		} else if !versionLike(text) {
			strange++
		}
	}
	certainty := High
	if strange > 0 {
		certainty = Medium
	}
	for _, pair := range known {
		r.readPair(p, file, folder, pair, certainty)
	}
}

// pair is a tool's name and a version with the place of the latter.
type pair struct {
	name, text string
	line       textLine
}

func (r *Reader) spacedPairs(lines []textLine) ([]pair, bool) {
	var pairs []pair
	known := false
	for _, line := range lines {
		m := spaced.FindStringSubmatchIndex(line.text)
		if m == nil {
			return nil, false
		}
		name, text := line.text[m[2]:m[3]], line.text[m[4]:m[5]]
		tool, ok := r.catalogue.Tool(name)
		if !(ok && fits(tool, text)) && !versionLike(text) && !strings.Contains(text, ":") {
			return nil, false
		}
		known = known || ok
		pairs = append(pairs, pair{name, text, textLine{line.text, line.number, line.column + m[4]}})
	}
	return pairs, known
}

// onlyStrangers tells whether every line is an unknown name with a full version.
func (r *Reader) onlyStrangers(lines []textLine) bool {
	for _, line := range lines {
		m := spaced.FindStringSubmatch(line.text)
		if m == nil || !strings.Contains(m[2], ".") || !numberLike.MatchString(m[2]) {
			return false
		}
		if _, known := r.catalogue.Tool(m[1]); known {
			return false
		}
	}
	return true
}

func (r *Reader) readPair(p *pass, file, folder string, pair pair, certainty string) {
	tool, ok := r.catalogue.Tool(pair.name)
	if !ok {
		p.unclaimed(folder, file, pair.line, fmt.Sprintf("it pins %s, a tool that the catalogue does not know", pair.name))
		return
	}
	why := ""
	if certainty != High {
		why = "other lines of the file are no versions"
	}
	c := shapeClaim(tool, file, folder, pair.text, pair.line, certainty, why)
	if _, err := c.Want(tool); err != nil {
		p.unclaimed(folder, file, pair.line, fmt.Sprintf("%q is no %s version", clip(pair.text), tool.Title))
		return
	}
	p.claims = append(p.claims, c)
}

func shapeClaim(tool *catalogue.Tool, file, folder, raw string, at textLine, certainty, why string) Claim {
	return Claim{Tool: tool.Name, Role: Pin, Raw: raw, Dialect: tool.Dialect, Folder: folder, File: file,
		Line: at.number, Column: at.column, Recognised: Shape, Certainty: certainty, Why: why}
}

func (p *pass) unclaimed(folder, file string, at textLine, reason string) {
	p.problems = append(p.problems, Problem{Unclaimed, folder, file, at.number, at.column, clip(at.text), reason})
}

func titles(tools []*catalogue.Tool) string {
	var out []string
	for _, t := range tools {
		out = append(out, t.Title)
	}
	slices.Sort(out)
	return strings.Join(out, " or ")
}

// clip shortens a text from a file for a message.
func clip(s string) string {
	const most = 60
	if len(s) <= most {
		return s
	}
	return strings.ToValidUTF8(s[:most], "") + "…"
}
