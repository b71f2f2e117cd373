package report

import (
	"fmt"
	"io"
	"path"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/terminal"
)

// Trace is everything behind one tool in one folder.
type Trace struct {
	Repository string
	Folder     string
	Tool       Tool
	Findings   []assess.Finding
}

// rungNames are the ladder's rungs in words, with what each one is.
var rungNames = map[string]string{
	"override": "Override", "pin": "Pin", "inherited-pin": "Inherited pin", "baseline": "Baseline", "default": "Default", "path": "First on PATH",
}

var rungSilent = map[string]string{
	"override": "no variable on this machine overrides it", "pin": "no version file here", "inherited-pin": "none in the folders above",
	"baseline": "the repository adopts none", "default": "the user has none", "path": "not on PATH",
}

// TraceText prints the claims, the ladder of each machine and the findings, so that
// it can be read without knowing the words.
func TraceText(w io.Writer, t Trace, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	title := t.Tool.Tool
	if tool, known := c.Tool(title); known {
		title = tool.Title
	}
	p.linef("%s", p.bold(title+" in "+terminal.Clean(path.Join(t.Repository, t.Folder))))
	p.claims(t)
	for _, r := range t.Tool.Resolutions {
		p.ladder(r, title)
	}
	if len(t.Findings) > 0 {
		p.linef("\n%s", p.bold("What is wrong"))
		for _, f := range t.Findings {
			p.finding(f, 1)
		}
	}
	return p.err
}

func (p *printer) claims(t Trace) {
	p.linef("\n%s", p.bold("What the repository says"))
	if len(t.Tool.Claims) == 0 {
		p.linef("  nothing: no file states a version")
	}
	width, roleWidth := 0, 0
	for _, c := range t.Tool.Claims {
		width, roleWidth = max(width, len(place(c))), max(roleWidth, len(c.Role))
	}
	for _, c := range t.Tool.Claims {
		means := ""
		if c.Range != "" && c.Range != c.Raw {
			means = p.dim("  means " + terminal.Clean(c.Range))
		}
		p.linef("  %-*s  %-*s  %s%s", roleWidth, terminal.Clean(c.Role), width, place(c), terminal.Clean(c.Raw), means)
		for _, note := range c.Notes {
			p.linef("  %s", p.dim(strings.Repeat(" ", roleWidth+2)+terminal.Clean(note)))
		}
	}
	switch {
	case len(t.Tool.Conflict) > 0:
		p.linef("  %s", p.paint("31", "No version satisfies all of this. These cannot hold together:"))
		for _, c := range t.Tool.Conflict {
			p.linef("    %s  %s", place(c), terminal.Clean(c.Raw))
		}
	case len(t.Tool.Claims) > 0:
		p.linef("  together they allow: %s", p.bold(terminal.Clean(t.Tool.Feasible)))
	}
}

func place(c Claim) string { return fmt.Sprintf("%s:%d:%d", terminal.Clean(c.File), c.Line, c.Column) }

func (p *printer) ladder(r Resolution, title string) {
	p.linef("\n%s%s", p.bold("What runs on "+terminal.Clean(r.Machine)), p.dim("  (the first line that names a version decides)"))
	for n, rung := range r.Ladder {
		mark := fmt.Sprint(n + 1)
		if rung.Decides {
			mark = p.paint("32", "▶")
		}
		text := rungSilent[rung.Source]
		if rung.Says {
			text = terminal.Clean(said(rung))
		}
		name := fmt.Sprintf("%-14s", rungNames[rung.Source])
		if rung.Decides {
			name, text = p.bold(name), p.bold(text)
		} else if !rung.Says {
			name, text = p.dim(name), p.dim(text)
		}
		p.linef("  %s %s %s", mark, name, text)
	}
	p.linef("  %s", terminal.Clean(verdict(r, title)))
}

func said(rung Rung) string {
	parts := []string{}
	if rung.Raw != "" {
		parts = append(parts, rung.Raw)
	}
	if rung.Where != "" && rung.Where != rung.Path {
		parts = append(parts, "("+rung.Where+")")
	}
	switch {
	case rung.Version != "" && rung.Path != "" && (rung.Source != "path" || rung.Where == rung.Path):
		parts = append(parts, "→ "+rung.Version, "at", rung.Path)
	case rung.Version != "":
		parts = append(parts, "→ "+rung.Version)
	case rung.Source == "path":
		parts = append(parts, "at", rung.Path)
	default:
		parts = append(parts, "→ not installed")
	}
	text := strings.Join(parts, " ")
	if rung.Note != "" {
		text += " — " + rung.Note
	}
	return text
}

// verdict is the resolution in one sentence.
func verdict(r Resolution, title string) string {
	by := strings.ToLower(rungNames[r.DecidedBy])
	if r.DecidedBy == "path" {
		by = "first one on PATH"
	}
	switch r.State {
	case "met":
		return fmt.Sprintf("The %s decides: %s %s runs.", by, title, r.Version)
	case "missing":
		return fmt.Sprintf("The %s decides, but nothing installed here fits it.", by)
	case "unpinned":
		return fmt.Sprintf("No pin decides; the %s does: %s %s runs.", by, title, r.Version)
	case "conflict":
		if r.Version == "" {
			return "No version can satisfy the claims, and nothing installed here fits the first of them."
		}
		return fmt.Sprintf("No version can satisfy the claims; by the %s, %s %s runs.", by, title, r.Version)
	case "absent":
		return fmt.Sprintf("Nothing decides, and this machine has no %s.", title)
	}
	return "The version that would run cannot be told."
}
