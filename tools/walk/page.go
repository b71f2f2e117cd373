package main

import (
	"regexp"
	"strings"
)

// block is a fenced part of a page.
type block struct {
	line     int // of its first line
	language string
	says     string // of the comment before it
	lines    []string
}

// says finds what a comment tells of the block behind it.
var says = regexp.MustCompile(`^<!-- walk: (.+) -->$`)

// blocks are the fenced parts of a page.
func blocks(text string) []block {
	var out []block
	var now *block
	comment := ""
	for i, line := range strings.Split(text, "\n") {
		switch {
		case now != nil && line == "```":
			out, now, comment = append(out, *now), nil, ""
		case now != nil:
			now.lines = append(now.lines, line)
		case strings.HasPrefix(line, "```"):
			now = &block{line: i + 2, language: strings.TrimPrefix(line, "```"), says: comment}
		case says.MatchString(line):
			comment = says.FindStringSubmatch(line)[1]
		case line != "":
			comment = ""
		}
	}
	return out
}

// step is one command of a page.
type step struct {
	line    int
	command string
	expect  []string // what comes back; nil where nothing is said of it
	status  string   // how it ends; empty where it is 0 or 1
	lasting bool     // it goes on until it is stopped
}

// remark is a comment behind a command that says how it is run.
var remark = regexp.MustCompile(`\s+# (until stopped|in fish|status \d)$`)

// steps are the commands of a block.
func steps(b block) []step {
	var out []step
	for i, line := range b.lines {
		command, console := strings.CutPrefix(line, "$ ")
		switch {
		case b.language == "sh" && strings.TrimSpace(line) != "":
			if s, ok := newStep(b.line+i, line); ok {
				out = append(out, s)
			}
		case console && b.language == "console":
			if s, ok := newStep(b.line+i, command); ok {
				s.expect = []string{}
				out = append(out, s)
			}
		case b.language != "console" || len(out) == 0:
		case strings.HasPrefix(line, "# status "):
			out[len(out)-1].status = strings.TrimPrefix(line, "# status ")
		default:
			out[len(out)-1].expect = append(out[len(out)-1].expect, line)
		}
	}
	return out
}

// newStep is false for what this shell does not run.
func newStep(line int, text string) (step, bool) {
	s := step{line: line, command: text}
	if m := remark.FindStringSubmatch(text); m != nil {
		s.command = strings.TrimSuffix(text, m[0])
		s.lasting = m[1] == "until stopped"
		s.status = strings.TrimPrefix(m[1], "status ")
		if s.lasting {
			s.status = ""
		}
		return s, m[1] != "in fish"
	}
	return s, !strings.HasPrefix(strings.TrimSpace(text), "#")
}

var spaces = regexp.MustCompile(`[ \t]+`)

// comparable is a line as lines are compared: columns may be wider.
func comparable(line string) string {
	return strings.TrimSpace(spaces.ReplaceAllString(line, " "))
}

// matches reports whether what came back is what is expected, where a line of … stands for any
// lines and … within one for any text.
func matches(expect, got []string) bool {
	if len(expect) == 0 {
		return len(got) == 0
	}
	if strings.TrimSpace(expect[0]) == "…" {
		for i := range len(got) + 1 {
			if matches(expect[1:], got[i:]) {
				return true
			}
		}
		return false
	}
	if len(got) == 0 {
		return false
	}
	parts := strings.Split(comparable(expect[0]), "…")
	for i := range parts {
		parts[i] = regexp.QuoteMeta(parts[i])
	}
	same, err := regexp.MatchString("^"+strings.Join(parts, ".*")+"$", comparable(got[0]))
	return err == nil && same && matches(expect[1:], got[1:])
}
