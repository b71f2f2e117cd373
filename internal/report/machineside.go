package report

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
	"wexo/internal/core/version"
	"wexo/internal/terminal"
)

// MachineSide is all that machines have to do with one tool in one folder: what is
// installed, and why one of it wins; what PATH would run; what editors would.
type MachineSide struct {
	Machines   []string    `json:"machines"` // that look the same to the tool
	Candidates []Candidate `json:"candidates"`
	Path       []Pathed    `json:"path"`    // executables of the tool on PATH, in order
	Editors    []Edited    `json:"editors"` // what editors and build tools there know
	Folders    []Placed    `json:"folders"` // what a proxy picks in folders, whatever the repository says
}

// Candidate is an installation, and whether it would do.
type Candidate struct {
	Version string `json:"version"`
	Vendor  string `json:"vendor,omitempty"`
	Path    string `json:"path"`
	Fits    bool   `json:"fits"`
	Wins    bool   `json:"wins"`
	Why     string `json:"why"`
}

// Pathed is an executable on PATH.
type Pathed struct {
	Path    string `json:"path"`
	Leads   string `json:"leads"`
	Version string `json:"version"`
	Proxy   bool   `json:"proxy"`
	Because string `json:"because,omitempty"` // of a proxy: why it runs that
	Picks   bool   `json:"picks,omitempty"`   // it is a proxy that picks by the folder
	Wins    bool   `json:"wins"`
}

// Edited is an entry of an editor's table, or a setting of the user's.
type Edited struct {
	Editor  string `json:"editor"`
	Name    string `json:"name,omitempty"`
	Path    string `json:"path"`
	Version string `json:"version"`
	Source  string `json:"source"`
}

// Placed is what a proxy picks in a folder.
type Placed struct {
	Folder  string `json:"folder"`
	Version string `json:"version"`
	Source  string `json:"source"`
}

// machineSides are those of a subject, machines that look the same together.
func (w Wording) machineSides(r *assess.Result, n int) []MachineSide {
	s, resolved := r.Subjects[n], r.Judged[n].Resolved
	out := []MachineSide{}
	for _, c := range w.Fleet.Among(r.Among).Of(s.Tool).Classes {
		side := MachineSide{Machines: w.Fleet.Names(c.Machines), Candidates: candidates(c, resolved), Path: pathed(c, s.Tool.Name), Editors: []Edited{}, Folders: []Placed{}}
		for _, e := range c.Inventory.Editors {
			if e.Tool == s.Tool.Name {
				side.Editors = append(side.Editors, Edited{e.Editor, e.Name, e.Path, e.Version, fmt.Sprintf("%s:%d", e.Source, e.Line)})
			}
		}
		for _, x := range c.Inventory.Proxies {
			for _, f := range x.Folders {
				if x.Tool == s.Tool.Name {
					side.Folders = append(side.Folders, Placed{f.Folder, f.Version, f.Source})
				}
			}
		}
		out = append(out, side)
	}
	return out
}

// candidates are the installations of a tool, newest first, with why each would do or not.
func candidates(c *resolve.Class, r *resolve.Resolved) []Candidate {
	out := []Candidate{}
	o := r.Comes(c.Machines.First())
	a := askedOf(c, r)
	for _, in := range c.Installed(r.Tool.Name) {
		one := Candidate{Version: in.Version, Vendor: in.Vendor, Path: in.Path}
		one.Fits, one.Why = a.fits(in)
		if o != nil && o.Version == in.Version && (o.Path == in.Path || o.Path == "") && !slices.ContainsFunc(out, func(p Candidate) bool { return p.Wins }) {
			one.Wins = true
			one.Why += a.because(in, o)
		}
		out = append(out, one)
	}
	return out
}

// asked is what is asked of a tool's installations on a machine.
type asked struct {
	set    version.Set
	build  inventory.Build
	by     string               // what asks, in words
	name   string               // a pin that is a name
	named  *inventory.Installed // the installation that is called so
	barely bool                 // the name is all that is asked for
}

func askedOf(c *resolve.Class, r *resolve.Resolved) asked {
	var a asked
	a.set, a.build, a.by = wanted(r)
	if len(r.Pins) > 0 && (r.Pins[0].Kept || r.Pins[0].Alias != "") {
		a.name, a.barely = r.Pins[0].Raw, r.Pins[0].Kept
		a.named = c.Called(r.Tool.Name, a.name)
	}
	return a
}

// fits reports whether an installation would do, and why.
func (a asked) fits(in *inventory.Installed) (fits bool, why string) {
	only := a.set.WithoutPrereleases()
	switch {
	case in.Health == "broken":
		return false, "broken: " + in.HealthReason
	case in.Private:
		return false, "another program brought it for itself"
	case in.Number.IsZero():
		return false, "its version cannot be told"
	case in == a.named:
		return true, "called " + a.name
	case a.barely:
		return false, "not called " + a.name
	case !a.set.Contains(in.Number) && only.IsAll():
		return false, "a pre-release, and none is asked for"
	case !a.set.Contains(in.Number):
		return false, "not in " + only.String()
	case !a.build.Fits(in.Installation):
		return false, "of another build than asked for"
	case a.set.IsAll():
		return true, "nothing is asked for"
	}
	return true, "in " + only.String()
}

// because says what chose the installation that runs; empty where its name did.
func (a asked) because(in *inventory.Installed, o *resolve.Outcome) string {
	switch o.DecidedBy {
	case resolve.ByPin, resolve.ByInherited, resolve.ByBaseline:
		if in != a.named {
			return ", and the newest that " + a.by + " admits"
		}
	case resolve.ByOverride:
		return "; the variable " + o.Where + " names it"
	case resolve.ByDefault:
		return "; the user's default names it"
	case resolve.ByPath:
		return "; PATH finds it first"
	}
	return ""
}

// wanted is what decides among installations: the pins together, or else the bounds.
func wanted(r *resolve.Resolved) (set version.Set, build inventory.Build, named string) {
	if len(r.Pins) > 0 && r.Pins[0].Judges() {
		set, build, named = r.Pins[0].Set, r.Pins[0].Build(), "the pin"
		for i := range r.Pins[1:] {
			if p := &r.Pins[i+1]; p.Judges() && set.Overlaps(p.Set) {
				set = set.Intersect(p.Set)
			}
		}
		return set, build, named
	}
	return r.Feasible, build, "what is demanded"
}

// pathed are the executables of a tool on PATH, in order; of one folder that leads to the
// same the first.
func pathed(c *resolve.Class, tool string) []Pathed {
	out := []Pathed{}
	for _, f := range c.Inventory.SearchPath {
		for _, t := range f.Tools {
			if t.Tool != tool || slices.ContainsFunc(out, func(p Pathed) bool { return path.Dir(p.Path) == f.Folder && p.Leads == t.Leads }) {
				continue
			}
			one := Pathed{Path: path.Join(f.Folder, t.Name), Leads: t.Leads, Version: t.Version, Proxy: t.Proxy, Wins: t.Wins}
			if x, ok := c.Proxy(tool, one.Path); ok {
				one.Because, one.Picks = x.Because, x.Root != ""
			}
			out = append(out, one)
		}
	}
	return out
}

// mostSides is how many kinds of machines are printed.
const mostSides = 4

// machineSides prints what machines have.
func (p *printer) machineSides(t Trace) {
	for _, side := range t.Machines[:min(len(t.Machines), mostSides)] {
		p.linef("\n%s", p.bold("What "+terminal.Clean(several(side.Machines))+verbHave(len(side.Machines))))
		width := 0
		for _, c := range side.Candidates {
			width = max(width, len(c.Version))
		}
		for _, c := range side.Candidates {
			mark := " "
			if c.Wins {
				mark = p.paint("32", "▶")
			}
			p.linef("  %s %-*s  %s", mark, width, terminal.Clean(orDash(c.Version)), terminal.Clean(strings.TrimSpace(c.Vendor+" at "+c.Path)))
			for _, line := range wrap(terminal.Clean(c.Why), p.style.Width-8) {
				p.linef("      %s", p.dim(line))
			}
		}
		if len(side.Candidates) == 0 {
			p.linef("  nothing of it is installed")
		}
		p.pathSide(side)
		for _, e := range side.Editors {
			name := e.Name
			if name == "" {
				name = "a setting"
			}
			p.linef("  %s knows %s: %s at %s  %s", terminal.Clean(e.Editor), terminal.Clean(name), terminal.Clean(orDash(e.Version)), terminal.Clean(orDash(e.Path)), p.dim(terminal.Clean(e.Source)))
		}
		for _, f := range side.Folders {
			p.linef("  in %s a proxy runs %s, whatever the repository says  %s", terminal.Clean(f.Folder), terminal.Clean(orDash(f.Version)), p.dim(terminal.Clean(f.Source)))
		}
	}
	if more := len(t.Machines) - mostSides; more > 0 {
		p.linef("\n%s", p.dim("and "+sentence.Count(more, "kind", "kinds")+" of machines more (--output json has all)"))
	}
}

func (p *printer) pathSide(side MachineSide) {
	for i, x := range side.Path {
		lead := "PATH runs"
		if i > 0 {
			lead = "behind it"
		}
		text := fmt.Sprintf("%s %s by %s", lead, orDash(x.Version), x.Path)
		if x.Picks {
			text = fmt.Sprintf("%s a proxy, %s: %s where no version file decides", lead, x.Path, orDash(x.Version))
			if x.Because != "" {
				text += " (" + x.Because + ")"
			}
		} else if x.Proxy {
			text += ", a proxy"
			if x.Because != "" {
				text += " (" + x.Because + ")"
			}
		} else if x.Leads != x.Path {
			text += " → " + orDash(x.Leads)
		}
		p.linef("  %s", terminal.Clean(text))
	}
}

func verbHave(n int) string {
	if n == 1 {
		return " has"
	}
	return " have"
}
