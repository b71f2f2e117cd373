package api

import (
	"slices"

	"wexo/internal/core/assess"
	"wexo/internal/report"
	"wexo/internal/server/view"
)

// This file puts what Wexo knows into the contract's forms.

func findings(v *view.View, list []*assess.Finding) []Finding {
	out := make([]Finding, 0, len(list))
	for _, of := range list {
		f, title := v.Finding(of), ""
		if of.Tool != nil {
			title = of.Tool.Title
		}
		out = append(out, Finding{Title: title, Fingerprint: f.Fingerprint, Class: f.Class, Severity: FindingSeverity(f.Severity), Repository: f.Repository,
			Folder: f.Folder, Tool: f.Tool, Tools: f.Tools, Machines: f.Machines, Message: f.Message, Evidence: evidence(f.Evidence), Remedy: f.Remedy,
			Configuration: optional(f.Configuration), Waived: f.Waived, Apart: f.Apart, Cause: f.Cause, FirstSeen: v.FirstSeenOf(of)})
	}
	return out
}

// mostFirst is how many places of a cause are named.
const mostFirst = 3

func causesOf(v *view.View, list []*assess.Caused) []Cause {
	out := make([]Cause, 0, len(list))
	for _, c := range list {
		said := v.Cause(c)
		one := Cause{Id: said.ID, Class: said.Class, Severity: CauseSeverity(said.Severity), Tool: said.Tool, Title: said.Title, Repositories: said.Repositories,
			Machines: said.Machines, Findings: len(c.Findings), Remedy: v.Finding(c.Findings[0]).Remedy, First: []CausePlace{}}
		for _, f := range c.Findings {
			place := CausePlace{Repository: f.Repository.Name, Folder: f.Folder}
			if len(f.Evidence) > 0 {
				place.File, place.Line = f.Evidence[0].File, f.Evidence[0].Line
			}
			if !slices.Contains(one.First, place) {
				one.First = append(one.First, place)
			}
			if len(one.First) == mostFirst {
				break
			}
		}
		out = append(out, one)
	}
	return out
}

func evidence(list []assess.Evidence) []Evidence {
	out := make([]Evidence, 0, len(list))
	for _, e := range list {
		out = append(out, Evidence{File: e.File, Line: e.Line, Column: e.Column, Raw: e.Raw})
	}
	return out
}

func claimsOf(list []report.Claim) []Claim {
	out := make([]Claim, 0, len(list))
	for _, c := range list {
		out = append(out, claimOf(c))
	}
	return out
}

func claimOf(c report.Claim) Claim {
	out := Claim{Role: ClaimRole(c.Role), Raw: c.Raw, Dialect: c.Dialect, Reading: optional(c.Reading), File: c.File, Line: c.Line, Column: c.Column, Begin: c.Begin, End: c.End,
		Recognised: ClaimRecognised(c.Recognised), Certainty: ClaimCertainty(c.Certainty), Why: optional(c.Why), Range: optional(c.Range), Notes: some(c.Notes),
		Means: optional(c.Means), Fallbacks: some(c.Fallbacks), Component: optional(c.Component), Scope: (*ClaimScope)(optional(c.Scope)), Beaten: optional(c.Beaten),
		Stage: optional(c.Stage), Digest: optional(c.Digest), OneOf: optional(c.OneOf)}
	if g := c.Given; g != nil {
		out.Given = &Place{Name: g.Name, File: g.File, Line: g.Line, Column: g.Column}
	}
	if l := c.Locked; l != nil {
		out.Locked = &Locked{Demands: l.Demands, Range: l.Range, By: []Demand{}}
		for _, d := range l.By {
			out.Locked.By = append(out.Locked.By, Demand{Dependency: d.Dependency, Version: optional(d.Version), Raw: d.Raw, Line: d.Line, Column: d.Column})
		}
	}
	return out
}

func resolutionOf(r report.Resolution) Resolution {
	out := Resolution{Machines: r.Machines, State: ResolutionState(r.State), DecidedBy: r.DecidedBy, Version: r.Version, Path: r.Path, Starts: optional(r.Starts), Ladder: []Rung{}}
	if len(r.AsItIs) > 0 {
		list := make([]AsItIs, 0, len(r.AsItIs))
		for _, one := range r.AsItIs {
			list = append(list, AsItIs{Version: one.Version, Machines: one.Machines})
		}
		out.AsItIs = &list
	}
	for _, rung := range r.Ladder {
		out.Ladder = append(out.Ladder, Rung{Rung: rung.Rung, Machines: machinesOn(rung), Source: RungSource(rung.Source), Says: rung.Says, Raw: optional(rung.Raw), Where: optional(rung.Where),
			Version: optional(rung.Version), Path: optional(rung.Path), Decides: rung.Decides, Note: optional(rung.Note)})
	}
	return out
}

func machinesOn(rung report.Rung) *[]string {
	if len(rung.Machines) == 0 {
		return nil
	}
	return &rung.Machines
}

func resolutionsOf(list []report.Resolution) []Resolution {
	out := make([]Resolution, 0, len(list))
	for _, r := range list {
		out = append(out, resolutionOf(r))
	}
	return out
}

// optional is a text that may be left out.
func optional(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// some is a list that may be left out.
func some(list []string) *[]string {
	if len(list) == 0 {
		return nil
	}
	return &list
}
