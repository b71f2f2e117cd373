package report

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/sentence"
	"wexo/internal/terminal"
)

// repository prints one repository by its causes: of each the findings that differ in more
// than their folder.
func (p *printer) repository(repo Told, machines int) {
	p.linef("\n%s", p.bold(terminal.Clean(repo.Name)))
	causes := byCause(repo.Findings())
	for _, c := range causes[:min(len(causes), mostOfOne)] {
		for _, alike := range byClass(c) {
			p.finding(alike[0], machines, elsewhere(alike))
		}
	}
	if more := len(causes) - mostOfOne; more > 0 {
		p.linef("  %s", p.dim("and "+sentence.Count(more, "cause", "causes")+" more (--each prints every finding)"))
	}
}

// byCause puts the findings of one repository together by their causes, the worst first.
func byCause(list []Finding) [][]Finding {
	at := map[string]int{}
	var out [][]Finding
	for _, f := range worstFirst(list) {
		if f.Apart {
			continue
		}
		n, known := at[f.Cause]
		if !known {
			n = len(out)
			at[f.Cause], out = n, append(out, nil)
		}
		out[n] = append(out[n], f)
	}
	return out
}

// byClass puts the findings of a cause together by their classes.
func byClass(list []Finding) [][]Finding {
	var out [][]Finding
	for _, f := range list {
		n := slices.IndexFunc(out, func(alike []Finding) bool { return alike[0].Class == f.Class })
		if n < 0 {
			n, out = len(out), append(out, nil)
		}
		out[n] = append(out[n], f)
	}
	return out
}

// elsewhere says where a finding stands too: ", in seeds/ and 181 more places".
func elsewhere(alike []Finding) string {
	switch n := len(alike) - 1; n {
	case 0:
		return ""
	case 1:
		return ", and in " + terminal.Clean(placeOf(alike[1]))
	default:
		return fmt.Sprintf(", and in %d more places", n)
	}
}

// placeOf is where a finding stands, within its repository.
func placeOf(f Finding) string {
	if len(f.Evidence) > 0 && f.Evidence[0].File != "" {
		return f.Evidence[0].File
	}
	if f.Folder != "" {
		return f.Folder + "/"
	}
	return "the root"
}

// causes prints what is wrong across many repositories: what touches most first.
func (p *printer) causes(t Telling) {
	for _, c := range t.Causes[:min(len(t.Causes), mostOfAll)] {
		p.linef("")
		for i, line := range wrap(terminal.Clean(c.Title), p.style.Width-2) {
			if i == 0 {
				p.line(p.mark(c.Severity), " ", p.bold(line))
			} else {
				p.line("  ", p.bold(line))
			}
		}
		p.where(c)
	}
	if more := len(t.Causes) - mostOfAll; more > 0 {
		p.linef("\n%s", p.dim("and "+sentence.Count(more, "cause", "causes")+" more. --each prints every finding, and --output json every cause."))
	} else {
		p.linef("\n%s", p.dim("--each prints every finding."))
	}
}

// where prints what would mend the first of a cause's findings, and the first few places.
func (p *printer) where(c ToldCause) {
	first := c.First(mostFound)
	if len(first) == 0 {
		return
	}
	remedy := first[0].Remedy
	if len(c.Findings) > 1 && c.Repositories > 1 {
		remedy = "In " + first[0].Repository + ": " + remedy
	}
	for i, line := range wrap(terminal.Clean(remedy), p.style.Width-4) {
		lead := "  "
		if i == 0 {
			lead = "→ "
		}
		p.line("  ", p.paint("36", lead), line)
	}
	var places []string
	for _, f := range first {
		if f.Repository == "" {
			continue // the title says where it is
		}
		if f.Class == c.Class || len(places) == 0 {
			places = append(places, f.Repository+" "+placeOf(f))
		}
	}
	if len(places) == 0 {
		return
	}
	text := strings.Join(places, " · ")
	if more := len(c.Findings) - len(first); more > 0 {
		text += fmt.Sprintf(" · and %d more", more)
	}
	for _, line := range wrap(terminal.Clean(text), p.style.Width-4) {
		p.line("    ", p.dim(line))
	}
}

// Short prints the counts of a report and one line for each repository with findings.
func Short(w io.Writer, r *Report, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	p.head(r.Telling())
	p.linef("")
	width := 0
	for _, read := range r.Reads {
		if read.Count() > 0 {
			width = max(width, len(read.Name))
		}
	}
	for _, read := range r.Reads {
		if read.Count() == 0 {
			continue
		}
		var words []string
		worst := assess.Note
		for _, f := range read.Findings {
			if f.Apart {
				continue
			}
			if f.Severity.Rank() > worst.Rank() {
				worst = f.Severity
			}
			word := strings.ToLower(f.Class.Title)
			if f.Tool != nil {
				word = f.Tool.Title + " " + word
			}
			words = append(words, word)
		}
		p.linef("  %s %-*s  %s", p.mark(worst), width, terminal.Clean(read.Name), strings.Join(words, ", "))
	}
	return p.err
}
