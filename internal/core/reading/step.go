package reading

import (
	"path"
	"slices"
	"strings"
	"unicode"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/document"
)

// languages reads the keys at the top of a file that are a tool's name with one version
// or several.
func (p *pipeline) languages(root *document.Node) {
	if root.Kind != document.Mapping {
		return
	}
	for _, c := range root.Children {
		tool, known := p.reader.catalogue.Tool(c.Key)
		if !known {
			continue
		}
		switch c.Kind {
		case document.Scalar:
			p.version(tool, c, "")
		case document.List:
			group := ""
			if len(c.Children) > 1 {
				group = c.Key
			}
			for _, v := range c.Children {
				p.version(tool, v, group)
			}
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
	tool := p.toolIn(plain)
	if tool == nil {
		return
	}
	for _, key := range []string{"versionSpec", "version"} {
		if v := inputs.Child(key); v != nil {
			p.versions(tool, v)
			return
		}
	}
}

// step reads a step that uses an image or names its tool, with a plain "version" beside it.
func (p *pipeline) step(step, uses *document.Node) {
	if uses.Kind != document.Scalar {
		return
	}
	if strings.HasPrefix(uses.Text, "docker://") {
		p.image(uses.Text, uses.Offset, p.one, p.holds)
		return
	}
	v := step.Below("with/version")
	name, _, _ := strings.Cut(uses.Text, "@")
	if v == nil || strings.HasPrefix(name, ".") {
		return
	}
	var tools []*catalogue.Tool
	for word := range strings.FieldsFuncSeq(name, func(c rune) bool { return c == '/' || c == '-' || c == '_' }) {
		if tool, known := p.reader.catalogue.Tool(word); known && !slices.Contains(tools, tool) {
			tools = append(tools, tool)
		}
	}
	if len(tools) == 1 {
		p.versions(tools[0], v)
	}
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
		if tool, known := p.reader.catalogue.Tool(w); known {
			return tool
		}
		if i > 0 {
			if tool, known := p.reader.catalogue.Tool(words[i-1] + w); known {
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
		tool, known := p.reader.catalogue.Tool(name)
		if !known {
			continue
		}
		v := c
		if c.Kind == document.Mapping {
			if v = c.Child("version"); v == nil {
				continue
			}
		}
		p.version(tool, v, "")
	}
}
