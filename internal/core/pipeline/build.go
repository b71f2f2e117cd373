package pipeline

import (
	"path"
	"regexp"
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
	buildCommand  = regexp.MustCompile(`\b(?:docker|podman|buildah|nerdctl)\b[^\n;&|]*\b(?:build|bud)\b[^\n;&|]*`)
	buildArgument = regexp.MustCompile(`--build-arg[ =]["']?([A-Za-z_]\w*)=(?:"([^"]*)"|'([^']*)'|([^\s"']*))`)
	buildFile     = regexp.MustCompile(`\s(?:-f|--file)[ =]["']?([^\s"']+)`)
)

// commandSets are what the commands of a script set that build container files, in a folder. What
// a value comes to, resolve tells; a text that is empty is not known.
func commandSets(text, folder string, resolve func(value string) string, at func(offset int) (line, column int)) []scan.Sets {
	if !strings.Contains(text, "--build-arg") {
		return nil
	}
	var out []scan.Sets
	joined := strings.ReplaceAll(text, "\\\n", "  ") // a line that goes on
	for _, m := range buildCommand.FindAllStringIndex(joined, mostSets) {
		command := joined[m[0]:m[1]]
		s := scan.Sets{File: path.Join(folder, "Dockerfile"), Args: map[string]scan.Named{}}
		if f := buildFile.FindStringSubmatch(command); f != nil {
			s.File = path.Join(folder, f[1])
		}
		for _, a := range buildArgument.FindAllStringSubmatchIndex(command, mostSets) {
			value := ""
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

// Sets adds what the commands of a script set that build container files, in the folder it works in.
func Sets(s *scan.File, folder string) {
	s.Said.Sets = append(s.Said.Sets, commandSets(string(s.Data), folder, func(value string) string {
		if strings.ContainsAny(value, "$`%") {
			return ""
		}
		return value
	}, s.Position)...)
}

// scriptSets adds what the commands of a step set that build container files.
func (p *pipeline) scriptSets(n *document.Node) {
	for _, s := range commandSets(n.Text, p.holds, func(value string) string {
		list := p.scopes.compose(value, n.Offset)
		if len(list) != 1 || list[0].Open != "" || strings.ContainsAny(list[0].Text, "$`%") {
			return ""
		}
		return list[0].Text
	}, func(int) (int, int) { return p.Position(n.Offset) }) {
		p.keepSets(s)
	}
}
