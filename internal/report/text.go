package report

import (
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/terminal"
)

// Style says how text is printed.
type Style struct {
	Colour bool
	Width  int    // columns; text is wrapped to it
	Mark   string // with which a terminal.Writer lets colours pass
}

// Text prints a report for people: one line of counts, then the repositories with
// findings, each finding a sentence with its remedy.
func Text(w io.Writer, r Report, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	p.head(r)
	p.findings(r.Findings, len(r.Machines))
	p.notices(r)
	p.foot(r)
	return p.err
}

// FindingsText prints findings for people, by repository.
func FindingsText(w io.Writer, list []assess.Finding, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	p.findings(list, 0)
	return p.err
}

func (p *printer) findings(list []assess.Finding, machines int) {
	last := ""
	for _, f := range worstFirst(list) {
		if f.Repository != last {
			p.linef("\n%s", p.bold(terminal.Clean(f.Repository)))
			last = f.Repository
		}
		p.finding(f, machines)
	}
}

// worstFirst keeps repositories together and puts the worst of each first.
func worstFirst(list []assess.Finding) []assess.Finding {
	out := slices.Clone(list)
	slices.SortStableFunc(out, func(a, b assess.Finding) int {
		return cmp.Or(strings.Compare(a.Repository, b.Repository), b.Severity.Rank()-a.Severity.Rank())
	})
	return out
}

type printer struct {
	w         io.Writer
	style     Style
	catalogue *catalogue.Catalogue
	err       error
}

func (p *printer) linef(format string, args ...any) {
	if p.err == nil {
		_, p.err = fmt.Fprintf(p.w, format+"\n", args...)
	}
}

func (p *printer) paint(code, text string) string {
	if !p.style.Colour {
		return text
	}
	return "\x1b" + p.style.Mark + "[" + code + "m" + text + "\x1b" + p.style.Mark + "[0m"
}

func (p *printer) bold(text string) string { return p.paint("1", text) }
func (p *printer) dim(text string) string  { return p.paint("2", text) }

// mark is a severity's sign: a shape and a colour, with the class beside it as the word.
func (p *printer) mark(s assess.Severity) string {
	switch s {
	case assess.Error:
		return p.paint("31", "◆")
	case assess.Warning:
		return p.paint("33", "▲")
	}
	return p.paint("34", "○")
}

func (p *printer) head(r Report) {
	var machines []string
	for _, m := range r.Machines {
		machines = append(machines, terminal.Clean(m.Name))
	}
	seen := strings.Join(machines, ", ")
	if len(machines) > 4 {
		seen = fmt.Sprintf("%s and %d more", strings.Join(machines[:3], ", "), len(machines)-3)
	}
	if seen == "" {
		seen = "no machine"
	}
	day, err := time.Parse(time.DateOnly, r.AsOf)
	if err != nil {
		day = time.Time{}
	}
	p.linef("%s%s, %s, seen from %s, as of %s", count(r.Summary.Repositories, "repository", "repositories"), reading(r),
		count(r.Summary.Claims, "claim", "claims"), seen, day.Format("2 Jan 2006"))
	healthy := r.Summary.Repositories - len(troubled(r))
	p.linef("%s %s   %s %s   %s %s   %s", p.mark(assess.Error), count(r.Summary.BySeverity["error"], "error", "errors"),
		p.mark(assess.Warning), count(r.Summary.BySeverity["warning"], "warning", "warnings"),
		p.mark(assess.Note), count(r.Summary.BySeverity["note"], "note", "notes"),
		p.dim(fmt.Sprintf("%d without findings", healthy)))
}

// reading says what of the repositories was read, where it is the same for all.
func reading(r Report) string {
	if len(r.Repositories) == 0 {
		return ""
	}
	ref := r.Repositories[0].Ref
	for _, repo := range r.Repositories {
		if repo.Ref != ref {
			return ""
		}
	}
	if ref == "" {
		return " as they lie on disk"
	}
	return " as committed (" + terminal.Clean(ref) + ")"
}

func troubled(r Report) map[string]bool {
	out := map[string]bool{}
	for _, f := range r.Findings {
		out[f.Repository] = true
	}
	return out
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func (p *printer) finding(f assess.Finding, machines int) {
	title := ""
	if tool, known := p.catalogue.Tool(f.Tool); known {
		title = tool.Title + " · "
	}
	where := ""
	if f.Folder != "" {
		where = " in " + terminal.Clean(f.Folder) + "/"
	}
	scope := ""
	if machines > 1 && len(f.Machines) > 0 {
		scope = p.dim(fmt.Sprintf("  on %d of %d machines", len(f.Machines), machines))
	}
	p.linef("  %s %s%s%s%s", p.mark(f.Severity), title, p.bold(terminal.Clean(strings.ReplaceAll(string(f.Class), "-", " "))), where, scope)
	for _, line := range wrap(terminal.Clean(f.Message), p.style.Width-4) {
		p.linef("    %s", line)
	}
	for i, line := range wrap(terminal.Clean(f.Remedy), p.style.Width-6) {
		lead := "  "
		if i == 0 {
			lead = "→ "
		}
		p.linef("    %s%s", p.paint("36", lead), line)
	}
	if f.Configuration != "" {
		for line := range strings.SplitSeq(f.Configuration, "\n") {
			p.linef("        %s", terminal.Clean(line))
		}
	}
}

func (p *printer) notices(r Report) {
	for _, repo := range r.Repositories {
		if repo.Notice != "" {
			p.linef("\n%s\n    %s", p.bold(terminal.Clean(repo.Name)), terminal.Clean(repo.Notice))
		}
	}
}

func (p *printer) foot(r Report) {
	if len(r.Findings) == 0 && r.Summary.Repositories > 0 {
		p.linef("\nEverything asked for is there and supported.")
	}
	if r.Summary.Unread > 0 {
		p.linef("\n%s", Unread(r))
	}
}

// Unread says how many repositories could not be read.
func Unread(r Report) string {
	if r.Summary.Unread == 1 && r.Summary.Repositories == 1 {
		return "The repository could not be read: nothing of it is checked."
	}
	return fmt.Sprintf("%d of %s could not be read: nothing of %s is checked.", r.Summary.Unread, count(r.Summary.Repositories, "repository", "repositories"),
		map[bool]string{true: "it", false: "them"}[r.Summary.Unread == 1])
}

// wrap breaks text at spaces into lines of at most width columns.
func wrap(text string, width int) []string {
	width = max(width, 30)
	var out []string
	line := ""
	for word := range strings.FieldsSeq(text) {
		switch {
		case line == "":
			line = word
		case len([]rune(line))+1+len([]rune(word)) > width:
			out = append(out, line)
			line = word
		default:
			line += " " + word
		}
	}
	if line != "" {
		out = append(out, line)
	}
	return out
}

// Short prints the counts of a report and one line for each repository with findings.
func Short(w io.Writer, r Report, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	p.head(r)
	p.linef("")
	width := 0
	for name := range troubled(r) {
		width = max(width, len(name))
	}
	for i, f := range r.Findings {
		if i > 0 && r.Findings[i-1].Repository == f.Repository {
			continue
		}
		var words []string
		worst := f.Severity
		for _, g := range r.Findings[i:] {
			if g.Repository != f.Repository {
				break
			}
			if g.Severity.Rank() > worst.Rank() {
				worst = g.Severity
			}
			word := strings.ReplaceAll(string(g.Class), "-", " ")
			if tool, known := c.Tool(g.Tool); known {
				word = tool.Title + " " + word
			}
			words = append(words, word)
		}
		p.linef("  %s %-*s  %s", p.mark(worst), width, terminal.Clean(f.Repository), strings.Join(words, ", "))
	}
	return p.err
}
