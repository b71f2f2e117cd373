package pipeline

import (
	"cmp"
	"path"
	"regexp"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

var (
	instruction = regexp.MustCompile(`(?i)^[ \t]*(FROM|ARG|ENV|RUN)[ \t]+`)
	argument    = regexp.MustCompile(`(?:^|\s)([A-Za-z_]\w*)(?:=(?:"([^"]*)"|'([^']*)'|([^\s"']*)))?`)
	spacedEnv   = regexp.MustCompile(`^([A-Za-z_]\w*)[ \t]+["']?([^"'\s=]+)["']?[ \t]*$`)
	stageName   = regexp.MustCompile(`(?i)^\s+AS\s+(\S+)`)
	escapeMark  = regexp.MustCompile(`(?mi)\A(?:#.*\n)*?#[ \t]*escape[ \t]*=[ \t]*` + "`")
)

// containing is a container file being read.
type containing struct {
	*scan.File
	holds   string
	over    map[string]string // arguments that whoever builds it sets over their defaults
	scopes  *scopes           // the whole build's arguments, and what the stage defines
	stages  map[string]bool
	used    map[string]bool // arguments, in lower case, that an image's name used
	pending []variableOf    // arguments and variables that may be versions
	stage   string
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
	c := &containing{File: s, holds: holds, over: over, scopes: newScopes(), stages: map[string]bool{}, used: map[string]bool{}}
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
	c.purposes()
}

// purposes marks what a container file sets up that is called after it, or is called old.
func (c *containing) purposes() {
	for i := range c.Said.Claims {
		one := &c.Said.Claims[i]
		if tool, known := c.Catalogue.Tool(one.Tool); known && one.Role == claim.Setup {
			one.Purpose = cmp.Or(one.Purpose, purposeIn(c.Catalogue, []title{newTitle(c.Catalogue, path.Base(c.Path))}, tool, cmp.Or(one.Means, one.Raw)))
		}
	}
}

// argument reads an instruction's arguments, each with its default if it has one.
func (c *containing) argument(rest string, offset int) {
	for _, m := range argument.FindAllStringSubmatchIndex(rest, 64) {
		name := rest[m[2]:m[3]]
		v := document.Value{Offset: offset + m[2]}
		for g := 4; g < len(m); g += 2 {
			if m[g] >= 0 {
				v = document.Value{Text: rest[m[g]:m[g+1]], Offset: offset + m[g]}
			}
		}
		if set, ok := c.over[name]; ok {
			v = document.Value{Text: set, Offset: offset + m[2], Size: -1, Given: &document.Given{Name: name, Offset: offset + m[2]}}
		}
		if v.Text == "" {
			c.again(name)
			continue
		}
		c.define(name, c.composed(v))
	}
}

// again lets an argument of the whole build hold in a stage that names it once more.
func (c *containing) again(name string) {
	if len(c.scopes.inner) == 0 {
		return
	}
	for _, v := range c.scopes.whole.values(strings.ToLower(name)) {
		c.scopes.inner[0].put(v, name)
	}
}

// composed is a value with what it refers to put in, where that is known.
func (c *containing) composed(v document.Value) document.Value {
	list := c.scopes.compose(v.Text, v.Offset)
	if len(list) != 1 || list[0].Open != "" || list[0].Text == v.Text {
		return v
	}
	out := document.Value{Text: list[0].Text, Offset: v.Offset, Size: len(v.Text), Given: list[0].From}
	if from, to, ok := document.FallbackAt(v.Text); ok && out.Given == nil {
		out.Offset, out.Size = v.Offset+from, to-from
	}
	return out
}

// define keeps a variable, for what refers to it and for what it may say itself.
func (c *containing) define(name string, v document.Value) {
	part := c.scopes.whole
	if len(c.scopes.inner) > 0 {
		part = c.scopes.inner[0]
	}
	part.replace(v, name)
	c.pending = append(c.pending, variableOf{name, v, c.stage})
}

func (c *containing) environment(rest string, offset int) {
	add := func(name, value string, at int) {
		v := c.composed(document.Value{Text: value, Offset: offset + at})
		if v.Given != nil || document.Refers(v.Text) {
			return // what it refers to is a claim of its own, or nobody knows
		}
		c.define(name, v)
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
	if !known || c.used[strings.ToLower(n.name)] {
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
	c.scopes.inner = nil
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
		c.scopes.used = c.used
		composing := c.scopes.compose(image, offset)
		c.scopes.used = map[string]bool{}
		for _, composed := range composing {
			added := c.Image(image, offset, composed, c.holds)
			for i := range added {
				added[i].Stage = c.stage
			}
		}
	}
	c.stages[strings.ToLower(c.stage)] = c.stage != ""
	c.scopes.inner = []*scope{newScope()}
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
