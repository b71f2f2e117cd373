package sentence

import (
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/rule"
)

// toolsIncompatible tells both ends of a broken rule, the rule, and what would satisfy it.
func (w *words) toolsIncompatible() (message, remedy string) {
	b := w.v.Tied
	if w.v.Kind == assess.JointTogether {
		return w.jointly(), w.moves()
	}
	if b.Rule.Brings {
		return w.brings(b), w.moves()
	}
	given, needed := w.sides(b)
	message = fmt.Sprintf("%s, and %s.", list(given), w.saying(b))
	if len(needed) > 0 {
		message += fmt.Sprintf(" But %s.", list(needed))
	}
	return message + w.certainty(b), w.moves()
}

// rulesUndecided tells what could not be weighed.
func (w *words) rulesUndecided() (message, remedy string) {
	if r := w.v.Tied.Rule; r != nil {
		return fmt.Sprintf("Whether the rule %s holds is not known: it has more choices than can be written out.", r.Name), "Part it into rules of fewer names or ranges."
	}
	return "Whether all that is said here can hold together is not known: it is more than can be weighed.", "Take away rules or ranges that say the same, or part the folder."
}

// brings tells that what comes with a tool is not what is asked for.
func (w *words) brings(b *assess.Broken) string {
	host, part := b.Ends[0], b.Ends[1]
	tool := w.f.View.Tools[host.N].Tool
	var brought []string
	for _, row := range b.Rows {
		brought = append(brought, row.Need[0].Text)
	}
	if b.Brought != "" {
		brought = []string{b.Brought}
	}
	with := fmt.Sprintf("%s %s", tool.Title, w.runs(host.Runs))
	if len(host.Claims) > 0 {
		c := w.f.View.Claim(host.TieEnd, host.Claims[0])
		with = fmt.Sprintf("%s %s (%s)", tool.Title, c.Raw, at(*c))
	}
	return fmt.Sprintf("%s, but %s brings %s %s.", w.end(part), with, w.titleOf(b.Rule.Ends[1].Of), list(unique(brought)))
}

// sides tells of the ends of a rule: those that it rests on, and those that it asks something of.
func (w *words) sides(b *assess.Broken) (given, needed []string) {
	for i, e := range b.Ends {
		text := w.end(e)
		switch {
		case text == "":
		case w.asked(b, i):
			needed = append(needed, text)
		default:
			given = append(given, text)
		}
	}
	if len(given) == 0 { // what is asked for of the machine alone
		return needed, nil
	}
	return given, needed
}

// asked reports whether a rule's end is one that its rows need something of.
func (w *words) asked(b *assess.Broken, end int) bool {
	return slices.ContainsFunc(b.Rows, func(r *rule.Row) bool {
		return slices.ContainsFunc(r.Need, func(t rule.Term) bool { return t.End == end })
	})
}

// end says what stands or runs at one end: "package-lock.json:12 holds Vite 7.1.2",
// ".node-version:1 asks for Node.js 20.10.0", "Node.js 20.10.0 would run on seed-agent".
func (w *words) end(e assess.BrokenEnd) string {
	switch e.Of {
	case assess.OfPart:
		return w.part(e.TieEnd)
	case assess.OfTool:
		title := w.f.View.Tools[e.N].Tool.Title
		if len(e.Setups) > 0 {
			return w.setsUpInstead(e, title)
		}
		var said []string
		for _, n := range e.Claims {
			said = append(said, w.asksFor(e.TieEnd, n))
		}
		if len(e.Runs) == 0 {
			return list(said)
		}
		running := strings.Replace(w.runs(e.Runs), " on ", " would run on ", 1)
		switch {
		case len(said) == 0:
			return title + " " + running
		case len(e.Runs) == 1 && e.Runs[0].Version == w.f.View.Claim(e.TieEnd, e.Claims[0]).Raw:
			return list(said)
		}
		return fmt.Sprintf("%s, by which %s", list(said), running)
	}
	return ""
}

// setsUpInstead says what a pipeline or container sets up.
func (w *words) setsUpInstead(e assess.BrokenEnd, title string) string {
	var texts []string
	for _, r := range e.Setups {
		texts = append(texts, w.f.View.SetUp(e.TieEnd, r).Raw)
	}
	return fmt.Sprintf("%s sets up %s %s", at(*w.f.View.SetUp(e.TieEnd, e.Setups[0])), title, list(short(unique(texts))))
}

// part says which version a component is of.
func (w *words) part(e assess.TieEnd) string {
	c := w.f.View.Parts[e.N][0]
	verb := "names"
	switch {
	case c.Tells != "":
		verb = "sets"
	case assess.Locks(c):
		verb = "holds"
	}
	return fmt.Sprintf("%s %s %s %s", at(*c), verb, w.titleOf(w.f.View.Case.Parts[e.N].Name), c.Raw)
}

// asksFor says what a pin or bound asks for.
func (w *words) asksFor(e assess.TieEnd, n int) string {
	c := w.f.View.Claim(e, n)
	tool := w.f.View.Tools[e.N].Tool
	text := c.Raw
	if c.Locked != nil || c.Means != "" {
		if want, err := c.Want(tool); err == nil {
			text = want.Set.String()
		}
	}
	if (c.Reading == "minimum" || c.Reading == "level" && c.Dialect == "plain") || c.Dialect == "go-minimum" {
		text += " or newer"
	}
	return fmt.Sprintf("%s asks for %s %s", at(*c), tool.Title, text)
}

// titleOf is what a tool or component is called.
func (w *words) titleOf(name string) string {
	if w.catalogue != nil {
		return w.catalogue.Title(name)
	}
	return w.f.View.Case.Catalogue().Title(name)
}

// saying is what a rule's rows say: "Vite 7 needs Node.js ^20.19.0 || >=22.12.0 (its own
// package says so)".
func (w *words) saying(b *assess.Broken) string {
	var out []string
	for _, row := range b.Rows {
		out = append(out, w.row(b.Rule, row))
	}
	if more := len(out) - mostRows; more > 0 {
		out = append(out[:mostRows:mostRows], Count(more, "row more", "rows more"))
	}
	return list(out)
}

const mostRows = 3

func (w *words) row(r *rule.Rule, row *rule.Row) string {
	verb := "needs"
	if r.Brings {
		verb = "brings"
	}
	var when, need []string
	for _, t := range row.When {
		when = append(when, w.term(r, t, r.Table))
	}
	for _, t := range row.Need {
		need = append(need, w.term(r, t, r.Brings))
	}
	if len(when) > 1 {
		verb = strings.TrimSuffix(verb, "s")
	}
	text := fmt.Sprintf("%s %s %s", strings.Join(when, " with "), verb, list(need))
	if row.Because != "" && !r.Brings {
		text += " (" + row.Because + ")"
	}
	return text
}

// term is a range of a tool or component: as written where that is a line of a table.
func (w *words) term(r *rule.Rule, t rule.Term, asWritten bool) string {
	e := r.Ends[t.End]
	title := w.titleOf(e.Of)
	if e.Of == "machine" {
		title = "a machine"
	}
	switch {
	case e.Label != "":
		return fmt.Sprintf("%s of %s %s", title, labelTitles[e.Label], t.Word)
	case asWritten && !strings.ContainsAny(t.Text, "<>=|[("):
		return title + " " + t.Text
	}
	return title + " " + t.Set.WithoutPrereleases().String()
}

// labelTitles are the words for what an installation or machine is beside its version.
var labelTitles = map[string]string{"vendor": "vendor", "variant": "variant", "package": "kind", "arch": "processor", "os": "system"}

// certainty says how sure it is that the two do not go together.
func (w *words) certainty(b *assess.Broken) string {
	where := ""
	if w.v.Kind == assess.RunningTogether {
		where = " there"
	}
	if b.Sure {
		return " That does not go together" + where + "."
	}
	if slices.ContainsFunc(b.Rows, func(r *rule.Row) bool { return r.Implied }) && !slices.ContainsFunc(b.Ends, func(e assess.BrokenEnd) bool { return e.Of == assess.OfPart && !w.f.View.Case.Parts[e.N].Sure }) {
		return " That may not go together" + where + ": nothing is recorded of so new a version."
	}
	for _, e := range b.Ends {
		if e.Of == assess.OfPart && !w.f.View.Case.Parts[e.N].Sure {
			return fmt.Sprintf(" That may not go together%s: %s names a range, and no lock file says which version is taken.", where, at(*w.f.View.Parts[e.N][0]))
		}
	}
	return " That may not go together" + where + "."
}

// jointly tells what cannot hold together although each rule alone could.
func (w *words) jointly() string {
	var said, rules []string
	for _, l := range w.v.Tied.Chain {
		text := w.link(l)
		if l.Rule != nil {
			rules = append(rules, text)
		} else {
			said = append(said, text)
		}
	}
	return fmt.Sprintf("%s. %s. All of it cannot hold together.", list(said), list(rules))
}

// link is one part of a chain in words.
func (w *words) link(l assess.Link) string {
	switch {
	case l.Rule != nil:
		return w.saying(&assess.Broken{Rule: l.Rule, Rows: l.Rows})
	case l.Baseline != nil:
		return fmt.Sprintf("the baseline %s (%s) demands %s %s", l.Baseline.Title, l.Demand.At, w.titleOf(l.Demand.Name), l.Demand.Text)
	case l.End.Of == assess.OfPart:
		return w.part(l.End)
	}
	return w.asksFor(l.End, l.Claim)
}

// moves says what would satisfy all rules and bounds of the folder.
func (w *words) moves() string {
	b := w.v.Tied
	var acts []string
	for _, m := range b.Moves {
		acts = append(acts, w.change(m))
	}
	for _, e := range b.Ends {
		for _, r := range e.Runs {
			if r.Where != "" {
				acts = append(acts, fmt.Sprintf("unset %s on %s, or point it at that version", r.Where, w.some(r.Machines)))
			}
		}
	}
	if w.v.Kind == assess.SetUpTogether {
		return w.setUpOther()
	}
	if len(acts) > 0 {
		return capital(strings.Join(acts, "; ")) + "."
	}
	return w.loosen()
}

// setUpOther says what to set up so that all goes together.
func (w *words) setUpOther() string {
	b := w.v.Tied
	for _, e := range b.Ends {
		if len(e.Setups) == 0 {
			continue
		}
		where := at(*w.f.View.SetUp(e.TieEnd, e.Setups[0]))
		for _, c := range b.Best {
			if c.Tool == e.N {
				return fmt.Sprintf("Set up %s %s in %s.", w.f.View.Tools[e.N].Tool.Title, c.Text, where)
			}
		}
		return fmt.Sprintf("Set up a version in %s that goes with the rest.", where)
	}
	return ""
}

// change is a version of the joint answer and what makes it so.
func (w *words) change(m assess.Move) string {
	tool := w.f.View.Tools[m.Tool]
	what := tool.Tool.Title + " " + m.Text
	switch {
	case m.Line != nil && m.Text == m.Line.Line:
		what += until(m.Line, " (supported until %s)")
	case m.Least:
		what += ", the first that will do"
	}
	if m.Advised && w.f.View.Tools[m.Tool].Case.Unpinned && !w.f.View.Tools[m.Tool].Case.Free {
		return fmt.Sprintf("pinning %s, as said under pin missing, mends this too", what)
	}
	install := ""
	if m.Lacking.Len() > 0 {
		install = fmt.Sprintf(" (install it on %s first)", w.some(m.Lacking))
	}
	switch {
	case len(m.Claims) > 0:
		var places []string
		for _, n := range m.Claims {
			places = append(places, at(*w.f.View.Claim(assess.TieEnd{Of: assess.OfTool, N: m.Tool}, n)))
		}
		return fmt.Sprintf("change %s to %s%s", list(short(unique(places))), what, install)
	case tool.Pinned() && m.Lacking.Len() > 0:
		return fmt.Sprintf("install %s on %s, which %s admits", what, w.some(m.Lacking), at(*w.f.View.Claim(assess.TieEnd{Of: assess.OfTool, N: m.Tool}, 0)))
	case tool.Pinned():
		return fmt.Sprintf("let %s run, which is installed and %s admits", what, at(*w.f.View.Claim(assess.TieEnd{Of: assess.OfTool, N: m.Tool}, 0)))
	}
	return fmt.Sprintf("pin %s%s", what, install)
}

// loosen says what to do where no choice of versions satisfies all.
func (w *words) loosen() string {
	b := w.v.Tied
	for i, e := range b.Ends {
		if e.Of != assess.OfPart || b.Rule == nil {
			continue
		}
		if c := w.f.View.Parts[e.N][0]; c.Tells != "" && w.asked(b, i) {
			return fmt.Sprintf("Change %s to %s, or take another version of what needs it.", at(*c), w.term(b.Rule, b.Rows[0].Need[0], false))
		}
	}
	for _, e := range b.Ends {
		if e.Of == assess.OfPart {
			title := w.titleOf(w.f.View.Case.Parts[e.N].Name)
			return fmt.Sprintf("No version satisfies all that is demanded here: take another %s in %s, or loosen what it contradicts.", title, at(*w.f.View.Parts[e.N][0]))
		}
	}
	if !b.Decided {
		return "Too much is said here for a joint answer: change one of the two."
	}
	var places []string
	for _, c := range w.f.View.Proof(b) {
		places = append(places, at(*c))
	}
	return fmt.Sprintf("No version satisfies all that is demanded here: loosen %s.", list(short(unique(places))))
}

// platformMismatch tells which part of a baseline is not met, and by what.
func (w *words) platformMismatch() (message, remedy string) {
	b := w.v.Tied
	what := fmt.Sprintf("%s demands %s %s", w.baseline(b), w.titleOf(b.Demand.Name), b.Demand.Text)
	switch w.v.Kind {
	case assess.MissingPlatform:
		return fmt.Sprintf("%s, nothing here pins another version, and %s %s none of it.", what, w.some(w.v.Machines), verb(w.v.Machines.Len() == 1, "has", "have")),
			fmt.Sprintf("Install %s %s on %s.", w.titleOf(b.Demand.Name), b.Demand.Set.WithoutPrereleases(), w.some(w.v.Machines))
	case assess.TornPlatform:
		return fmt.Sprintf("The baselines %q (%s) and %q (%s) that this repository adopts demand %s %s and %s: no version is both.", b.Beside.Title, b.Against.At, b.Baseline.Title, b.Demand.At,
			w.titleOf(b.Demand.Name), b.Against.Text, b.Demand.Text), "Adopt one of the two, or change what one of them demands."
	case assess.RunningPlatform:
		message = fmt.Sprintf("%s, but %s.", what, w.end(b.Ends[0]))
	default:
		message = fmt.Sprintf("%s, but %s.", what, w.end(b.Ends[0]))
		if !b.Sure {
			message = strings.TrimSuffix(message, ".") + ", which may be another version."
		}
	}
	if len(b.Moves) == 0 && b.Ends[0].Of == assess.OfPart {
		return message, fmt.Sprintf("Take a version of %s that the baseline demands in %s, or adopt another baseline.", w.titleOf(b.Demand.Name), at(*w.f.View.Parts[b.Ends[0].N][0]))
	}
	return message, w.moves()
}

// baseline names a baseline, who wants it, and where it is written.
func (w *words) baseline(b *assess.Broken) string {
	at := b.Baseline.At
	switch {
	case b.Demand != nil:
		at = b.Demand.At
	case b.Pack != nil:
		at = b.Pack.At
	}
	if b.Adopted {
		return fmt.Sprintf("The baseline %q (%s) that this repository adopts", b.Baseline.Title, at)
	}
	return fmt.Sprintf("The baseline %q (%s) that %s must meet", b.Baseline.Title, at, list(b.Baseline.Machines))
}

// companionMissing tells which package is not in the chosen installation.
func (w *words) companionMissing() (message, remedy string) {
	b := w.v.Tied
	tool := w.f.View.Tools[b.Ends[0].N].Tool
	var places []string
	for _, r := range b.Ends[0].Runs[:min(len(b.Ends[0].Runs), mostRuns)] {
		text := fmt.Sprintf("%s %s on %s has none", tool.Title, r.Version, w.some(r.Machines))
		if r.Other.Version != "" {
			text = fmt.Sprintf("%s %s on %s has %s", tool.Title, r.Version, w.some(r.Machines), r.Other.Version)
		}
		places = append(places, text)
	}
	into := "that " + tool.Title
	if b.After {
		into = "the " + tool.Title + " that it demands"
	}
	return fmt.Sprintf("%s wants %s %s installed with %s, but %s.", w.baseline(b), b.Pack.Package, b.Pack.Text, tool.Title, list(places)),
		fmt.Sprintf("Install %s %s into %s on %s.", b.Pack.Package, b.Pack.Text, into, w.some(w.v.Machines))
}

// together is the title of a cause of several tools.
func (w *words) together(c *assess.Caused) string {
	b := w.v.Tied
	switch {
	case b.Pack != nil:
		return fmt.Sprintf("%s: %s is wanted and not there%s, in %s", b.Baseline.Title, b.Pack.Package, w.on(c), in(c))
	case b.Demand != nil:
		return fmt.Sprintf("%s: %s %s is demanded, and another version %s, in %s", b.Baseline.Title, w.titleOf(b.Demand.Name), b.Demand.Text, w.otherwise(), in(c))
	}
	if b.Rule == nil || len(b.Moves) > 0 && len(b.Moves[0].Claims) > 0 {
		return w.movedTogether(c)
	}
	text := w.saying(b)
	if i := strings.Index(text, " ("); i > 0 {
		text = text[:i]
	}
	return fmt.Sprintf("%s, and another version %s: in %s", text, w.otherwise(), in(c))
}

// movedTogether is the title of a cause that a change of claims mends: "Gradle 8.2 does not
// go with what is beside it, and 8.5 does: in meadow-app".
func (w *words) movedTogether(c *assess.Caused) string {
	b := w.v.Tied
	if len(b.Moves) == 0 {
		return fmt.Sprintf("%s: what is asked for cannot hold together, in %s", w.title(), in(c))
	}
	m := b.Moves[0]
	said := w.f.View.Claim(assess.TieEnd{Of: assess.OfTool, N: m.Tool}, m.Claims[0])
	return fmt.Sprintf("%s %s does not go with what is beside it, and %s does: in %s", w.f.View.Tools[m.Tool].Tool.Title, said.Raw, m.Text, in(c))
}

func (w *words) otherwise() string {
	if w.v.Kind == assess.RunningTogether || w.v.Kind == assess.RunningPlatform {
		return "runs"
	}
	return "is asked for"
}

// Link is one part of a conflict in words, with where it stands.
func (t Teller) Link(v *assess.Viewed, l assess.Link) string {
	w := &words{Teller: t, f: &assess.Finding{View: v}}
	return w.link(l)
}

// Rows are rows of a rule in words: the first and the last where they are many.
func Rows(c *catalogue.Catalogue, r *rule.Rule, rows []*rule.Row) string {
	return (&words{catalogue: c}).saying(&assess.Broken{Rule: r, Rows: rows})
}

// Place is a file with its line.
func Place(file string, line int) string { return place(file, line) }
