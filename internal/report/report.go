// Package report puts assessments into the report format and prints it, as text for
// people and as JSON for programs.
package report

import (
	"fmt"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
)

// Format is the name and version of the report format.
const Format = "wexo.report/1"

// Report is everything a survey found.
type Report struct {
	Format       string           `json:"format"`
	AsOf         string           `json:"asOf"`
	Wexo         string           `json:"wexo"`
	Machines     []Machine        `json:"machines"`
	Repositories []Repository     `json:"repositories"`
	Findings     []assess.Finding `json:"findings"`
	Summary      Summary          `json:"summary"`
}

// Machine names a machine of the report.
type Machine struct {
	Name string `json:"name"`
}

// Repository is one repository's folders. Notice says what a reader should know of how it was read.
type Repository struct {
	Name    string   `json:"name"`
	Path    string   `json:"path"`
	Ref     string   `json:"ref,omitempty"`
	Commit  string   `json:"commit"`
	Notice  string   `json:"notice,omitempty"`
	Unread  string   `json:"unread,omitempty"` // why it could not be read at all
	Folders []Folder `json:"folders"`
}

// Folder is one folder's tools.
type Folder struct {
	Path  string `json:"path"`
	Tools []Tool `json:"tools"`
}

// Tool is what is said of a tool in a folder, and what comes of it.
type Tool struct {
	Tool        string       `json:"tool"`
	Claims      []Claim      `json:"claims"`
	Feasible    string       `json:"feasible"`
	Conflict    []Claim      `json:"conflict"`
	Resolutions []Resolution `json:"resolutions"`
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

// Resolution is what would run on one machine.
type Resolution struct {
	Machine   string `json:"machine"`
	State     string `json:"state"`
	DecidedBy string `json:"decidedBy"`
	Version   string `json:"version"`
	Path      string `json:"path"`
	Ladder    []Rung `json:"ladder"`
}

// Rung is one place a version can come from.
type Rung struct {
	Source  string `json:"source"`
	Says    bool   `json:"says"`
	Raw     string `json:"raw,omitempty"`
	Where   string `json:"where,omitempty"`
	Version string `json:"version,omitempty"`
	Path    string `json:"path,omitempty"`
	Decides bool   `json:"decides"`
	Note    string `json:"note,omitempty"`
}

// Summary counts a report.
type Summary struct {
	Repositories int            `json:"repositories"`
	Unread       int            `json:"unread"` // repositories that could not be read
	Claims       int            `json:"claims"`
	ByClass      map[string]int `json:"byClass"`
	BySeverity   map[string]int `json:"bySeverity"`
}

// Read is a repository that was assessed, with what its reader noticed.
type Read struct {
	assess.Assessment
	Notice string
	Unread string // why it could not be read at all; empty where it could
}

// Build makes the report of a survey. Lists are sorted, so that two reports can be compared.
func Build(version string, reads []Read, in assess.Inputs) Report {
	r := Report{Format: Format, AsOf: in.Day.Format(time.DateOnly), Wexo: version,
		Machines: []Machine{}, Findings: []assess.Finding{},
		Summary: Summary{ByClass: map[string]int{}, BySeverity: map[string]int{}}}
	for _, m := range in.Machines {
		r.Machines = append(r.Machines, Machine{m.Name()})
	}
	reads = slices.Clone(reads)
	slices.SortFunc(reads, func(a, b Read) int { return strings.Compare(a.Repository.Name, b.Repository.Name) })
	r.Repositories = repositories(reads)
	for _, read := range reads {
		r.Findings = append(r.Findings, read.Findings...)
		r.Summary.Claims += len(read.Repository.Claims)
		if read.Unread != "" {
			r.Summary.Unread++
		}
	}
	r.Summary.Repositories = len(reads)
	for _, f := range r.Findings {
		r.Summary.ByClass[string(f.Class)]++
		r.Summary.BySeverity[string(f.Severity)]++
	}
	return r
}

// repositories puts them into the report's form, side by side: it is a tenth of what a
// survey takes where nothing has changed.
func repositories(reads []Read) []Repository {
	out := make([]Repository, len(reads))
	var wait sync.WaitGroup
	var next atomic.Int64
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := int(next.Add(1)) - 1; i < len(reads); i = int(next.Add(1)) - 1 {
				out[i] = NewRepository(reads[i])
			}
		})
	}
	wait.Wait()
	return out
}

// NewRepository puts an assessed repository into the report's form.
func NewRepository(read Read) Repository {
	a := read.Assessment
	out := Repository{Name: a.Repository.Name, Path: a.Repository.Path, Ref: a.Repository.Ref, Commit: a.Repository.Commit, Notice: read.Notice, Unread: read.Unread, Folders: []Folder{}}
	for _, s := range a.Subjects {
		if n := len(out.Folders); n == 0 || out.Folders[n-1].Path != s.Folder {
			out.Folders = append(out.Folders, Folder{Path: s.Folder})
		}
		at := &out.Folders[len(out.Folders)-1]
		at.Tools = append(at.Tools, tool(s))
	}
	return out
}

func tool(s assess.Subject) Tool {
	t := Tool{Tool: s.Tool.Name, Claims: claims(s.Claims), Feasible: s.Feasible().String(), Conflict: claims(s.Conflict()), Resolutions: []Resolution{}}
	for _, r := range s.Resolutions {
		t.Resolutions = append(t.Resolutions, NewResolution(r))
	}
	return t
}

func claims(list []resolve.Asked) []Claim {
	out := make([]Claim, 0, len(list))
	for _, a := range list {
		out = append(out, NewClaim(a))
	}
	return out
}

// NewClaim puts a claim into the report's form.
func NewClaim(a resolve.Asked) Claim {
	c := Claim{Role: string(a.Role), Raw: a.Raw, Dialect: a.Dialect, Reading: a.Reading, File: a.File, Line: a.Line, Column: a.Column,
		Recognised: a.Recognised, Certainty: a.Certainty, Why: a.Why, Notes: notes(a.Claim),
		Detail: Detail{a.Means, a.Given, a.Locked, a.Claim.Fallbacks, a.Component, a.Scope, a.Beaten, a.Stage, a.Digest, a.OneOf}}
	if a.Judges() {
		c.Range = a.Set.String()
	}
	return c
}

// notes say in words what a claim's fields say beyond its text and place.
func notes(c claim.Claim) []string {
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

// NewResolution puts a resolution into the report's form.
func NewResolution(r resolve.Resolution) Resolution {
	out := Resolution{Machine: r.Machine, State: string(r.State), DecidedBy: r.DecidedBy, Version: r.Version, Path: r.Path}
	for _, rung := range r.Ladder {
		out.Ladder = append(out.Ladder, Rung(rung))
	}
	return out
}

// Worst is the highest severity rank among findings that are not waived; 0 where there is none.
func (r Report) Worst() int {
	worst := 0
	for _, f := range r.Findings {
		if !f.Waived {
			worst = max(worst, f.Severity.Rank())
		}
	}
	return worst
}
