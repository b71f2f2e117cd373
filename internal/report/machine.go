package report

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

// InventoryText prints what a machine has, tool by tool, with PATH, the variables and what
// editors know.
func InventoryText(w io.Writer, inv inventory.Inventory, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	m := inventory.NewMachine(inv, c)
	var total int64
	tools := map[string]bool{}
	for _, in := range inv.Installations {
		total += in.SizeBytes
		tools[in.Tool] = true
	}
	head := fmt.Sprintf("%s: %s of %s", terminal.Clean(inv.Machine.Name), sentence.Count(len(inv.Installations), "installation", "installations"), sentence.Count(len(tools), "tool", "tools"))
	if total > 0 {
		head += ", " + sentence.Bytes(total)
	}
	p.linef("%s", p.bold(head))
	for _, tool := range c.Tools() {
		p.machineTool(m, tool)
	}
	p.searchPath(inv)
	p.variables(m)
	p.editorTables(inv)
	p.passedOver(inv)
	return p.err
}

// mostPassedOver is how many executables are named that are passed over.
const mostPassedOver = 20

// passedOver prints what looks like a tool and is no installation.
func (p *printer) passedOver(inv inventory.Inventory) {
	if len(inv.PassedOver) == 0 {
		return
	}
	p.linef("\n%s", p.bold("Passed over: part of somebody's source, never chosen and never run"))
	for _, over := range inv.PassedOver[:min(len(inv.PassedOver), mostPassedOver)] {
		p.linef("  %s  %s", terminal.Clean(over.Path), p.dim(terminal.Clean(over.Why)))
	}
	if more := len(inv.PassedOver) - mostPassedOver; more > 0 {
		p.linef("  and %d more (--output json names them)", more)
	}
}

// machineTool prints a tool's installations and what chooses among them.
func (p *printer) machineTool(m *inventory.Machine, tool *catalogue.Tool) {
	list := m.Installed(tool.Name)
	first, onPath := m.FirstOnPath(tool.Name)
	if len(list) == 0 && !onPath {
		return
	}
	p.linef("\n%s", p.bold(tool.Title))
	version, at := 0, 0
	for _, in := range list {
		version, at = max(version, len([]rune(orDash(in.Version)))), max(at, len([]rune(terminal.Clean(in.Path))))
	}
	for _, in := range list {
		p.linef("  %s %-*s  %-*s  %s", p.healthMark(in.Health), version, terminal.Clean(orDash(in.Version)), min(at, 64), terminal.Clean(in.Path), p.dim(terminal.Clean(strings.Join(traits(in.Installation), ", "))))
		if in.Health != "good" {
			for _, line := range wrap(terminal.Clean(in.Health+": "+in.HealthReason), p.style.Width-6) {
				p.linef("      %s", line)
			}
		}
	}
	if o, ok := m.Override(tool.Name); ok {
		p.linef("  %s=%s beats every pin%s", terminal.Clean(o.Variable), terminal.Clean(o.Raw), terminal.Clean(leadsTo(m, tool, o)))
	}
	if d, ok := m.Default(tool.Name); ok {
		p.linef("  default %s, from %s", terminal.Clean(d.Raw), terminal.Clean(d.Source))
	}
	if !onPath {
		return
	}
	line := fmt.Sprintf("PATH runs %s at %s", terminal.Clean(orDash(first.Version)), terminal.Clean(first.Path))
	if x, ok := m.Proxy(tool.Name, first.Path); ok {
		if line += ", a proxy"; x.Root != "" {
			line = fmt.Sprintf("PATH runs a proxy, %s: %s where no version file decides", terminal.Clean(first.Path), terminal.Clean(orDash(first.Version)))
		}
		if x.Because != "" {
			line += terminal.Clean(" (" + x.Because + ")")
		}
		p.linef("  %s", line)
		for _, f := range x.Folders {
			p.linef("    in %s it runs %s (%s, %s)", terminal.Clean(f.Folder), terminal.Clean(orDash(f.Version)), terminal.Clean(f.Raw), terminal.Clean(f.Source))
		}
		return
	}
	p.linef("  %s", line)
}

// leadsTo says what a variable that locates a tool leads to, and whether PATH runs the same.
func leadsTo(m *inventory.Machine, tool *catalogue.Tool, o inventory.Override) string {
	if !inventory.IsPath(o.Raw) {
		return ""
	}
	in, _ := m.At(tool.Name, o.Raw)
	first, onPath := m.FirstOnPath(tool.Name)
	switch {
	case in == nil:
		return ", and leads to no installation of " + tool.Title
	case onPath && first.Version != "" && first.Version != in.Version:
		return fmt.Sprintf(": it leads to %s, and PATH runs %s", in.Version, first.Version)
	}
	return ": it leads to " + in.Version
}

func (p *printer) healthMark(health string) string {
	switch health {
	case "broken":
		return p.paint("31", "✕")
	case "unknown":
		return p.paint("33", "?")
	}
	return p.paint("32", "●")
}

// traits are what an installation is beside its version, in words.
func traits(in inventory.Installation) []string {
	out := []string{in.Origin}
	for _, word := range []string{in.Vendor, in.Variant, in.Package} {
		if word != "" {
			out = append(out, word)
		}
	}
	if in.SizeBytes > 0 {
		out = append(out, sentence.Bytes(in.SizeBytes))
	}
	var lacks []string
	for name, there := range in.Parts {
		if !there && in.Package == "kit" {
			lacks = append(lacks, strings.ReplaceAll(name, "-", " "))
		}
	}
	if slices.Sort(lacks); len(lacks) > 0 {
		out = append(out, "without "+strings.Join(lacks, ", "))
	}
	if n := len(in.Packages); n > 0 {
		out = append(out, sentence.Count(n, "package", "packages"))
	}
	return out
}

// searchPath prints PATH in order: what each folder gives, and what in it is shadowed.
func (p *printer) searchPath(inv inventory.Inventory) {
	if len(inv.SearchPath) == 0 {
		return
	}
	p.linef("\n%s", p.bold("PATH, in order"))
	for _, f := range inv.SearchPath {
		from := ""
		if f.From != "" {
			from = p.dim("  from " + terminal.Clean(f.From))
		}
		p.linef("  %s%s", terminal.Clean(f.Folder), from)
		if !f.There {
			p.linef("    %s", "is not there")
			continue
		}
		var wins, shadowed []string
		for _, t := range f.Tools {
			text := terminal.Clean(t.Name)
			switch {
			case t.Leads == "":
				text += " (a link that leads nowhere)"
			case t.Version != "" && t.Proxy:
				text += " → " + terminal.Clean(t.Version) + " by proxy"
			case t.Proxy:
				text += " by proxy"
			case t.Version != "":
				text += " " + terminal.Clean(t.Version)
			}
			if t.Wins {
				wins = append(wins, text)
			} else {
				shadowed = append(shadowed, text)
			}
		}
		for _, line := range wrap(strings.Join(wins, ", "), p.style.Width-4) {
			if line != "" {
				p.linef("    %s", line)
			}
		}
		if len(shadowed) > 0 {
			for _, line := range wrap("shadowed: "+strings.Join(shadowed, ", "), p.style.Width-4) {
				p.linef("    %s", p.dim(line))
			}
		}
	}
}

// variables prints what start-up files set that locates or chooses a tool.
func (p *printer) variables(m *inventory.Machine) {
	var lines []string
	for _, l := range m.Inventory.Startup {
		if l.Variable != "PATH" {
			lines = append(lines, terminal.Clean(fmt.Sprintf("%s=%s  (%s:%d)", l.Variable, l.Value, l.File, l.Line)))
		}
	}
	if len(lines) == 0 {
		return
	}
	p.linef("\n%s", p.bold("Start-up files set"))
	for _, line := range lines {
		p.linef("  %s", line)
	}
}

// editorTables prints what editors and build tools know, with what is newer than what new
// projects take.
func (p *printer) editorTables(inv inventory.Inventory) {
	if len(inv.Editors) == 0 {
		return
	}
	p.linef("\n%s", p.bold("What editors and build tools know"))
	for _, w := range inv.Editors {
		text := w.Name
		if text == "" {
			text = "setting"
		}
		to := w.Path
		if w.Version != "" {
			to = w.Version + " at " + w.Path
		}
		if w.Path != "" {
			text += " → " + to
		}
		if w.Default {
			text += ", for new projects"
		}
		p.linef("  %s, %s: %s%s", terminal.Clean(w.Editor), p.catalogue.Title(w.Tool), terminal.Clean(text), p.dim(terminal.Clean(fmt.Sprintf("  %s:%d", w.Source, w.Line))))
	}
	for _, note := range Lagging(inv, p.catalogue) {
		p.linef("  %s %s", p.paint("34", "○"), terminal.Clean(note))
	}
}

// Lagging tells of defaults for new projects that are older than the newest installation of
// the tool.
func Lagging(inv inventory.Inventory, c *catalogue.Catalogue) []string {
	m := inventory.NewMachine(inv, c)
	var out []string
	for _, w := range inv.Editors {
		tool, known := c.Tool(w.Tool)
		if !known || !w.Default || w.Version == "" {
			continue
		}
		number, err := tool.Scheme().Parse(w.Version)
		if err != nil {
			continue
		}
		for _, in := range m.Installed(tool.Name) { // newest first
			if in.Health == "broken" || in.Private || in.Number.IsZero() || in.Number.Prerelease() {
				continue
			}
			if in.Number.Compare(number) > 0 && tool.LineOf(in.Number) != tool.LineOf(number) {
				out = append(out, fmt.Sprintf("%s gives new projects %s %s (%s:%d), and %s is installed.", w.Editor, tool.Title, w.Version, w.Source, w.Line, in.Version))
			}
			break
		}
	}
	return out
}

func orDash(s string) string {
	if s == "" {
		return "—"
	}
	return s
}
