package probe

import (
	"path"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// switches are the variables with which tools fetch no other version than the installed one: of
// the environment, or as files of the user's set them.
func (p *probe) switches() []inventory.Override {
	var out []inventory.Override
	for _, tool := range p.tools {
		f := tool.Fetches
		if f == nil || f.Variable == "" {
			continue
		}
		value, source := p.choice(f.Variable), ""
		if value == "" {
			value, source = p.set(f, true, p.machine.Info.Home)
		}
		if f.SwitchedOff(f.Variable, value) {
			out = append(out, inventory.Override{Tool: tool.Name, Variable: f.Variable, Raw: value, Source: p.short(source)})
		}
	}
	return out
}

// set is what a file below a folder sets a tool's variable to, and which one it is.
func (p *probe) set(f *catalogue.Fetching, users bool, below string) (value, source string) {
	for _, s := range f.Settings {
		rest, home := strings.CutPrefix(s.File, "~/")
		if home != users || below == "" {
			continue
		}
		file := path.Join(below, rest)
		if text := p.take(file, s.Pattern); text != "" {
			return text, file
		}
	}
	return "", ""
}

// fetching is "off" where a file of an installation's own lets it fetch nothing, and neither the
// environment nor the user says otherwise.
func (p *probe) fetching(c *candidate) string {
	f := c.tool.Fetches
	if f == nil || f.Variable == "" || p.choice(f.Variable) != "" {
		return ""
	}
	if value, _ := p.set(f, true, p.machine.Info.Home); value != "" {
		return ""
	}
	if value, _ := p.set(f, false, c.home); f.SwitchedOff(f.Variable, value) {
		return "off"
	}
	return ""
}
