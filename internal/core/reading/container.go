package reading

import (
	"regexp"
	"strings"

	"wexo/internal/core/document"
)

var (
	instruction = regexp.MustCompile(`(?i)^[ \t]*(FROM|ARG)[ \t]+`)
	argument    = regexp.MustCompile(`^([A-Za-z_]\w*)=["']?([^"'\s]*)`)
	stageName   = regexp.MustCompile(`(?i)^\s+AS\s+(\S+)`)
	escapeMark  = regexp.MustCompile(`(?mi)\A(?:#.*\n)*?#[ \t]*escape[ \t]*=[ \t]*` + "`")
)

// container reads a container file: the image of every stage, with the defaults of the
// arguments that stand above the first stage put in.
func (s *scanning) container(holds string) {
	arguments := map[string]document.Value{}
	stages := map[string]bool{}
	lookup := func(name string) (document.Value, bool) { v, ok := arguments[name]; return v, ok }
	inStage := false
	s.instructions(func(name, rest string, offset int) {
		if name == "ARG" {
			for _, m := range argument.FindAllStringSubmatchIndex(rest, 1) {
				if !inStage {
					text, _ := substitute(rest[m[4]:m[5]], lookup)
					arguments[rest[m[2]:m[3]]] = document.Value{Text: text, Offset: offset + m[4]}
				}
			}
			return
		}
		inStage = true
		for strings.HasPrefix(rest, "--") { // --platform=…
			_, after, _ := strings.Cut(rest, " ")
			trimmed := strings.TrimLeft(after, " \t")
			offset += len(rest) - len(trimmed)
			rest = trimmed
		}
		image := rest
		if i := strings.IndexAny(rest, " \t\r"); i >= 0 {
			image = rest[:i]
		}
		stage := ""
		if m := stageName.FindStringSubmatch(rest[len(image):]); m != nil {
			stage = m[1]
		}
		if !stages[strings.ToLower(image)] {
			added := s.image(image, offset, lookup, holds)
			for i := range added {
				added[i].Stage = stage
			}
		}
		stages[strings.ToLower(stage)] = stage != ""
	})
}

// instructions calls do for every FROM and ARG; lines that go on are joined, and bodies
// of here-documents and comments are passed over.
func (s *scanning) instructions(do func(name, rest string, offset int)) {
	continued := byte('\\')
	if escapeMark.Match(s.Data) {
		continued = '`'
	}
	joining, until := false, ""
	offset := 0
	for line := range strings.SplitSeq(string(s.Data), "\n") {
		start := offset
		offset += len(line) + 1
		trimmed := strings.TrimRight(line, " \t\r")
		if until != "" {
			if strings.TrimLeft(trimmed, "\t") == until {
				until = ""
			}
			continue
		}
		if t := strings.TrimSpace(line); t == "" || t[0] == '#' {
			continue
		}
		was := joining
		joining = trimmed != "" && trimmed[len(trimmed)-1] == continued
		if m := hereDocument.FindStringSubmatch(trimmed); m != nil {
			until = m[1]
		}
		if was {
			continue
		}
		if m := instruction.FindStringSubmatchIndex(line); m != nil {
			do(strings.ToUpper(line[m[2]:m[3]]), strings.TrimRight(line[m[1]:], "\r"), start+m[1])
		}
	}
}

var hereDocument = regexp.MustCompile(`^(?i:[ \t]*(?:RUN|COPY)\b).*<<-?["']?([A-Za-z_]\w*)["']?`)
