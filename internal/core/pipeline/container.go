package pipeline

import (
	"path"
	"regexp"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

var (
	instruction  = regexp.MustCompile(`(?i)^[ \t]*(FROM|ARG|ENV|RUN)[ \t]+`)
	argument     = regexp.MustCompile(`^([A-Za-z_]\w*)=["']?([^"'\s]*)`)
	bareArgument = regexp.MustCompile(`^([A-Za-z_]\w*)[ \t]*$`)
	spacedEnv    = regexp.MustCompile(`^([A-Za-z_]\w*)[ \t]+["']?([^"'\s=]+)["']?[ \t]*$`)
	stageName    = regexp.MustCompile(`(?i)^\s+AS\s+(\S+)`)
	escapeMark   = regexp.MustCompile(`(?mi)\A(?:#.*\n)*?#[ \t]*escape[ \t]*=[ \t]*` + "`")
)

// containing is a container file being read.
type containing struct {
	*scan.File
	holds     string
	over      map[string]string // arguments that whoever builds it sets over their defaults
	arguments map[string]document.Value
	stages    map[string]bool
	used      map[string]bool // arguments that an image's name used
	pending   []variableOf    // arguments and variables that may be versions
	inStage   bool
	stage     string
}

// variableOf is a name with its value.
type variableOf struct {
	name  string
	value document.Value
	stage string
}

// Container reads a container file: the image of every stage, with the defaults of the
// arguments that stand above the first stage put in, and the variables and arguments that
// are called after a tool and version.
func Container(s *scan.File, holds string, over map[string]string) {
	c := &containing{File: s, holds: holds, over: over, arguments: map[string]document.Value{}, stages: map[string]bool{}, used: map[string]bool{}}
	instructions(s, func(name, rest string, offset int) {
		switch name {
		case "ARG":
			c.argument(rest, offset)
		case "ENV":
			c.environment(rest, offset)
		case "RUN":
			c.Installs(rest, func(at int) document.Value { return document.Value{Offset: offset + at} }, c.holds, c.stage)
		default:
			c.from(rest, offset)
		}
	})
	for _, n := range c.pending {
		c.variable(n)
	}
}

func (c *containing) lookup(name string) []document.Value {
	v, ok := c.arguments[name]
	if !ok || v.Text == "" {
		return nil
	}
	c.used[name] = true
	return []document.Value{v}
}

func (c *containing) argument(rest string, offset int) {
	m := argument.FindStringSubmatchIndex(rest)
	if m == nil { // without a default it says nothing unless it is set
		if m = bareArgument.FindStringSubmatchIndex(rest); m == nil {
			return
		}
		m = append(m, m[3], m[3])
	}
	name := rest[m[2]:m[3]]
	v := document.Value{Text: rest[m[4]:m[5]], Offset: offset + m[4]}
	if set, ok := c.over[name]; ok {
		v = document.Value{Text: set, Offset: offset + m[2], Size: -1, Given: &document.Given{Name: name, Offset: offset + m[2]}}
	}
	if v.Text == "" {
		return
	}
	if list := document.Compose(v.Text, c.lookup); len(list) == 1 && list[0].From != nil && list[0].Open == "" {
		v.Text, v.Size, v.Given = list[0].Text, m[5]-m[4], list[0].From
	}
	if !c.inStage {
		c.arguments[name] = v
	}
	c.pending = append(c.pending, variableOf{name, v, c.stage})
}

func (c *containing) environment(rest string, offset int) {
	add := func(name, value string, at int) {
		v := document.Value{Text: value, Offset: offset + at}
		if document.Refers(value) {
			return // what it refers to is a claim of its own, or nobody knows
		}
		c.pending = append(c.pending, variableOf{name, v, c.stage})
	}
	if m := spacedEnv.FindStringSubmatchIndex(rest); m != nil {
		add(rest[m[2]:m[3]], rest[m[4]:m[5]], m[4])
		return
	}
	scan.Assignments(rest, add)
}

// variable is a claim where a name is a tool's and version, and no image's name used it.
func (c *containing) variable(n variableOf) {
	tool, known := c.ToolKey(n.name)
	if !known || c.used[n.name] {
		return
	}
	dialect, ok := c.VariableDialect(tool, n.value.Text)
	if means, spelled, other := tool.Spelled(n.value.Text); other {
		n.value.Means, dialect, ok = means, spelled, true
	}
	if !ok {
		c.Mention(tool, n.value, "no version of "+tool.Title)
		return
	}
	one := c.Claim(tool, claim.Setup, n.value, dialect, c.holds)
	one.Certainty, one.Why, one.Stage = claim.Medium, n.name+" is a variable; what reads it is not known", n.stage
	c.Add(one)
}

func (c *containing) from(rest string, offset int) {
	c.inStage = true
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
	c.stage = ""
	if m := stageName.FindStringSubmatch(rest[len(image):]); m != nil {
		c.stage = m[1]
	}
	if !c.stages[strings.ToLower(image)] {
		for _, composed := range document.Compose(image, c.lookup) {
			added := c.Image(image, offset, composed, c.holds)
			for i := range added {
				added[i].Stage = c.stage
			}
		}
	}
	c.stages[strings.ToLower(c.stage)] = c.stage != ""
}

// builds keeps the arguments that a development container, or a service, sets for the
// container file it is built from.
func (p *pipeline) builds(build *document.Node) {
	args := build.Child("args")
	if args == nil || len(p.Said.Sets) >= 64 {
		return
	}
	file, context := "Dockerfile", "."
	for _, key := range []string{"dockerfile", "dockerFile"} {
		if n := build.Child(key); n != nil && n.Kind == document.Scalar {
			file = n.Text
		}
	}
	if n := build.Child("context"); n != nil && n.Kind == document.Scalar && p.kind == "compose" {
		context = n.Text
	}
	out := scan.Sets{File: path.Join(path.Dir(p.Path), context, file), Args: map[string]scan.Named{}}
	keep := func(name, value string, offset int) {
		if len(out.Args) < 64 && len(value) < 256 && !document.Refers(value) {
			line, column := p.Position(offset)
			out.Args[name] = scan.Named{Text: value, Line: line, Column: column}
		}
	}
	for _, c := range args.Children {
		switch {
		case c.Kind != document.Scalar:
		case args.Kind == document.Mapping:
			keep(c.Key, c.Text, c.Offset)
		default:
			scan.Assignments(c.Text, func(name, value string, at int) { keep(name, value, c.Offset+at) })
		}
	}
	if len(out.Args) > 0 {
		p.Said.Sets = append(p.Said.Sets, out)
	}
}

// instructions calls do for every FROM, ARG, ENV and RUN; lines that go on are joined, and
// bodies of here-documents and comments are passed over.
func instructions(s *scan.File, do func(name, rest string, offset int)) {
	continued := byte('\\')
	if escapeMark.Match(s.Data) {
		continued = '`'
	}
	until := ""
	open, openAt, joined := "", 0, []byte(nil)
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
			if joined != nil {
				joined = append(joined, strings.Repeat(" ", len(line)+1)...)
			}
			continue
		}
		goesOn := trimmed != "" && trimmed[len(trimmed)-1] == continued
		if m := hereDocument.FindStringSubmatch(trimmed); m != nil {
			until = m[1]
		}
		text := line + " "
		if goesOn { // the mark becomes a space, so that offsets stay
			text = trimmed[:len(trimmed)-1] + strings.Repeat(" ", len(line)-len(trimmed)+2)
		}
		if joined == nil {
			open, openAt = "", start
			if m := instruction.FindStringSubmatchIndex(line); m != nil {
				open = strings.ToUpper(line[m[2]:m[3]])
				openAt, text = start+m[1], text[m[1]:]
			}
			joined = []byte{}
		}
		if open != "" && len(joined) < scan.MaxShape {
			joined = append(joined, text...)
		}
		if goesOn {
			continue
		}
		if open != "" {
			do(open, strings.TrimRight(string(joined), " \t\r"), openAt)
		}
		joined = nil
	}
	if open != "" && joined != nil {
		do(open, strings.TrimRight(string(joined), " \t\r"), openAt)
	}
}

var hereDocument = regexp.MustCompile(`^(?i:[ \t]*(?:RUN|COPY)\b).*<<-?["']?([A-Za-z_]\w*)["']?`)
