package report

import (
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/remedy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/terminal"
)

// NeedsFormat is the name and version of the format of needs.
const NeedsFormat = "wexo.needs/1"

// Needs are what to install on a machine, and what could go, as every output has it.
type Needs struct {
	Format  string         `json:"format"`
	Machine string         `json:"machine"`
	AsOf    string         `json:"asOf"`
	Install []NeedsInstall `json:"install"`
	Reach   []NeedsReach   `json:"reach"` // installed, and nothing leads to it
	Left    []NeedsLeft    `json:"left"`  // what all this does not mend
	Spare   []NeedsSpare   `json:"spare"`
	Asking  int            `json:"asking"` // how many of the repositories the machine builds or holds
	// Taken says what repositories' own rules take away; empty where that is nothing.
	Taken string `json:"taken,omitempty"`
	// Unseen is what was not seen of the repositories: they may need more, and what serves nobody
	// may serve them.
	Unseen []unseen.Gap `json:"unseen"`
}

// NeedsInstall is one toolchain to install.
type NeedsInstall struct {
	Tool    string   `json:"tool"`
	Title   string   `json:"title"`   // the tool's, for people
	Version string   `json:"version"` // empty where none is known that would do
	Vendor  string   `json:"vendor"`
	Variant string   `json:"variant,omitempty"`
	Package string   `json:"package"`
	Arch    string   `json:"arch,omitempty"`
	Range   string   `json:"range"` // what all who ask admit
	AskedBy []string `json:"askedBy"`
	Until   string   `json:"supportedUntil,omitempty"` // the day its line's support ends
	Ended   bool     `json:"ended,omitempty"`          // it has ended, and nothing newer is admitted
	First   bool     `json:"first,omitempty"`          // nothing pins it: PATH has to find it first, or the default to lead to it
	Default string   `json:"default,omitempty"`        // where the user's default stands that leads elsewhere
}

// NeedsReach is an installation that would do and that nothing leads to.
type NeedsReach struct {
	Tool    string   `json:"tool"`
	Title   string   `json:"title"`
	Version string   `json:"version"`
	Path    string   `json:"path"`
	Home    string   `json:"home"`
	Default string   `json:"default,omitempty"` // where the user's default stands that leads elsewhere
	AskedBy []string `json:"askedBy"`
}

// NeedsLeft is what installing does not mend, judged as if all that is advised were done.
type NeedsLeft struct {
	Class   string   `json:"class"`
	Tool    string   `json:"tool"`
	Title   string   `json:"title"` // of the cause
	Message string   `json:"message"`
	Remedy  string   `json:"remedy"`
	AskedBy []string `json:"askedBy"`
}

// NeedsSpare is an installation that serves nobody.
type NeedsSpare struct {
	Tool      string   `json:"tool"`
	Title     string   `json:"title"`
	Version   string   `json:"version"`
	Vendor    string   `json:"vendor,omitempty"`
	Path      string   `json:"path"`
	Home      string   `json:"home"`
	SizeBytes int64    `json:"sizeBytes"`
	GoesWith  []string `json:"goesWith"` // packages and components in it, with their versions
}

// NewNeeds puts needs into the format.
func NewNeeds(n remedy.Needs, machine string, on time.Time) Needs {
	out := Needs{Format: NeedsFormat, Machine: machine, AsOf: on.Format(time.DateOnly), Install: []NeedsInstall{}, Reach: []NeedsReach{}, Left: []NeedsLeft{}, Spare: []NeedsSpare{}, Unseen: []unseen.Gap{}, Asking: n.Asking}
	for _, in := range n.Install {
		one := NeedsInstall{Tool: in.Tool.Name, Title: in.Tool.Title, Version: in.Text, Vendor: in.Build.Vendor, Variant: in.Build.Variant, Package: in.Build.Package, Arch: in.Build.Arch,
			Range: in.Set.WithoutPrereleases().String(), AskedBy: in.AskedBy(), Ended: in.Ended, First: in.First, Default: in.Default}
		if in.Line != nil && !in.Line.End.IsZero() {
			one.Until = in.Line.End.Format(time.DateOnly)
		}
		out.Install = append(out.Install, one)
	}
	for _, r := range n.Reach {
		out.Reach = append(out.Reach, NeedsReach{r.Tool.Name, r.Tool.Title, r.Install.Version, r.Install.Path, r.Install.Home, r.Default, remedy.AskedBy(r.Asks)})
	}
	for _, c := range n.Left.Causes {
		out.Left = append(out.Left, newLeft(n.Left.Fleet, c, on)...)
	}
	for _, s := range n.Spare {
		out.Spare = append(out.Spare, NeedsSpare{s.Tool.Name, s.Tool.Title, s.Version, s.Vendor, s.Path, s.Alone(), s.SizeBytes, sentence.GoesWith(s.Components, s.Packages)})
	}
	return out
}

// newLeft is what is left of one cause, of each class apart.
func newLeft(fleet *resolve.Fleet, c *assess.Caused, on time.Time) []NeedsLeft {
	teller := sentence.For(fleet, on)
	var out []NeedsLeft
	for _, f := range c.Findings {
		n := slices.IndexFunc(out, func(l NeedsLeft) bool { return l.Class == f.Class.Name })
		if n < 0 {
			n = len(out)
			one := NeedsLeft{Class: f.Class.Name, Tool: f.Tool.Name, Title: teller.Cause(c), AskedBy: []string{}}
			one.Message, one.Remedy = teller.Tell(f)
			out = append(out, one)
		}
		if at := path.Join(f.Repository.Name, f.Folder); !slices.Contains(out[n].AskedBy, at) {
			out[n].AskedBy = append(out[n].AskedBy, at)
		}
	}
	for _, l := range out {
		slices.Sort(l.AskedBy)
	}
	return out
}

// nothingAsks is said of a machine to which no repository matters.
const nothingAsks = "No repository that was read is built by it or lies on it."

// quiet reports whether there is nothing to do or to tell of what is asked for.
func (n Needs) quiet() bool { return len(n.Install)+len(n.Reach)+len(n.Left) == 0 }

// leading says what has to lead to an installation, whose executable lies at a path where that is
// known.
func leading(byDefault, at string) string {
	switch n := strings.LastIndexAny(at, `/\`); {
	case byDefault != "":
		return "make it the default in " + byDefault
	case n > 0:
		return "put " + at[:n] + " first on PATH"
	}
	return "put it first on PATH"
}

// NeedsText prints needs for people.
func NeedsText(w io.Writer, n Needs, c *catalogue.Catalogue, style Style) error {
	p := &printer{w: w, style: style, catalogue: c}
	needed := 0
	for _, in := range n.Install {
		if in.Version != "" {
			needed++
		}
	}
	switch {
	case n.Asking == 0:
		p.linef("%s", p.bold("It is not known what "+terminal.Clean(n.Machine)+" needs."))
		p.linef("  %s", nothingAsks)
	case n.quiet() && len(unseen.Blinding(n.Unseen)) > 0:
		p.linef("%s", p.bold("Not all is known that "+terminal.Clean(n.Machine)+" needs: nothing is missing of what was seen."))
	case n.quiet() && n.Taken != "":
		p.linef("%s", p.bold(terminal.Clean(n.Machine)+" has all that is asked for, but for what is taken away."))
	case n.quiet():
		p.linef("%s", p.bold(terminal.Clean(n.Machine)+" has all that is asked for."))
	case needed == 0 && len(n.Reach) > 0:
		p.linef("%s", p.bold("Nothing is to be installed on "+terminal.Clean(n.Machine)+", but not all that is there is reached."))
	case needed == 0:
		p.linef("%s", p.bold("Installing mends nothing more on "+terminal.Clean(n.Machine)+"."))
	default:
		p.linef("%s", p.bold(fmt.Sprintf("%s needs %s", terminal.Clean(n.Machine), sentence.Count(needed, "toolchain", "toolchains"))))
	}
	if n.Taken != "" {
		p.linef("  %s", n.Taken)
	}
	for _, in := range n.Install {
		if in.Version == "" {
			continue
		}
		p.linef("  + %s%s", p.bold(terminal.Clean(installed(in, c))), p.dim(terminal.Clean(supported(in))))
		if in.First {
			p.linef("      and %s, since nothing pins it", terminal.Clean(leading(in.Default, "")))
		}
		for _, line := range wrap(terminal.Clean("for "+askers(in.AskedBy)+" ("+in.Range+")"), p.style.Width-6) {
			p.linef("      %s", line)
		}
	}
	for _, in := range n.Install {
		if in.Version == "" {
			p.linef("  %s %s", p.paint("33", "?"), terminal.Clean(installed(in, c)))
			p.linef("      for %s: change what they ask for", terminal.Clean(askers(in.AskedBy)))
		}
	}
	for _, r := range n.Reach {
		p.linef("  > %s is there, and not reached", p.bold(terminal.Clean(r.Title+" "+r.Version)))
		for _, line := range wrap(terminal.Clean(leading(r.Default, r.Path)+" for "+askers(r.AskedBy)), p.style.Width-6) {
			p.linef("      %s", line)
		}
	}
	if len(n.Left) > 0 {
		p.linef("\n%s", p.bold("Not mended by this"))
	}
	for _, l := range n.Left {
		for _, line := range wrap(terminal.Clean(askers(l.AskedBy)+": "+l.Message), p.style.Width-4) {
			p.linef("  %s", line)
		}
	}
	p.unseen(n.Unseen)
	if len(n.Spare) == 0 {
		return p.err
	}
	var total int64
	for _, s := range n.Spare {
		total += s.SizeBytes
	}
	head := fmt.Sprintf("Serves none of these repositories: %s", sentence.Count(len(n.Spare), "installation", "installations"))
	if total > 0 {
		head += ", " + sentence.Bytes(total)
	}
	p.linef("\n%s", p.bold(head))
	for _, s := range n.Spare {
		size := ""
		if s.SizeBytes > 0 {
			size = ", " + sentence.Bytes(s.SizeBytes)
		}
		p.linef("  - %s at %s%s", terminal.Clean(strings.TrimSpace(c.Title(s.Tool)+" "+s.Version)), terminal.Clean(s.Home), size)
		if len(s.GoesWith) > 0 {
			for _, line := range wrap(terminal.Clean("with it would go "+askers(s.GoesWith)), p.style.Width-6) {
				p.linef("      %s", p.dim(line))
			}
		}
	}
	p.linef("  %s", p.dim("Nothing on the machine points at them either; keep what other projects need."))
	return p.err
}

// installed is what to install: "Java 21.0.8 temurin, kit".
func installed(in NeedsInstall, c *catalogue.Catalogue) string {
	text := c.Title(in.Tool) + " " + in.Version
	if in.Version == "" {
		text = c.Title(in.Tool) + " " + in.Range + " (no release is known that would do)"
	}
	for _, word := range []string{in.Vendor, in.Variant, in.Package, in.Arch} {
		if word != "" {
			text += " " + word
		}
	}
	return text
}

func supported(in NeedsInstall) string {
	switch {
	case in.Ended:
		return "  out of support since " + inWords(in.Until) + ", and nothing newer is admitted"
	case in.Until != "":
		return "  supported until " + inWords(in.Until)
	}
	return ""
}

// inWords is a day as sentences say it.
func inWords(text string) string {
	day, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return text
	}
	return day.Format("2 Jan 2006")
}

// askers are the first few of a list, with how many more there are.
func askers(list []string) string {
	const most = 6
	if more := len(list) - most; more > 0 {
		return strings.Join(list[:most], ", ") + fmt.Sprintf(" and %d more", more)
	}
	return strings.Join(list, ", ")
}

// NeedsMarkdown writes a checklist.
func NeedsMarkdown(w io.Writer, n Needs, c *catalogue.Catalogue) error {
	p := &printer{w: w, catalogue: c}
	p.linef("# %s\n", marked("What "+n.Machine+" needs"))
	switch {
	case n.Asking == 0:
		p.linef("It is not known. %s", nothingAsks)
	case n.quiet() && len(unseen.Blinding(n.Unseen)) > 0:
		p.linef("Not all is known: nothing is missing of what was seen.")
	case n.quiet() && n.Taken != "":
		p.linef("Nothing, but for what is taken away.")
	case n.quiet():
		p.linef("Nothing: all that is asked for is there.")
	}
	if n.Taken != "" {
		p.linef("%s\n", marked(n.Taken))
	}
	for _, in := range n.Install {
		first := ""
		if in.First {
			first = ", and " + leading(in.Default, "")
		}
		p.linef("- [ ] %s%s%s: for %s", marked(installed(in, c)), marked(strings.Replace(supported(in), "  ", ", ", 1)), marked(first), marked(strings.Join(in.AskedBy, ", ")))
	}
	for _, r := range n.Reach {
		p.linef("- [ ] %s is there and not reached: %s, for %s", marked(r.Title+" "+r.Version), marked(leading(r.Default, r.Path)), marked(strings.Join(r.AskedBy, ", ")))
	}
	if len(n.Left) > 0 {
		p.linef("\n## Not mended by this\n")
	}
	for _, l := range n.Left {
		p.linef("- %s: %s", marked(strings.Join(l.AskedBy, ", ")), marked(l.Message))
	}
	if gaps := unseen.Blinding(n.Unseen); len(gaps) > 0 {
		p.linef("\n## Not seen, and so what rests on it is not known\n")
		for _, g := range gaps {
			p.linef("- %s", marked(g.String()))
		}
	}
	if told := unseen.ToldOnly(n.Unseen); len(told) > 0 {
		p.linef("\n## Not seen; what is said holds without it\n")
		for _, g := range told {
			p.linef("- %s", marked(g.String()))
		}
	}
	if len(n.Spare) > 0 {
		p.linef("\n## Serves none of these repositories\n")
	}
	for _, s := range n.Spare {
		text := strings.TrimSpace(c.Title(s.Tool)+" "+s.Version) + " at " + s.Home
		if s.SizeBytes > 0 {
			text += ", " + sentence.Bytes(s.SizeBytes)
		}
		if len(s.GoesWith) > 0 {
			text += "; with it would go " + askers(s.GoesWith)
		}
		p.linef("- [ ] %s", marked(text))
	}
	return p.err
}

// marked is a text of which Markdown makes nothing else.
func marked(text string) string {
	return strings.NewReplacer(`\`, `\\`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, "|", `\|`, "#", `\#`).Replace(terminal.Clean(text))
}

// NeedsList writes what to install for a program to read: tool, version, vendor and kind,
// parted by tabs, a line each; a dash where something is free.
func NeedsList(w io.Writer, n Needs) error {
	for _, in := range n.Install {
		if in.Version == "" {
			continue
		}
		if _, err := fmt.Fprintf(w, "%s\t%s\t%s\t%s\n", in.Tool, terminal.Clean(in.Version), orMinus(in.Vendor), orMinus(in.Package)); err != nil {
			return err
		}
	}
	return nil
}

func orMinus(s string) string {
	if s == "" {
		return "-"
	}
	return terminal.Clean(path.Clean(s))
}
