package report

import (
	"fmt"
	"io"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/terminal"
)

// Trace is everything behind one tool in one folder. Its claims are all that are in force
// there; machines with the same ladder are together.
type Trace struct {
	Repository  string       `json:"repository"`
	Folder      string       `json:"folder"`
	Tool        string       `json:"tool"`
	Claims      []Claim      `json:"claims"`
	Feasible    string       `json:"feasible"`
	Conflict    []Claim      `json:"conflict"`
	Resolutions []Resolution `json:"resolutions"`
	// Machines are what machines have to do with it; none where a service was asked that does
	// not tell.
	Machines []MachineSide `json:"machines"`
	Findings []Finding     `json:"findings"`
	// Unseen is what was not seen of the repository: it may say more.
	Unseen []unseen.Gap `json:"unseen"`
}

// NewTrace traces the n-th subject of a result.
func (w Wording) NewTrace(r *assess.Result, n int, on time.Time) Trace {
	s, j := r.Subjects[n], r.Judged[n]
	t := Trace{Repository: r.Name, Folder: s.Folder, Tool: s.Tool.Name, Claims: []Claim{}, Feasible: j.Resolved.Feasible.String(), Conflict: Conflicting(s, j, on),
		Resolutions: []Resolution{}, Machines: w.machineSides(r, n), Unseen: []unseen.Gap{}, Findings: w.Findings(About(r, s))}
	for ladder := range w.Laddered(s, j, on) {
		t.Resolutions = append(t.Resolutions, ladder())
	}
	for _, a := range s.Claims {
		c := NewClaim(a, on)
		if a.Role == claim.Component {
			c.Range = componentRange(r, a.Claim)
		}
		t.Claims = append(t.Claims, c)
	}
	return t
}

// componentRange is what a claim on a component asks for, in the component's own order; empty
// where that cannot be told.
func componentRange(r *assess.Result, c *claim.Claim) string {
	for _, v := range r.Views {
		for _, part := range v.Components {
			if part.Claim == c && part.Err == nil {
				return part.Set.String()
			}
		}
	}
	return ""
}

// About are the findings of a subject: those of its folder, and those that rest on a pin in
// force there.
func About(r *assess.Result, s *assess.Subject) []*assess.Finding {
	var out []*assess.Finding
	for _, f := range r.Findings {
		if f.Concerns(s) || f.Tool == s.Tool && len(s.Pins) > 0 && f.Folder == s.PinFolder {
			out = append(out, f)
		}
	}
	return out
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
	title := t.Tool
	if tool, known := c.Tool(title); known {
		title = tool.Title
	}
	p.linef("%s", p.bold(title+" in "+terminal.Clean(path.Join(t.Repository, t.Folder))))
	p.claims(t)
	machines := 0
	for _, r := range t.Resolutions {
		p.ladder(r, title)
		machines += len(r.Machines)
	}
	p.machineSides(t)
	if len(t.Findings) > 0 {
		p.linef("\n%s", p.bold("What is wrong"))
		for _, f := range worstFirst(t.Findings) {
			p.finding(f, machines, "")
		}
	}
	p.unseen(t.Unseen)
	return p.err
}

func (p *printer) claims(t Trace) {
	p.linef("\n%s", p.bold("What the repository says"))
	if len(t.Claims) == 0 {
		p.linef("  nothing: no file states a version")
	}
	width, roleWidth := 0, 0
	for _, c := range t.Claims {
		width, roleWidth = max(width, len(place(c))), max(roleWidth, len(c.Role))
	}
	for _, c := range t.Claims {
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
	case len(t.Conflict) > 0:
		p.linef("  %s", p.paint("31", "No version satisfies all of this. These cannot hold together:"))
		for _, c := range t.Conflict {
			p.linef("    %s  %s", place(c), terminal.Clean(c.Raw))
		}
	case len(t.Claims) > 0:
		p.linef("  together they allow: %s", p.bold(terminal.Clean(t.Feasible)))
	}
}

func place(c Claim) string { return fmt.Sprintf("%s:%d:%d", terminal.Clean(c.File), c.Line, c.Column) }

// several joins machines' names, shortened where they are many.
func several(names []string) string {
	const most = 6
	if more := len(names) - most; more > 0 {
		return fmt.Sprintf("%s and %d more machines", strings.Join(names[:most], ", "), more)
	}
	return strings.Join(names, ", ")
}

func (p *printer) ladder(r Resolution, title string) {
	p.linef("\n%s%s", p.bold("What runs on "+terminal.Clean(several(r.Machines))), p.dim("  (the first line that names a version decides)"))
	for n, rung := range r.Ladder {
		if first := n == 0 || r.Ladder[n-1].Rung != rung.Rung; first {
			p.rung(rung, r)
		} else if others := n - slices.IndexFunc(r.Ladder, func(o Rung) bool { return o.Rung == rung.Rung }); others < mostAnswers {
			p.line("    ", strings.Repeat(" ", 15), terminal.Clean(answered(rung, r)))
		} else if others == mostAnswers {
			p.line("    ", strings.Repeat(" ", 15), p.dim("other machines say yet something else"))
		}
	}
	for _, line := range wrap(terminal.Clean(verdict(r, title)), p.style.Width-2) {
		p.linef("  %s", line)
	}
}

// mostAnswers is how many answers of machines that differ on a rung are printed.
const mostAnswers = 4

// rung prints a place on the ladder with its first answer.
func (p *printer) rung(rung Rung, r Resolution) {
	mark := strconv.Itoa(rung.Rung)
	if rung.Decides {
		mark = p.paint("32", "▶")
	}
	name, text := fmt.Sprintf("%-14s", rungNames[rung.Source]), terminal.Clean(answered(rung, r))
	if rung.Decides {
		name, text = p.bold(name), p.bold(text)
	} else if !rung.Says {
		name, text = p.dim(name), p.dim(text)
	}
	p.line("  ", mark, " ", name, " ", text)
}

// answered is what a rung says, and on which machines where others say something else.
func answered(rung Rung, r Resolution) string {
	text := rungSilent[rung.Source]
	if rung.Says {
		text = said(rung)
	} else if rung.Source == resolve.ByOverride && len(r.Machines) > 1 {
		text = "no variable overrides it"
	}
	if len(rung.Machines) > 0 {
		text += "  on " + several(rung.Machines)
	}
	return text
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
	case rung.Note == "": // the note says why there is none
		parts = append(parts, "→ not installed")
	}
	text := strings.Join(parts, " ")
	if rung.Note != "" {
		text += " — " + rung.Note
	}
	return text
}

// mostAsItIs is how many versions are named that PATH runs.
const mostAsItIs = 4

// asTheyAre tells what PATH runs on machines where nothing follows version files, and how many
// these are.
func asTheyAre(r Resolution) (text string, machines int) {
	var out []string
	for i, one := range r.AsItIs {
		if machines += len(one.Machines); i >= mostAsItIs {
			continue
		}
		text := one.Version
		if len(r.Machines) > 1 {
			text += " on " + several(one.Machines)
		}
		out = append(out, text)
	}
	if more := len(r.AsItIs) - mostAsItIs; more > 0 {
		out = append(out, "and "+sentence.Count(more, "other", "others"))
	}
	return strings.Join(out, ", "), machines
}

// verdict is the resolution in one sentence.
// starting is what starts and fetches another version: an installation, or a proxy.
func starting(version, title string) string {
	if version == resolve.StartsProxy {
		return "A proxy"
	}
	return title + " " + version
}

func verdict(r Resolution, title string) string {
	by := strings.ToLower(rungNames[r.DecidedBy])
	if r.DecidedBy == "path" {
		by = "first one on PATH"
	}
	here := "here"
	if len(r.Machines) > 1 {
		here = "on them"
	}
	if r.Starts != "" {
		return fmt.Sprintf("%s starts, fetches %s %s, which is asked for, and runs it.", starting(r.Starts, title), title, r.Version)
	}
	switch r.State {
	case "met":
		as, n := asTheyAre(r)
		switch {
		case n == len(r.Machines):
			return fmt.Sprintf("The %s decides: %s %s would run if something followed version files; as it is, PATH runs %s.", by, title, r.Version, as)
		case n > 0:
			return fmt.Sprintf("The %s decides: %s %s runs. Where nothing follows version files, PATH runs another one: %s.", by, title, r.Version, as)
		}
		return fmt.Sprintf("The %s decides: %s %s runs.", by, title, r.Version)
	case "missing":
		return fmt.Sprintf("The %s decides, but nothing installed %s fits it.", by, here)
	case "unpinned":
		return fmt.Sprintf("No pin decides; the %s does: %s %s runs.", by, title, r.Version)
	case "conflict":
		if r.Version == "" {
			return fmt.Sprintf("No version can satisfy the claims, and nothing installed %s fits the first of them.", here)
		}
		return fmt.Sprintf("No version can satisfy the claims; by the %s, %s %s runs.", by, title, r.Version)
	case "absent":
		return fmt.Sprintf("Nothing decides, and there is no %s %s.", title, here)
	}
	return "The version that would run cannot be told."
}
