package pipeline

import (
	"bytes"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// mostSets is how many builds of container files one file is heard of.
const mostSets = 64

// builds keeps the arguments that a development container, or a service, sets for the
// container file it is built from.
func (p *pipeline) builds(build *document.Node) {
	args := build.Child("args")
	if args == nil {
		return
	}
	file, context := "", "."
	for _, key := range []string{"dockerfile", "dockerFile"} {
		if n := build.Child(key); n != nil && n.Kind == document.Scalar {
			file = n.Text
		}
	}
	if n := build.Child("context"); n != nil && n.Kind == document.Scalar && p.kind == "compose" {
		context = n.Text
	}
	p.sets(path.Join(path.Dir(p.Path), context, containerFile(file)), args)
}

// built keeps the arguments that a step sets which builds a container file.
func (p *pipeline) built(inputs, args *document.Node) {
	file, context := "", "."
	if n := inputs.Child("file"); n != nil && n.Kind == document.Scalar {
		file = n.Text
	} else if n := inputs.Child("context"); n != nil && n.Kind == document.Scalar && !document.Refers(n.Text) {
		context = n.Text
	}
	p.sets(path.Join(p.holds, context, containerFile(file)), args)
}

// containerFile is the name of the file that is built where none is named.
func containerFile(name string) string {
	if name == "" {
		return "Dockerfile"
	}
	return name
}

// sets keeps what a mapping, a list or a text of lines sets for a container file.
func (p *pipeline) sets(file string, args *document.Node) {
	out := scan.Sets{File: file, Args: map[string]scan.Named{}}
	switch args.Kind {
	case document.Mapping:
		for _, c := range args.Children {
			if c.Kind == document.Scalar {
				p.keep(&out, c.Key, c.Text, c.Offset)
			}
		}
	case document.List:
		for _, c := range args.Children {
			scan.Assignments(c.Text, func(name, value string, at int) { p.keep(&out, name, value, c.Offset+at) })
		}
	default:
		at := p.within(args)
		scan.Assignments(args.Text, func(name, value string, from int) { p.keep(&out, name, value, at(from).Offset) })
	}
	p.keepSets(out)
}

// keep adds an argument with what its value comes to; where that is not known it is kept so.
func (p *pipeline) keep(to *scan.Sets, name, value string, offset int) {
	list := p.scopes.compose(value, offset)
	if len(list) == 1 && list[0].Open == "" {
		value = list[0].Text
	}
	if len(to.Args) >= mostSets || len(value) >= 256 {
		return
	}
	line, column := p.Position(offset)
	if document.Refers(value) || len(list) > 1 {
		value = ""
	}
	to.Args[name] = scan.Named{Text: value, Line: line, Column: column}
}

func (p *pipeline) keepSets(s scan.Sets) {
	if len(s.Args) > 0 && len(p.Said.Sets) < mostSets {
		p.Said.Sets = append(p.Said.Sets, s)
	}
}

var (
	buildLine     = regexp.MustCompile(`[^\n;&|]*--build-arg[^\n;&|]*`)
	buildArgument = regexp.MustCompile(`--build-arg["']?(?:[ \t]*[,=][ \t]*|[ \t]+)["']?([A-Za-z_]\w*)(?:=(?:"([^"]*)"|'([^']*)'|([^\s"',\]]*)))?`)
	buildFile     = regexp.MustCompile(`[\s"'](?:-f|--file|--dockerfile)["']?[ ,=]+["']?([^\s"',]+)`)
	buildContext  = regexp.MustCompile(`[\s"']--context["']?[ ,=]+["']?(?:dir://)?([^\s"',]+)`)
)

// commandSets are what the commands of a script set that build container files. Which program
// builds them does not matter: they agree on the option. What a value comes to, resolve tells; a
// text that is empty is not known.
func commandSets(text, folder string, resolve func(value string) string, at func(offset int) (line, column int)) []scan.Sets {
	if !strings.Contains(text, "--build-arg") {
		return nil
	}
	var out []scan.Sets
	joined := strings.ReplaceAll(text, "\\\n", "  ") // a line that goes on
	for _, m := range buildLine.FindAllStringIndex(joined, mostSets) {
		command := joined[m[0]:m[1]]
		if trimmed := strings.TrimSpace(command); strings.HasPrefix(trimmed, "#") || strings.HasPrefix(trimmed, "//") {
			continue
		}
		s := scan.Sets{Args: map[string]scan.Named{}}
		s.File, s.Else = builtBy(command, folder)
		for _, a := range buildArgument.FindAllStringSubmatchIndex(command, mostSets) {
			value := "" // taken from the environment where only the name stands
			for g := 4; g < len(a); g += 2 {
				if a[g] >= 0 {
					value = command[a[g]:a[g+1]]
				}
			}
			line, column := at(m[0] + a[2])
			s.Args[command[a[2]:a[3]]] = scan.Named{Text: resolve(value), Line: line, Column: column}
		}
		if len(s.Args) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// builtBy is the container file that a command builds, as its folder tells, and as it is where the
// command is run at the root.
func builtBy(command, folder string) (file, atRoot string) {
	context := "."
	if c := buildContext.FindStringSubmatch(command); c != nil {
		context = c[1]
	} else if c := contextOf(command); c != "" {
		context = c
	}
	file = path.Join(context, "Dockerfile")
	if f := buildFile.FindStringSubmatch(command); f != nil {
		file = f[1]
	}
	if folder == "" {
		return path.Clean(file), ""
	}
	return path.Join(folder, file), path.Clean(file)
}

// alone are options of building that no value follows.
var alone = []string{"--pull", "--push", "--load", "--no-cache", "--rm", "--force-rm", "--quiet", "-q", "--squash", "build", "bud"}

// contextOf is the folder that a command names to build in: the last word that belongs to no option.
// It is empty where none is told.
func contextOf(command string) string {
	words := strings.Fields(command)
	for i := len(words) - 1; i > 0; i-- {
		word, before := strings.Trim(words[i], `"',])}`), words[i-1]
		if word == "" || strings.HasPrefix(word, "-") || strings.ContainsAny(word, "$`>=<:") {
			continue
		}
		if !strings.HasPrefix(before, "-") || strings.Contains(before, "=") || slices.Contains(alone, before) {
			return word
		}
	}
	return ""
}

// Sets adds what the commands of a script set that build container files, in the folder it works in.
func Sets(s *scan.File, folder string) {
	if !bytes.Contains(s.Data, []byte("--build-arg")) { // most files are large and say nothing of it
		return
	}
	s.Said.Sets = append(s.Said.Sets, commandSets(string(s.Data), folder, literal, s.Position)...)
}

// literal is a value as it stands, or nothing where names take part in it.
func literal(value string) string {
	if strings.ContainsAny(value, "$`%{") {
		return ""
	}
	return value
}

// scriptSets adds what the commands of a step set that build container files.
func (p *pipeline) scriptSets(n *document.Node) { p.commandSets(n, n.Text) }

// listSets adds what a command sets whose words are a list.
func (p *pipeline) listSets(n *document.Node) {
	words := make([]string, len(n.Children))
	for i, c := range n.Children {
		words[i] = c.Text
	}
	if slices.ContainsFunc(words, func(w string) bool { return strings.HasPrefix(w, "--build-arg") && !strings.Contains(w, " ") }) {
		p.commandSets(n, " "+strings.Join(words, " "))
	}
}

func (p *pipeline) commandSets(n *document.Node, text string) {
	for _, s := range commandSets(text, p.holds, func(value string) string {
		list := p.scopes.compose(value, n.Offset)
		if len(list) != 1 || list[0].Open != "" {
			return ""
		}
		return literal(list[0].Text)
	}, func(int) (int, int) { return p.Position(n.Offset) }) {
		p.keepSets(s)
	}
}
