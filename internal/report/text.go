package report

import (
	"bytes"
	"cmp"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/terminal"
)

// Style says how text is printed.
type Style struct {
	Colour bool
	Width  int    // columns; text is wrapped to it
	Mark   string // with which a terminal.Writer lets colours pass
}

// Telling is what the text of a report is made of, whether the report was made here or came
// from a service.
type Telling struct {
	Day          time.Time
	Machines     []string
	Summary      Summary
	Repositories []Told
	Causes       []ToldCause
	Unseen       []unseen.Gap
	Machinery    func() []Finding // what is wrong with machines themselves
}

// Told is a repository of a text.
type Told struct {
	Name, Ref, Notice string
	Count             int // of its findings, but for those that count apart
	Findings          func() []Finding
	Taken             []assess.Taken
}

// ToldCause is a cause of a text. First gives the first ones, up to so many.
type ToldCause struct {
	Cause
	First func(most int) []Finding
}

// Telling is the report as its text is made of.
func (r *Report) Telling() Telling {
	t := Telling{Day: r.Day, Machines: r.Teller.Machines, Summary: r.Summary, Unseen: r.Unseen(), Machinery: func() []Finding { return r.Findings(r.Machinery) }}
	for _, read := range r.Reads {
		t.Repositories = append(t.Repositories, Told{read.Name, read.Ref, read.Notice, read.Count(), func() []Finding { return r.Findings(read.Findings) }, read.Taken})
	}
	for _, c := range assess.Causes(r.all()) {
		t.Causes = append(t.Causes, ToldCause{r.Cause(c), func(most int) []Finding { return r.Findings(c.Findings[:min(most, len(c.Findings))]) }})
	}
	return t
}

// How much of a report is shown before somebody asks for each finding.
const (
	fewRepositories = 10 // so many with findings are shown one by one
	mostOfOne       = 5  // causes of one repository
	mostOfAll       = 12 // causes of many repositories
	mostFound       = 3  // places of one cause
)

// Text prints a report for people: a line of counts, then what to do. Few repositories are
// shown one by one; of many the causes are, those that touch most first. Each prints every
// finding instead.
func Text(w io.Writer, t Telling, c *catalogue.Catalogue, style Style, each bool) error {
	p := &printer{w: w, style: style, catalogue: c}
	p.head(t)
	switch {
	case each:
		p.each(t)
	case troubled(t) <= fewRepositories:
		for _, repo := range t.Repositories {
			if repo.Count > 0 {
				p.repository(repo, len(t.Machines))
			}
		}
		p.machinery(t)
	default:
		p.causes(t)
	}
	p.notices(t)
	p.taken(t)
	p.unseen(t.Unseen)
	p.foot(t)
	return p.err
}

// each prints every finding.
func (p *printer) each(t Telling) {
	if p.err != nil {
		return
	}
	p.err = inParts(len(t.Repositories), func(b *bytes.Buffer, from, to int) error {
		own := &printer{w: b, style: p.style, catalogue: p.catalogue}
		for _, repo := range t.Repositories[from:to] {
			own.findings(repo.Findings(), len(t.Machines))
		}
		return own.err
	}, func(data []byte) error {
		_, err := p.w.Write(data)
		return err
	})
	p.findings(t.Machinery(), len(t.Machines))
}

// FindingsText prints findings for people, by repository.
func FindingsText(w io.Writer, list []Finding, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	p.findings(list, 0)
	return p.err
}

func (p *printer) findings(list []Finding, machines int) {
	list = worstFirst(list)
	for i, f := range list {
		if i == 0 || heading(f) != heading(list[i-1]) {
			p.linef("\n%s", p.bold(heading(f)))
		}
		p.finding(f, machines, "")
	}
}

// heading is under what a finding is told: its repository, or what else it is of.
func heading(f Finding) string {
	switch {
	case f.Repository != "":
		return terminal.Clean(f.Repository)
	case f.Class == "rule-idle":
		return "Configuration"
	}
	return "Machines"
}

// machinery prints what does not work on machines, and how much else there is to tell of them.
func (p *printer) machinery(t Telling) {
	notes, begun := 0, ""
	for _, f := range worstFirst(t.Machinery()) {
		if f.Severity == assess.Note {
			notes++
			continue
		}
		if begun != heading(f) {
			begun = heading(f)
			p.linef("\n%s", p.bold(begun))
		}
		p.finding(f, len(t.Machines), "")
	}
	if notes > 0 {
		p.linef("\n%s", p.dim(fmt.Sprintf("%s on the machines themselves (--each lists %s).", sentence.Count(notes, "note", "notes"), map[bool]string{true: "it", false: "them"}[notes == 1])))
	}
}

// worstFirst keeps repositories together, machines after them, and puts the worst of each first.
func worstFirst(list []Finding) []Finding {
	out := slices.Clone(list)
	slices.SortStableFunc(out, func(a, b Finding) int {
		if (a.Repository == "") != (b.Repository == "") {
			return strings.Compare(b.Repository, a.Repository)
		}
		return cmp.Or(strings.Compare(a.Repository, b.Repository), strings.Compare(heading(b), heading(a)), b.Severity.Rank()-a.Severity.Rank())
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

// line writes parts of one line.
func (p *printer) line(parts ...string) {
	for _, part := range parts {
		if p.err == nil {
			_, p.err = io.WriteString(p.w, part)
		}
	}
	if p.err == nil {
		_, p.err = io.WriteString(p.w, "\n")
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

func (p *printer) head(r Telling) {
	var machines []string
	for _, name := range r.Machines {
		machines = append(machines, terminal.Clean(name))
	}
	seen := strings.Join(machines, ", ")
	if len(machines) > 4 {
		seen = fmt.Sprintf("%s and %d more", strings.Join(machines[:3], ", "), len(machines)-3)
	}
	if seen == "" {
		seen = "no machine"
	}
	p.linef("%s%s, %s, seen from %s, as of %s", sentence.Count(r.Summary.Repositories, "repository", "repositories"), reading(r),
		sentence.Count(r.Summary.Claims, "claim", "claims"), seen, r.Day.Format("2 Jan 2006"))
	healthy := r.Summary.Repositories - troubled(r)
	p.linef("%s %s   %s %s   %s %s   %s", p.mark(assess.Error), sentence.Count(r.Summary.BySeverity["error"], "error", "errors"),
		p.mark(assess.Warning), sentence.Count(r.Summary.BySeverity["warning"], "warning", "warnings"),
		p.mark(assess.Note), sentence.Count(r.Summary.BySeverity["note"], "note", "notes"),
		p.dim(fmt.Sprintf("%d without findings", healthy)))
}

// reading says what of the repositories was read, where it is the same for all.
func reading(r Telling) string {
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
		return map[bool]string{true: " as it lies", false: " as they lie"}[len(r.Repositories) == 1] + " on disk"
	}
	return " as committed (" + terminal.Clean(ref) + ")"
}

// troubled counts the repositories with findings.
func troubled(r Telling) int {
	n := 0
	for _, repo := range r.Repositories {
		if repo.Count > 0 {
			n++
		}
	}
	return n
}

// finding prints one finding; others says where else it is so.
func (p *printer) finding(f Finding, machines int, others string) {
	title := ""
	if tool, known := p.catalogue.Tool(f.Tool); known {
		title = tool.Title + " · "
	}
	where := ""
	if f.Folder != "" {
		where = " in " + terminal.Clean(f.Folder) + "/"
	}
	scope := ""
	if of := cmp.Or(f.Among, machines); machines > 1 && len(f.Machines) > 0 {
		scope = p.dim("  on " + strconv.Itoa(len(f.Machines)) + " of " + sentence.Count(of, "machine", "machines"))
	}
	if f.Apart {
		scope += p.dim("  apart")
	}
	p.line("  ", p.mark(f.Severity), " ", title, p.bold(terminal.Clean(strings.ReplaceAll(f.Class, "-", " "))), where, others, scope)
	for _, line := range wrap(terminal.Clean(f.Message), p.style.Width-4) {
		p.line("    ", line)
	}
	for i, line := range wrap(terminal.Clean(f.Remedy), p.style.Width-6) {
		lead := "  "
		if i == 0 {
			lead = "→ "
		}
		p.line("    ", p.paint("36", lead), line)
	}
	if f.Configuration != "" {
		for line := range strings.SplitSeq(f.Configuration, "\n") {
			p.linef("        %s", terminal.Clean(line))
		}
	}
}

func (p *printer) notices(r Telling) {
	for _, repo := range r.Repositories {
		if repo.Notice != "" {
			p.linef("\n%s\n    %s", p.bold(terminal.Clean(repo.Name)), terminal.Clean(repo.Notice))
		}
	}
}

// mostTaken is how many rules of repositories' own are told of.
const mostTaken = 20

// taken prints what repositories' own rules take away: a report that says nothing of it rests on
// what they say.
func (p *printer) taken(t Telling) {
	told := 0
	for _, repo := range t.Repositories {
		for _, one := range repo.Taken {
			if told++; told == 1 {
				p.linef("\n%s", p.bold("Taken away by repositories' own rules"))
			}
			if told <= mostTaken {
				p.linef("  %s .wexo.yaml:%d %s %s: %s", p.bold(terminal.Clean(repo.Name)), one.Line, one.Kind, terminal.Clean(strconv.Quote(one.Text)), takenAway(one.Claims, one.Findings))
			}
		}
	}
	if told > mostTaken {
		p.linef("  and %d more (--output json has them all)", told-mostTaken)
	}
	if told > 0 {
		p.linef("  %s", p.dim("--strict counts them; repositories-decide in wexo.yaml says what repositories may decide."))
	}
}

// TakenOf says what the own rules of some repositories take away; empty where that is nothing.
func TakenOf(reads []Read) string {
	s := Summary{Taken: TakenAway{BySeverity: map[string]int{}}}
	for _, r := range reads {
		s.Taken.add(r.Taken)
	}
	if s.Taken.Repositories == 0 {
		return ""
	}
	return TakenBy(s)
}

// TakenBy says what repositories' own rules take away.
func TakenBy(s Summary) string {
	findings := map[assess.Severity]int{}
	for severity, n := range s.Taken.BySeverity {
		findings[assess.Severity(severity)] = n
	}
	return fmt.Sprintf("Repositories' own rules take away %s, in %s; wexo survey --strict counts them.", takenAway(s.Taken.Claims, findings), sentence.Count(s.Taken.Repositories, "repository", "repositories"))
}

// takenAway counts claims and findings.
func takenAway(claims int, findings map[assess.Severity]int) string {
	var out []string
	if claims > 0 {
		out = append(out, sentence.Count(claims, "claim", "claims"))
	}
	for _, s := range []assess.Severity{assess.Error, assess.Warning, assess.Note} {
		if n := findings[s]; n > 0 {
			out = append(out, sentence.Count(n, string(s), string(s)+"s"))
		}
	}
	return strings.Join(out, ", ")
}

func (p *printer) foot(t Telling) {
	s := t.Summary
	if s.Apart > 0 {
		p.linef("\n%s in folders of test data, examples or vendored code %s apart (--each lists %s).", sentence.Count(s.Apart, "finding", "findings"),
			map[bool]string{true: "counts", false: "count"}[s.Apart == 1], map[bool]string{true: "it", false: "them"}[s.Apart == 1])
	}
	switch {
	case s.Count() > 0 || s.Repositories == 0 || s.Unread > 0 || s.Unseen > 0:
	case s.Taken.Repositories > 0:
		p.linef("\nNothing else is found to be wrong.")
	case s.Claims == 0:
		p.linef("\nNothing is asked for: no file that is read speaks of a version.")
	case s.Untold > 0:
		p.linef("\nNothing is found to be wrong, but in %s it cannot be told what runs everywhere, or nothing does (wexo trace shows it).", sentence.Count(s.Untold, "place", "places"))
	case len(t.Unseen) > 0:
		p.linef("\nNothing is found to be wrong in what was read.")
	default:
		p.linef("\nEverything asked for is there and supported.")
	}
	if s.Unread > 0 {
		p.linef("\n%s", Unread(s))
	}
}

// Unread says how many repositories could not be read.
func Unread(s Summary) string {
	if s.Unread == 1 && s.Repositories == 1 {
		return "The repository could not be read: nothing of it is checked."
	}
	return fmt.Sprintf("%d of %s could not be read: nothing of %s is checked.", s.Unread, sentence.Count(s.Repositories, "repository", "repositories"),
		map[bool]string{true: "it", false: "them"}[s.Unread == 1])
}

// wrap breaks text at spaces into lines of at most width columns.
func wrap(text string, width int) []string {
	width = max(width, 30)
	var out []string
	line, long := make([]byte, 0, 4*width), 0
	for word := range strings.SplitSeq(text, " ") {
		if word == "" {
			continue
		}
		n := utf8.RuneCountInString(word)
		switch {
		case long == 0:
		case long+1+n > width:
			out = append(out, string(line))
			line, long = line[:0], 0
		default:
			line = append(line, ' ')
			long++
		}
		line = append(line, word...)
		long += n
	}
	if long > 0 {
		out = append(out, string(line))
	}
	return out
}
