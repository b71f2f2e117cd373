package pipeline

import (
	"path"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
)

// purpose says why a version that is set up stands beside the others on purpose: what it is set up
// in is called after it, or is called old. It is empty where nothing says so.
func (p *pipeline) purpose(tool *catalogue.Tool, version string) string {
	return purposeIn(p.Catalogue, p.titles, tool, version)
}

// purposeIn is why a version stands beside others on purpose, as one of some titles says.
func purposeIn(c *catalogue.Catalogue, titles []title, tool *catalogue.Tool, version string) string {
	for _, t := range titles {
		if t.old {
			return "it is set up on purpose: " + document.Clip(t.text)
		}
		if namesVersion(c, t.words, tool, version) {
			return "what it is set up in is called after it: " + document.Clip(t.text)
		}
	}
	return ""
}

// title is what a part of a file is called.
type title struct {
	text  string
	words []string
	old   bool // one of its words says so
}

func newTitle(c *catalogue.Catalogue, text string) title {
	t := title{text: text, words: wordsOf(text)}
	t.old = slices.ContainsFunc(t.words, func(w string) bool { return slices.Contains(c.Places().Pipelines.Purposes, w) })
	return t
}

// namesVersion reports whether words name a tool and behind it a number with which a version begins:
// JDK 11, py37, node-16.
func namesVersion(c *catalogue.Catalogue, words []string, tool *catalogue.Tool, version string) bool {
	number := digitsOf(version)
	for i := 1; i < len(words); i++ {
		named, known := c.Tool(words[i-1])
		if !known && words[i-1] == "py" {
			named, known = c.Tool("python")
		}
		digits := strings.ReplaceAll(words[i], ".", "")
		if known && named == tool && digits != "" && strings.HasPrefix(number, digits) && strings.Trim(digits, "0123456789") == "" {
			return true
		}
	}
	return false
}

// digitsOf are the digits with which a version begins, without its dots.
func digitsOf(version string) string {
	version = strings.TrimLeft(version, "v=^~> ")
	end := strings.IndexFunc(version, func(r rune) bool { return !unicode.IsDigit(r) && r != '.' })
	if end >= 0 {
		version = version[:end]
	}
	return strings.ReplaceAll(version, ".", "")
}

// wordsOf are the words and numbers of a title, in lower case.
func wordsOf(title string) []string {
	var out []string
	from, last := 0, rune(0)
	flush := func(to int) {
		if from < to {
			out = append(out, strings.ToLower(title[from:to]))
		}
	}
	for i, r := range title {
		number := unicode.IsDigit(r) || r == '.' && unicode.IsDigit(last)
		switch {
		case !unicode.IsLetter(r) && !number:
			flush(i)
			from = i + len(string(r))
		case i > from && (unicode.IsDigit(last) || last == '.') != number, unicode.IsUpper(r) && unicode.IsLower(last):
			flush(i)
			from = i
		}
		last = r
	}
	flush(len(title))
	return out
}

// titled adds what a part of a file is called, until leave is called.
func (p *pipeline) titled(titles ...string) (leave func()) {
	before := len(p.titles)
	for _, t := range titles {
		if t != "" && len(t) < 200 {
			p.titles = append(p.titles, newTitle(p.Catalogue, t))
		}
	}
	return func() { p.titles = p.titles[:before] }
}

// titleOf is what a mapping says that it is called.
func (p *pipeline) titleOf(n *document.Node) string {
	if n.Kind != document.Mapping {
		return ""
	}
	for _, c := range n.Children {
		if c.Kind == document.Scalar && slices.Contains(p.words.Titles, strings.ToLower(c.Key)) && !document.Refers(c.Text) {
			return c.Text
		}
	}
	return ""
}

// fileTitle is the title that a file's name gives.
func fileTitle(file string) string {
	base := path.Base(file)
	return strings.TrimSuffix(base, path.Ext(base))
}

// never is a condition that nothing can meet, whatever else has to hold too.
var never = regexp.MustCompile(`(?i)^(?:false|never)$|^false\s*&&|^and\(\s*false\b`)

// switchedOff reports whether a job or step never runs.
func (p *pipeline) switchedOff(n *document.Node) bool {
	if n.Kind != document.Mapping {
		return false
	}
	for _, c := range n.Children {
		if c.Kind != document.Scalar || !slices.Contains(p.words.Switches, strings.ToLower(c.Key)) {
			continue
		}
		text := strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(c.Text), "${{"), "}}"))
		if never.MatchString(text) && !strings.Contains(text, "||") {
			return true
		}
	}
	return false
}
