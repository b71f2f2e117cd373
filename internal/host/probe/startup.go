package probe

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/inventory"
)

// usualPath is what PATH is on a machine where nothing says otherwise.
var usualPath = []string{"/usr/local/sbin", "/usr/local/bin", "/usr/sbin", "/usr/bin", "/sbin", "/bin"}

const (
	// mostStartup is how many start-up files are read, those included that others name.
	mostStartup = 60
	// mostStartupLines is how many lines are told of.
	mostStartupLines = 400
)

var (
	assigns   = regexp.MustCompile(`^\s*(?:export\s+|typeset\s+-\w+\s+|declare\s+-\w+\s+|readonly\s+)?([A-Za-z_]\w*)(\+?)=(.*)$`)
	fishSets  = regexp.MustCompile(`^\s*set\s+(?:-\w+\s+|--\w+\s+)*([A-Za-z_]\w*)\s+(.*)$`)
	fishAdds  = regexp.MustCompile(`^\s*fish_add_path\s+(.*)$`)
	includes  = regexp.MustCompile(`^\s*(?:\[[^\]]*\]\s*&&\s*)?(?:\.|source)\s+("[^"]+"|'[^']+'|\S+)`)
	variable  = regexp.MustCompile(`\$\{?([A-Za-z_]\w*)\}?`)
	arrayPath = regexp.MustCompile(`^\s*path(\+?)=\(([^)]*)\)`)
)

// startups reads start-up files. They are read and never run: what a condition or a program
// would decide is taken as if it held, or left out.
type startups struct {
	p      *probe
	values map[string]string
	path   []string
	read   map[string]bool
}

// readStartup reads what shells are told when they start, and fills in PATH where it is not
// known otherwise.
func (p *probe) readStartup() {
	s := &startups{p: p, values: map[string]string{}, path: slices.Clone(usualPath), read: map[string]bool{}}
	if home := p.machine.Info.Home; home != "" {
		s.values["HOME"] = home
	}
	if p.windows {
		s.path = nil
	}
	for _, glob := range p.catalogue.Places().Machines.Startup {
		at, ofUser := strings.CutPrefix(glob, "~/")
		if ofUser && p.machine.Info.Home == "" {
			continue
		}
		if ofUser {
			at = path.Join(p.machine.Info.Home, at)
		}
		for _, file := range p.glob(at) {
			s.file(file, 0)
		}
	}
	if p.machine.Path == nil {
		p.path = s.path
	}
}

// file reads one start-up file, and those that it names.
func (s *startups) file(at string, deep int) {
	real, err := s.p.disk.real(at)
	if err != nil || s.read[real] || len(s.read) >= mostStartup || deep > 3 {
		return
	}
	s.read[real] = true
	data, err := s.p.disk.head(real, maxEntry)
	if err != nil {
		return
	}
	other := false // of two branches the first one is taken
	for i, line := range strings.Split(string(data), "\n") {
		switch word, _, _ := strings.Cut(strings.TrimSpace(line)+" ", " "); {
		case word == "else" || word == "elif":
			other = true
		case word == "fi" || strings.HasPrefix(word, "fi;"):
			other = false
		}
		if other || strings.HasPrefix(strings.TrimSpace(line), "#") {
			continue
		}
		if at == "/etc/paths" || strings.HasPrefix(at, "/etc/paths.d/") {
			if line = strings.TrimSpace(line); strings.HasPrefix(line, "/") {
				s.put(at, i+1, line, []string{line}, len(s.path))
			}
			continue
		}
		s.line(at, i+1, strings.TrimSpace(line), deep)
	}
}

// line takes what one line says.
func (s *startups) line(at string, n int, line string, deep int) {
	if m := includes.FindStringSubmatch(line); m != nil {
		if file, whole := s.expand(unquote(m[1])); whole && path.IsAbs(file) {
			s.file(file, deep+1)
		}
		return
	}
	if m := arrayPath.FindStringSubmatch(line); m != nil {
		s.list(at, n, line, strings.Fields(m[2]), m[1] != "")
		return
	}
	if m := fishAdds.FindStringSubmatch(line); m != nil {
		words := strings.Fields(m[1])
		appends := slices.Contains(words, "-a") || slices.Contains(words, "--append")
		words = slices.DeleteFunc(words, func(w string) bool { return strings.HasPrefix(w, "-") })
		if appends {
			words = append([]string{"$PATH"}, words...)
		} else {
			words = append(words, "$PATH")
		}
		s.list(at, n, line, words, false)
		return
	}
	if m := fishSets.FindStringSubmatch(line); m != nil {
		if m[1] == "PATH" || m[1] == "fish_user_paths" {
			s.list(at, n, line, append(strings.Fields(m[2]), leftOver(m[1])...), false)
		} else {
			s.set(at, n, line, m[1], m[2])
		}
		return
	}
	for _, part := range strings.Split(line, ";") {
		m := assigns.FindStringSubmatch(part)
		switch {
		case m == nil:
		case m[1] == "PATH":
			s.list(at, n, line, strings.Split(unquote(trailing(m[3])), ":"), m[2] != "")
		default:
			s.set(at, n, line, m[1], m[3])
		}
	}
}

// leftOver is what a variable of folders stands before.
func leftOver(name string) []string {
	if name == "fish_user_paths" {
		return []string{"$PATH"}
	}
	return nil
}

// trailing is a value without a comment or a further command behind it.
func trailing(value string) string {
	if value != "" && (value[0] == '"' || value[0] == '\'') {
		if end := strings.IndexByte(value[1:], value[0]); end >= 0 {
			return value[:end+2]
		}
	}
	value, _, _ = strings.Cut(value, " ")
	return value
}

func unquote(text string) string { return strings.Trim(strings.TrimSpace(text), `"'`) }

// expand writes out the home and the variables that were set before; whole is false where
// something cannot be told without running it.
func (s *startups) expand(text string) (out string, whole bool) {
	whole = !strings.ContainsAny(text, "`(")
	if rest, ok := strings.CutPrefix(text, "~"); ok && (rest == "" || rest[0] == '/') {
		text = s.values["HOME"] + rest
	}
	out = variable.ReplaceAllStringFunc(text, func(name string) string {
		value, known := s.values[strings.Trim(name, "${}")]
		whole = whole && known
		return value
	})
	return out, whole
}

// list puts folders where PATH stood among them, or in its place.
func (s *startups) list(at string, n int, raw string, words []string, appends bool) {
	if appends {
		words = append([]string{"$PATH"}, words...)
	}
	var before, after []string
	seen := false
	for _, w := range words {
		switch w = unquote(w); strings.Trim(w, "${}") {
		case "PATH", "path", "fish_user_paths":
			seen = true
			continue
		}
		if strings.Contains(w, "${PATH") { // ${PATH:+:$PATH}
			seen = true
			continue
		}
		dir, whole := s.expand(w)
		switch {
		case !whole || !path.IsAbs(dir):
		case seen:
			after = append(after, path.Clean(dir))
		default:
			before = append(before, path.Clean(dir))
		}
	}
	if !seen && len(before) > 0 {
		s.path = nil
	}
	s.put(at, n, raw, before, 0)
	s.put(at, n, raw, after, len(s.path))
}

// put adds folders to PATH at a place. One that is there already moves to the front only
// where it is put there.
func (s *startups) put(at string, n int, raw string, dirs []string, place int) {
	for i, dir := range dirs {
		if place > 0 && slices.Contains(s.path, dir) {
			continue
		}
		s.path = slices.Insert(s.path, min(place+i, len(s.path)), dir)
		s.p.from[dir] = fmt.Sprintf("%s:%d", s.p.short(at), n)
		s.tell(inventory.StartupLine{File: at, Line: n, Variable: "PATH", Raw: raw, Value: dir})
	}
	seen := map[string]bool{}
	s.path = slices.DeleteFunc(s.path, func(dir string) bool {
		again := seen[dir]
		seen[dir] = true
		return again
	})
}

// set remembers a variable, and tells of one that matters to a tool.
func (s *startups) set(at string, n int, raw, name, value string) {
	value, whole := s.expand(unquote(trailing(strings.TrimSpace(value))))
	if !whole {
		delete(s.values, name)
		return
	}
	s.values[name] = value
	if s.p.matters(name) {
		s.tell(inventory.StartupLine{File: at, Line: n, Variable: name, Raw: raw, Value: value})
	}
}

func (s *startups) tell(l inventory.StartupLine) {
	if len(s.p.startup) < mostStartupLines && len(l.Raw) < 2_000 && !strings.ContainsFunc(l.Raw+l.Value, func(r rune) bool { return r < ' ' && r != '\t' }) {
		l.Raw = strings.ReplaceAll(l.Raw, "\t", " ")
		s.p.startup = append(s.p.startup, l)
	}
}

// matters reports whether a variable chooses or locates a known tool.
func (p *probe) matters(name string) bool {
	for _, t := range p.tools {
		for _, o := range t.Overrides {
			if o.Variable == name {
				return true
			}
		}
	}
	return strings.HasSuffix(name, "_HOME") || strings.HasSuffix(name, "_ROOT") || strings.HasSuffix(name, "_VERSION") || strings.HasSuffix(name, "_TOOLCHAIN")
}
