package pipeline

import (
	"path"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// languages reads the keys at the top of a file that are a tool's name with one version
// or several.
func (p *pipeline) languages(root *document.Node) {
	if root.Kind != document.Mapping {
		return
	}
	for _, c := range root.Children {
		tool, known := p.Catalogue.Tool(c.Key)
		if !known {
			continue
		}
		switch c.Kind {
		case document.Scalar:
			p.value(tool, c, input{})
		case document.List:
			in := input{}
			if len(c.Children) > 1 {
				in.group = c.Key
			}
			for _, v := range c.Children {
				if v.Kind == document.Scalar {
					p.value(tool, v, in)
				}
			}
		}
	}
}

var stacked = regexp.MustCompile(`(?:^|,)\s*([a-z][a-z.+-]*)\s+(\d[\w.]*)`)

// stack reads a list of tools with versions in one text, as in "node 22, go 1.25".
func (p *pipeline) stack(n *document.Node) {
	if n.Kind != document.Scalar || len(n.Text) > scan.MaxText {
		return
	}
	for _, m := range stacked.FindAllStringSubmatchIndex(n.Text, 16) {
		if tool, known := p.Catalogue.Tool(n.Text[m[2]:m[3]]); known {
			p.version(tool, document.Value{Text: n.Text[m[4]:m[5]], Offset: n.Offset + m[4]}, input{})
		}
	}
}

// task reads a step that names its kind apart from its inputs.
func (p *pipeline) task(step, name *document.Node) {
	inputs := step.Child("inputs")
	if inputs == nil || name.Kind != document.Scalar {
		return
	}
	plain, _, _ := strings.Cut(name.Text, "@")
	if p.knownStep(plain, "", name, inputs) {
		return
	}
	tool := p.toolIn(plain)
	if tool == nil {
		return
	}
	for _, key := range []string{"versionSpec", "version"} {
		if v := inputs.Child(key); v != nil {
			p.versions(tool, v, input{})
			return
		}
	}
}

// step reads a step that uses an image, is known, or names its tool, with a plain
// "version" beside it.
func (p *pipeline) step(step, uses *document.Node) {
	if uses.Kind != document.Scalar {
		return
	}
	if strings.HasPrefix(uses.Text, "docker://") {
		p.images(uses)
		return
	}
	name, reference, _ := strings.Cut(uses.Text, "@")
	if strings.HasPrefix(name, ".") {
		return
	}
	with := step.Child("with")
	if p.knownStep(path.Base(name), reference, uses, with) {
		return
	}
	v := with.Child("version")
	if v == nil {
		return
	}
	var tools []*catalogue.Tool
	for word := range strings.FieldsFuncSeq(name, func(c rune) bool { return c == '/' || c == '-' || c == '_' }) {
		if tool, known := p.Catalogue.Tool(word); known && !slices.Contains(tools, tool) {
			tools = append(tools, tool)
		}
	}
	if len(tools) == 1 && !p.names(with, tools[0]) {
		p.versions(tools[0], v, input{})
	}
}

// names tells whether one of the inputs is called after the tool and version: a plain
// "version" beside it is the step's own, or a vendor's.
func (p *pipeline) names(inputs *document.Node, tool *catalogue.Tool) bool {
	return slices.ContainsFunc(inputs.Children, func(c *document.Node) bool {
		named, known := p.InputKey(c.Key)
		return known && named == tool
	})
}

// knownStep reads a step that the catalogue describes, and tells whether it does.
func (p *pipeline) knownStep(name, reference string, at, inputs *document.Node) bool {
	known := p.Catalogue.StepsNamed(name)
	for _, s := range known {
		in := input{dialect: s.Dialect, pattern: s.Pattern, ignore: s.Ignore, vendor: p.vendorIn(s, inputs)}
		v := inputs.Child(s.Input)
		switch {
		case s.Input != "" && v != nil:
			p.read[v] = true
			p.versions(s.Tool, v, in)
		case s.Reference && reference != "":
			if from := strings.LastIndexByte(at.Text, '@') + 1; scan.IsPlain(s.Tool, reference) && !slices.Contains(s.Ignore, reference) {
				p.version(s.Tool, document.Value{Text: reference, Offset: at.Offset + from}, in)
			}
		}
	}
	return len(known) > 0
}

// vendorIn is whose build a step sets up, as one of its inputs says.
func (p *pipeline) vendorIn(s catalogue.StepOf, inputs *document.Node) string {
	n := inputs.Child(s.Vendor)
	if s.Vendor == "" || n == nil || n.Kind != document.Scalar {
		return ""
	}
	list := p.scopes.compose(n.Text, n.Offset)
	if len(list) != 1 || list[0].Open != "" {
		return ""
	}
	vendor, _ := s.Tool.VendorOf(list[0].Text)
	return vendor
}

// toolIn finds the one tool whose name is a word of a name in mixed case.
func (p *pipeline) toolIn(name string) *catalogue.Tool {
	var words []string
	word := strings.Builder{}
	runes := []rune(name)
	for i, c := range runes {
		if unicode.IsUpper(c) && i > 0 && (unicode.IsLower(runes[i-1]) || i+1 < len(runes) && unicode.IsLower(runes[i+1])) {
			words = append(words, word.String())
			word.Reset()
		}
		word.WriteRune(c)
	}
	words = append(words, word.String())
	for i, w := range words {
		if tool, known := p.Catalogue.Tool(w); known {
			return tool
		}
		if i > 0 {
			if tool, known := p.Catalogue.Tool(words[i-1] + w); known {
				return tool
			}
		}
	}
	return nil
}

// features reads a development container's features: names that end in a tool's, each
// with a version of its own.
func (p *pipeline) features(root *document.Node) {
	list := root.Child("features")
	if list == nil {
		return
	}
	for _, c := range list.Children {
		name, _, _ := strings.Cut(path.Base(c.Key), ":")
		tool, known := p.Catalogue.Tool(name)
		if !known {
			continue
		}
		v := c
		if c.Kind == document.Mapping {
			if v = c.Child("version"); v == nil {
				continue
			}
		}
		if v.Kind == document.Scalar {
			p.value(tool, v, input{})
		}
	}
}
