package userrule

import (
	"path"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
)

var claimKeys = []string{"files", "tool", "role", "format", "select", "pattern", "dialect", "reading", "applies-to"}

func (p *parser) claim(n *yaml.Node) (Claim, bool) {
	before := len(p.problems)
	c := Claim{Selectors: document.Selectors{}, At: p.place(n)}
	c.Role = string(claim.Pin)
	var selectAt, formatAt, dialectAt *yaml.Node
	p.fields(n, "a claim", claimKeys, func(key string, v *yaml.Node) {
		switch key {
		case "files":
			c.Files = p.globs(v, key)
		case "tool":
			tool, known := p.catalogue.Tool(v.Value)
			if !known {
				p.unknownTool(v, v.Value)
			}
			c.Tool = tool
		case "applies-to":
			c.AppliesTo = p.folder(v, key)
		case "role":
			c.Role = p.oneOf(v, key, "pin", "bound", "wiring", "setup", "tested", "component", "residue")
		case "format":
			c.Format, formatAt = p.oneOf(v, key, document.Formats()...), v
		case "select":
			c.Select, selectAt = p.texts(v, key), v
		case "dialect":
			c.Dialect, dialectAt = p.oneOf(v, key, version.DialectNames()...), v
		case "reading":
			c.Reading = p.oneOf(v, key, "minimum", "caret", "path", "name")
		case "pattern":
			re, err := document.CompilePattern(v.Value)
			if err != nil {
				p.problem(v, "pattern should be a regular expression with a group around the version, and %q is none that is taken: %v", document.Clip(v.Value), err)
				return
			}
			c.Pattern = catalogue.Pattern{Regexp: re}
		}
	})
	if len(p.problems) > before {
		return c, false
	}
	switch {
	case len(c.Files) == 0:
		p.problem(n, "a claim should name its files")
	case c.Tool == nil:
		p.problem(n, "a claim should name its tool")
	}
	if len(p.problems) > before {
		return c, false
	}
	c.complete()
	if err := version.DialectFits(c.Dialect, c.Tool.Scheme()); err != nil {
		p.problem(orNode(dialectAt, n), "%s: %v", c.Tool.Title, err)
	}
	if keyed := slices.Contains([]string{"json", "yaml", "toml", "xml", "hcl", "ini", "properties"}, c.Format); keyed && len(c.Select) == 0 {
		p.problem(n, "a claim in %s should say with select where the version stands", c.Format)
	} else if !keyed && c.Format != "plain" && c.Pattern.Regexp == nil {
		p.problem(orNode(formatAt, n), "a claim in a file of the format %s should have a pattern", c.Format)
	}
	p.selectors(&c, selectAt)
	return c, len(p.problems) == before
}

// selectors compiles what a claim selects.
func (p *parser) selectors(c *Claim, at *yaml.Node) {
	for i, text := range c.Select {
		err := c.Selectors.Add(c.Format, text)
		if err == nil {
			continue
		}
		where := at
		if at.Kind == yaml.SequenceNode {
			where = at.Content[i]
		}
		p.problem(where, "select should be %s, and %q is none: %v", map[bool]string{true: "an XPath", false: "a JSONPath"}[c.Format == "xml"], document.Clip(text), err)
	}
}

func orNode(n, other *yaml.Node) *yaml.Node {
	if n != nil {
		return n
	}
	return other
}

// complete fills in what follows from the rest.
func (r *Claim) complete() {
	if r.Format == "" {
		switch path.Ext(r.Files[0]) {
		case ".json", ".jsonc":
			r.Format = "json"
		case ".yaml", ".yml":
			r.Format = "yaml"
		case ".toml":
			r.Format = "toml"
		case ".xml":
			r.Format = "xml"
		case ".ini", ".cfg":
			r.Format = "ini"
		case ".properties":
			r.Format = "properties"
		default:
			if r.Format = "plain"; r.Pattern.Regexp != nil {
				r.Format = "raw"
			}
		}
		if len(r.Select) == 0 {
			if r.Format = "plain"; r.Pattern.Regexp != nil {
				r.Format = "raw"
			}
		}
	}
	if r.Dialect == "" {
		r.Dialect = r.Tool.Dialect
	}
}

// unknownTool says that nobody knows a tool, and how it can be made known.
func (p *parser) unknownTool(n *yaml.Node, name string) {
	p.problem(n, "unknown tool %q; %s", document.Clip(name), Unknown(name, p.catalogue))
}

// Unknown is what is said behind a tool that the catalogue does not know: the nearest one, or
// how to make it known.
func Unknown(name string, c *catalogue.Catalogue) string {
	hint := nearest.Hint(name, c.Names())
	if _, near := nearest.To(name, c.Names()); near {
		return hint
	}
	return hint + "; a file in a catalogue folder adds one (wexo catalogue --help)"
}

// folder is a folder of the repository; the root where it is empty or a dot.
func (p *parser) folder(n *yaml.Node, key string) *string {
	at := path.Clean(strings.Trim(n.Value, "/"))
	if n.Kind != yaml.ScalarNode || n.Tag == "!!null" || strings.ContainsAny(n.Value, `*?[]{}\`) || at == ".." || strings.HasPrefix(at, "../") {
		p.problem(n, "%s should be a folder of the repository, with \"\" for its root, and it is %s", key, kindOf(n))
		return nil
	}
	if at == "." {
		at = ""
	}
	return &at
}
