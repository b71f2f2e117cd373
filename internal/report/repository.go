package report

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/resolve"
)

// Repository is one repository's folders. Notice says what a reader should know of how it was read.
type Repository struct {
	Name     string   `json:"name"`
	Identity string   `json:"identity"`
	Path     string   `json:"path"`
	Ref      string   `json:"ref,omitempty"`
	Commit   string   `json:"commit"`
	Notice   string   `json:"notice,omitempty"`
	Unread   string   `json:"unread,omitempty"` // why it could not be read at all
	Folders  []Folder `json:"folders"`
	// Mentions are places that look like a tool beside a version and made no claim.
	Mentions []claim.Mention `json:"mentions"`
	// OwnRules are rules that the repository makes for itself, with what each takes away.
	OwnRules []assess.Taken `json:"ownRules"`
}

// Folder is one folder's tools.
type Folder struct {
	Path  string `json:"path"`
	Tools []Tool `json:"tools"`
}

// Tool is what is said of a tool in a folder, and what comes of it.
type Tool struct {
	Tool        string       `json:"tool"`
	Claims      []Claim      `json:"claims"` // of the folder itself; those above it hold too
	Feasible    string       `json:"feasible"`
	Conflict    []Claim      `json:"conflict"`
	Resolutions []Resolution `json:"resolutions"`
}

// Resolution is what would run on machines that come to the same.
type Resolution struct {
	Machines  []string `json:"machines"`
	State     string   `json:"state"`
	DecidedBy string   `json:"decidedBy"`
	Version   string   `json:"version"`
	Path      string   `json:"path"`             // where the machines share it
	Starts    string   `json:"starts,omitempty"` // the installed version that starts and fetches the one that runs
	AsItIs    []AsItIs `json:"asItIs,omitempty"` // what PATH runs instead where nothing follows version files
	Ladder    []Rung   `json:"ladder,omitempty"` // where it was asked for
}

// AsItIs is what runs on some machines as they are.
type AsItIs struct {
	Version  string   `json:"version"`
	Machines []string `json:"machines"`
}

// NewRepository puts a judged repository into the report's form.
func (w Wording) NewRepository(read Read, on time.Time) Repository {
	out := Repository{Name: read.Name, Identity: read.Identity, Path: read.Path, Ref: read.Ref, Commit: read.Commit, Notice: read.Notice, Unread: read.Unread, Folders: []Folder{},
		Mentions: append([]claim.Mention{}, read.Mentions...), OwnRules: append([]assess.Taken{}, read.Taken...)}
	for i, s := range read.Subjects {
		if n := len(out.Folders); n == 0 || out.Folders[n-1].Path != s.Folder {
			out.Folders = append(out.Folders, Folder{Path: s.Folder})
		}
		at := &out.Folders[len(out.Folders)-1]
		at.Tools = append(at.Tools, w.tool(s, read.Judged[i], on))
	}
	return out
}

func (w Wording) tool(s *assess.Subject, j *assess.Judged, on time.Time) Tool {
	t := Tool{Tool: s.Tool.Name, Claims: ownClaims(s, on), Feasible: j.Resolved.Feasible.String(), Conflict: Conflicting(s, j, on), Resolutions: []Resolution{}}
	for _, g := range groups(j.Resolved.Outcomes) {
		t.Resolutions = append(t.Resolutions, w.resolution(g))
	}
	return t
}

func (w Wording) resolution(g group) Resolution {
	return Resolution{Machines: w.Fleet.Names(g.machines), State: string(g.State), DecidedBy: g.DecidedBy, Version: g.Version, Path: g.Path, Starts: g.Starts}
}

func ownClaims(s *assess.Subject, on time.Time) []Claim {
	out := []Claim{}
	for _, a := range s.Claims {
		if s.Own(a) {
			out = append(out, NewClaim(a, on))
		}
	}
	return out
}

// repository writes what NewRepository gives.
func (l *line) repository(w Wording, read Read, on time.Time) {
	l.open('{')
	l.text("name", read.Name)
	l.text("identity", read.Identity)
	l.text("path", read.Path)
	l.some("ref", read.Ref)
	l.text("commit", read.Commit)
	l.some("notice", read.Notice)
	l.some("unread", read.Unread)
	l.key("folders")
	l.open('[')
	for i, s := range read.Subjects {
		switch {
		case i == 0 || read.Subjects[i-1].Folder != s.Folder:
			if i > 0 {
				l.b = append(l.b, "]}"...)
			}
			l.open('{')
			l.text("path", s.Folder)
			l.key("tools")
			l.open('[')
		}
		l.tool(s, read.Judged[i], on)
	}
	if len(read.Subjects) > 0 {
		l.b = append(l.b, "]}"...)
	}
	l.close(']')
	l.mentions(read.Mentions)
	l.other("ownRules", append([]assess.Taken{}, read.Taken...))
	l.close('}')
}

func (l *line) mentions(list []claim.Mention) {
	l.key("mentions")
	l.open('[')
	for i := range list {
		m := &list[i]
		l.open('{')
		l.text("tool", m.Tool)
		l.text("raw", m.Raw)
		l.text("folder", m.Folder)
		l.text("file", m.File)
		l.number("line", m.Line)
		l.number("column", m.Column)
		l.text("reason", m.Reason)
		l.close('}')
	}
	l.close(']')
}

func (l *line) tool(s *assess.Subject, j *assess.Judged, on time.Time) {
	l.open('{')
	l.text("tool", s.Tool.Name)
	l.claims("claims", ownClaims(s, on))
	l.text("feasible", j.Resolved.Feasible.String())
	l.claims("conflict", Conflicting(s, j, on))
	l.key("resolutions")
	l.open('[')
	for _, g := range groups(j.Resolved.Outcomes) {
		l.open('{')
		l.machines("machines", g.machines)
		l.text("state", string(g.State))
		l.text("decidedBy", g.DecidedBy)
		l.text("version", g.Version)
		l.text("path", g.Path)
		l.some("starts", g.Starts)
		l.close('}')
	}
	l.b = append(l.b, "]}"...)
}

// group is machines that come to the same, but for the path.
type group struct {
	resolve.Outcome
	machines resolve.Machines
}

// groups puts outcomes together that differ in what decides them on the machine alone.
func groups(outcomes []resolve.Outcome) []group {
	out := make([]group, 0, len(outcomes))
	for _, o := range outcomes {
		at := slices.IndexFunc(out, func(g group) bool {
			return g.State == o.State && g.DecidedBy == o.DecidedBy && g.Version == o.Version && g.Starts == o.Starts
		})
		if at < 0 {
			out = append(out, group{o, o.Machines})
			continue
		}
		out[at].machines = out[at].machines.And(o.Machines)
		if out[at].Path != o.Path {
			out[at].Path = ""
		}
	}
	return out
}

// Conflicting are a smallest set of claims that cannot hold together; none where all can.
func Conflicting(s *assess.Subject, j *assess.Judged, on time.Time) []Claim {
	out := []Claim{}
	for _, i := range j.Resolved.Contradiction() {
		out = append(out, NewClaim(s.Asked(i), on))
	}
	return out
}

// Claim is one statement about a tool's version.
type Claim struct {
	Role       string `json:"role"`
	Raw        string `json:"raw"`
	Dialect    string `json:"dialect"`
	Reading    string `json:"reading,omitempty"`
	File       string `json:"file"`
	Line       int    `json:"line"`
	Column     int    `json:"column"`
	Begin      int    `json:"begin"` // of the value in the file as it stands on disk, in bytes
	End        int    `json:"end"`
	Recognised string `json:"recognised"`
	Certainty  string `json:"certainty"`
	Why        string `json:"why,omitempty"`
	Range      string `json:"range,omitempty"`
	// Detail is what only some claims have.
	Detail
	Notes []string `json:"notes,omitempty"` // what a reader should know of the claim, in words
}

// Detail is what only some claims have: where the text is really written, what a lock
// file's bound rests on, and the like.
type Detail struct {
	Means     string        `json:"means,omitempty"`
	Given     *claim.Place  `json:"given,omitempty"`
	Locked    *claim.Locked `json:"locked,omitempty"`
	Fallbacks []string      `json:"fallbacks,omitempty"`
	Component string        `json:"component,omitempty"`
	Scope     string        `json:"scope,omitempty"`
	Beaten    string        `json:"beaten,omitempty"`
	Stage     string        `json:"stage,omitempty"`
	Digest    string        `json:"digest,omitempty"`
	OneOf     string        `json:"oneOf,omitempty"`
}

// NewClaim puts a claim into the report's form, as it stands on a day.
func NewClaim(a resolve.Asked, on time.Time) Claim {
	c := Claim{Role: string(a.Role), Raw: a.Raw, Dialect: a.Dialect, Reading: a.Reading, File: a.File, Line: a.Line, Column: a.Column, Begin: a.Begin, End: a.End,
		Recognised: a.Recognised, Certainty: a.Certainty, Why: a.Why, Notes: notes(a.Claim),
		Detail: Detail{a.Means, a.Given, a.Locked, a.Claim.Fallbacks, a.Component, a.Scope, a.Beaten, a.Stage, a.Digest, a.OneOf}}
	if s := resolve.SaidOn(a.Asks, day.On(on)); s.Judges() && a.Role != claim.Wiring && a.Role != claim.Residue && a.Role != claim.Component {
		c.Range = s.Set.String()
	}
	return c
}

// notes say in words what a claim's fields say beyond its text and place.
func notes(c *claim.Claim) []string {
	var out []string
	add := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if c.Why != "" && c.Certainty != claim.High {
		add("%s certainty: %s", c.Certainty, c.Why)
	} else if c.Why != "" && c.Recognised != claim.Shape {
		add("%s", c.Why)
	}
	if c.Means != "" && c.Means != c.Raw {
		add("stands for %s", c.Means)
	}
	if c.Given != nil {
		add("written in %s:%d as %s", c.Given.File, c.Given.Line, c.Given.Name)
	}
	if c.Locked != nil {
		for _, d := range c.Locked.By {
			add("%s demands %s (line %d)", strings.TrimSpace(d.Dependency+" "+d.Version), d.Raw, d.Line)
		}
		add("%d locked dependencies demand something", c.Locked.Demands)
	}
	if c.Purpose != "" {
		add("%s", c.Purpose)
	}
	if c.Vendor != "" {
		add("a build of %s", c.Vendor)
	}
	if c.Fetched {
		add("the tool's own programs fetch it, unless something keeps them from it")
	}
	if c.Brings {
		add("the build fetches this version itself")
	}
	if len(c.Fallbacks) > 0 {
		add("then %s, in this order", strings.Join(c.Fallbacks, ", "))
	}
	for _, part := range []struct{ name, value string }{{"component", c.Component}, {"stage", c.Stage}, {"one value of", c.OneOf}, {"scope", c.Scope}, {"beaten by", c.Beaten}} {
		if part.value != "" {
			add("%s %s", part.name, part.value)
		}
	}
	return out
}
