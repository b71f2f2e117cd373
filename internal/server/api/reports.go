package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/report"
	"wexo/internal/server/view"
)

// GetOverview counts what needs attention.
func (s *Server) GetOverview(ctx context.Context, r GetOverviewRequestObject) (GetOverviewResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, r.Params.Machine)
	if err != nil {
		return nil, err
	}
	out := Overview{AsOf: v.Lens.Day.Format(time.DateOnly), Repositories: len(v.Reads), Healthy: v.Healthy(),
		Tools: len(v.ToolsInUse()), Machines: len(v.Inputs.Machines), Classes: []ClassCount{}, Worst: []Trouble{}, Ending: lineList(v, v.Ending())}
	for _, read := range v.Reads {
		out.Claims += len(read.Repository.Claims)
	}
	for _, c := range v.Classes() {
		out.Classes = append(out.Classes, ClassCount{Class: string(c.Class), Severity: ClassCountSeverity(c.Severity),
			Total: c.Total, Week: c.Week, Month: c.Month, Quarter: c.Quarter, Older: c.Older})
		out.Findings += c.Total
		switch c.Severity {
		case assess.Error:
			out.BySeverity.Error += c.Total
		case assess.Warning:
			out.BySeverity.Warning += c.Total
		default:
			out.BySeverity.Note += c.Total
		}
	}
	for _, t := range v.Worst(6) {
		out.Worst = append(out.Worst, Trouble{Repository: t.Repository, Errors: t.Errors, Warnings: t.Warnings})
	}
	if err := s.freshness(ctx, v, &out); err != nil {
		return nil, err
	}
	return GetOverview200JSONResponse(out), nil
}

func (s *Server) freshness(ctx context.Context, v *view.View, out *Overview) error {
	out.Freshness.Machines = []MachineAge{}
	surveys, err := s.Store.Surveys(ctx, 20)
	if err != nil {
		return err
	}
	for _, survey := range surveys {
		if survey.State == "finished" {
			out.Freshness.SurveyedAt = survey.FinishedAt
			break
		}
	}
	for _, m := range v.Inputs.Machines {
		taken := m.Inventory.TakenAt
		out.Freshness.Machines = append(out.Freshness.Machines, MachineAge{Name: m.Name(), Kind: m.Inventory.Machine.Kind, TakenAt: taken.Format(time.RFC3339), Days: v.Days(taken)})
	}
	return nil
}

// GetMatrix gives repositories by tools.
func (s *Server) GetMatrix(ctx context.Context, r GetMatrixRequestObject) (GetMatrixResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, r.Params.Machine)
	if err != nil {
		return nil, err
	}
	rows := v.Matrix()
	out := Matrix{Tools: []MatrixTool{}, Rows: []MatrixRow{}}
	for _, t := range v.ToolsInUse() {
		met, warning, failing := 0, 0, 0
		for _, row := range rows {
			for _, c := range row.Cells {
				switch {
				case c.Tool != t.Name:
				case c.Severity == "error":
					failing++
				case c.Severity == "warning":
					warning++
				default:
					met++
				}
			}
		}
		out.Tools = append(out.Tools, MatrixTool{Tool: t.Name, Title: t.Title, Met: met, Warning: warning, Error: failing})
	}
	for _, row := range rows {
		cells := []Cell{}
		for _, c := range row.Cells {
			cells = append(cells, Cell{Tool: c.Tool, Kind: c.Kind, Severity: CellSeverity(c.Severity), Asked: c.Asked, Resolved: c.Resolved, Classes: c.Classes, Folder: c.Folder})
		}
		out.Rows = append(out.Rows, MatrixRow{Repository: row.Repository, Loose: row.Loose, Cells: cells})
	}
	return GetMatrix200JSONResponse(out), nil
}

// ListFindings gives findings, filtered and paged.
func (s *Server) ListFindings(ctx context.Context, r ListFindingsRequestObject) (ListFindingsResponseObject, error) {
	p := r.Params
	v, err := s.view(ctx, p.AsOf, p.Machine)
	if err != nil {
		return nil, err
	}
	for _, class := range value(p.Class) {
		if !assess.Known(assess.Class(class)) {
			return nil, problem(http.StatusBadRequest, fmt.Sprintf("The parameter class should be a class of findings, and %.60q is none.", class))
		}
	}
	words := strings.Fields(strings.ToLower(value(p.Q)))
	matches := []assess.Finding{}
	for _, f := range v.Findings() {
		if (p.Class == nil || slices.Contains(*p.Class, string(f.Class))) &&
			(p.Severity == nil || slices.Contains(*p.Severity, ListFindingsParamsSeverity(f.Severity))) &&
			(p.Repository == nil || *p.Repository == f.Repository) &&
			(p.Tool == nil || *p.Tool == f.Tool) &&
			(p.Age == nil || v.Age(f) <= *p.Age) && holds(f, words) {
			matches = append(matches, f)
		}
	}
	shown, err := page(matches, p.Limit, p.Offset)
	return ListFindings200JSONResponse{Total: len(matches), Findings: findings(v, shown)}, err
}

func holds(f assess.Finding, words []string) bool {
	text := strings.ToLower(f.Repository + " " + f.Tool + " " + string(f.Class) + " " + f.Message)
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

func findings(v *view.View, list []assess.Finding) []Finding {
	out := make([]Finding, 0, len(list))
	for _, f := range list {
		title := ""
		if tool, known := v.Inputs.Catalogue.Tool(f.Tool); known {
			title = tool.Title
		}
		out = append(out, Finding{Title: title, Fingerprint: f.Fingerprint, Class: string(f.Class), Severity: FindingSeverity(f.Severity), Repository: f.Repository,
			Folder: f.Folder, Tool: f.Tool, Machines: f.Machines, Message: f.Message, Evidence: f.Evidence, Remedy: f.Remedy, Configuration: optional(f.Configuration), Waived: f.Waived,
			FirstSeen: v.FirstSeen[f.Fingerprint]})
	}
	return out
}

// ListClaims gives the claims of the newest readings.
func (s *Server) ListClaims(ctx context.Context, r ListClaimsRequestObject) (ListClaimsResponseObject, error) {
	v, err := s.view(ctx, nil, nil)
	if err != nil {
		return nil, err
	}
	all := []ClaimItem{}
	for _, read := range v.Reads {
		if r.Params.Repository != nil && *r.Params.Repository != read.Repository.Name {
			continue
		}
		for _, subject := range read.Subjects {
			if r.Params.Tool != nil && *r.Params.Tool != subject.Tool.Name {
				continue
			}
			for _, a := range subject.Claims {
				if subject.Own(a) {
					all = append(all, ClaimItem{Repository: read.Repository.Name, Folder: subject.Folder, Tool: subject.Tool.Name, Claim: report.NewClaim(a)})
				}
			}
		}
	}
	shown, err := page(all, r.Params.Limit, r.Params.Offset)
	return ListClaims200JSONResponse{Total: len(all), Claims: shown}, err
}

// ListResolutions gives resolutions with their ladders.
func (s *Server) ListResolutions(ctx context.Context, r ListResolutionsRequestObject) (ListResolutionsResponseObject, error) {
	p := r.Params
	v, err := s.view(ctx, p.AsOf, p.Machine)
	if err != nil {
		return nil, err
	}
	all := []ResolutionItem{}
	for _, read := range v.Reads {
		if p.Repository != nil && *p.Repository != read.Repository.Name {
			continue
		}
		for _, subject := range read.Subjects {
			if p.Tool != nil && *p.Tool != subject.Tool.Name || p.Folder != nil && *p.Folder != subject.Folder {
				continue
			}
			for _, res := range subject.Resolutions {
				all = append(all, ResolutionItem{Repository: read.Repository.Name, Folder: subject.Folder, Tool: subject.Tool.Name, Resolution: report.NewResolution(res)})
			}
		}
	}
	shown, err := page(all, p.Limit, p.Offset)
	return ListResolutions200JSONResponse{Total: len(all), Resolutions: shown}, err
}

// ListLines gives release lines with their support phases.
func (s *Server) ListLines(ctx context.Context, r ListLinesRequestObject) (ListLinesResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, nil)
	if err != nil {
		return nil, err
	}
	tools := s.Catalogue.Tools()
	if r.Params.Tool != nil {
		tool, known := s.Catalogue.Tool(*r.Params.Tool)
		if !known {
			return nil, problem(http.StatusNotFound, "The catalogue knows no tool "+*r.Params.Tool+".")
		}
		tools = []*catalogue.Tool{tool}
	}
	return ListLines200JSONResponse{Lines: lineList(v, v.Lines(tools))}, nil
}

func lineList(v *view.View, list []view.LineUse) []Line {
	out := []Line{}
	for _, u := range list {
		end := ""
		if !u.Line.End.IsZero() {
			end = u.Line.End.Format(time.DateOnly)
		}
		out = append(out, Line{Tool: u.Tool.Name, Title: u.Tool.Title, Line: u.Line.Line, Name: u.Line.Name, Released: u.Line.Released.Format(time.DateOnly),
			End: end, Phase: LinePhase(u.Line.PhaseOn(v.Lens.Day)), Repositories: u.Repositories})
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
