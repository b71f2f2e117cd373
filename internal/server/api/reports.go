package api

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/unseen"
	"wexo/internal/report"
	"wexo/internal/server/view"
)

// mostWorst is how many repositories an overview names.
const mostWorst = 6

// mostUnseen is how much that was not seen it tells of.
const mostUnseen = 5

// mostCauses is how many causes it tells of.
const mostCauses = 5

// GetOverview counts what needs attention.
func (s *Server) GetOverview(ctx context.Context, r GetOverviewRequestObject) (GetOverviewResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, r.Params.Machine)
	if err != nil {
		return nil, err
	}
	sum := v.Overview()
	out := Overview{ToolNames: toolNames(sum.Tools), Tags: tagsIn(v), AsOf: v.Day.Format(time.DateOnly), Repositories: len(v.Reads), Healthy: sum.Healthy, Untold: sum.Untold, Claims: sum.Claims,
		Tools: len(sum.Tools), Machines: len(v.Machines), Classes: []ClassCount{}, Worst: []Trouble{}, Ending: lineList(v, sum.Ending)}
	for _, c := range sum.Classes {
		out.Classes = append(out.Classes, ClassCount{Class: c.Class.Name, Severity: ClassCountSeverity(c.Severity),
			Total: c.Total, Week: c.Week, Month: c.Month, Quarter: c.Quarter, Older: c.Older})
		out.Findings += c.Total
	}
	out.Taken.Repositories, out.Taken.Claims, out.Taken.Findings = append([]string{}, sum.Taken.Repositories...), sum.Taken.Claims, sum.Taken.Findings
	out.Taken.Quiet = sum.Taken.Quiet
	blinding := unseen.Blinding(v.Gaps())
	out.Unseen.Total, out.Unseen.First = len(blinding), gaps(blinding[:min(len(blinding), mostUnseen)])
	causes := v.Causes()
	out.Apart, out.Causes, out.First = sum.Apart, len(causes), causesOf(v, causes[:min(len(causes), mostCauses)])
	out.BySeverity.Error, out.BySeverity.Warning, out.BySeverity.Note = sum.Bad[assess.Error], sum.Bad[assess.Warning], sum.Bad[assess.Note]
	for _, t := range sum.Worst[:min(len(sum.Worst), mostWorst)] {
		out.Worst = append(out.Worst, Trouble{Repository: t.Repository, Errors: t.Errors, Warnings: t.Warnings})
	}
	if err := s.freshness(ctx, v, &out); err != nil {
		return nil, err
	}
	return GetOverview200JSONResponse(out), nil
}

// toolNames are tools with what people call them.
func toolNames(list []*catalogue.Tool) []ToolName {
	out := make([]ToolName, len(list))
	for i, t := range list {
		out[i] = ToolName{Tool: t.Name, Title: t.Title}
	}
	return out
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
	for _, m := range v.Machines {
		taken := m.Inventory.TakenAt
		out.Freshness.Machines = append(out.Freshness.Machines, MachineAge{Name: m.Name(), Kind: m.Inventory.Machine.Kind, TakenAt: taken.Format(time.RFC3339), Days: v.Days(taken, s.Day())})
	}
	return nil
}

// GetMatrix gives repositories by tools. It is the same for everybody, and large: it is
// encoded once.
func (s *Server) GetMatrix(ctx context.Context, r GetMatrixRequestObject) (GetMatrixResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, r.Params.Machine)
	if err != nil {
		return nil, err
	}
	if p := r.Params; p.From != nil || p.Rows != nil {
		return GetMatrix200JSONResponse(matrix(v, value(p.From), p.Rows)), nil
	}
	plain, small, err := encoded(v)
	if strings.Contains(requestOf(ctx).Header.Get("Accept-Encoding"), "gzip") {
		return encodedMatrix{small, "gzip"}, err
	}
	return encodedMatrix{plain, ""}, err
}

func encoded(v *view.View) (plain, small []byte, err error) {
	return v.EncodedMatrix().Get(func() ([]byte, error) { return json.Marshal(matrix(v, 0, nil)) })
}

// Warm makes what is large of a view before anybody asks for it.
func Warm(v *view.View) {
	v.Causes()
	_, _, _ = encoded(v) // whoever asks is told what went wrong
}

// encodedMatrix is a matrix that was encoded before.
type encodedMatrix struct {
	data []byte
	how  string // it is compressed; empty where it is not
}

// VisitGetMatrixResponse sends it as it is.
func (m encodedMatrix) VisitGetMatrixResponse(w http.ResponseWriter) error {
	h := w.Header()
	h.Set("Content-Type", "application/json")
	h.Add("Vary", "Accept-Encoding")
	if m.how != "" {
		h.Set("Content-Encoding", m.how)
	}
	h.Set("Content-Length", strconv.Itoa(len(m.data)))
	_, err := w.Write(m.data)
	return err
}

// matrix is the rows from one on, as many as are asked for or all; what it counts is of all.
func matrix(v *view.View, from int, most *int) Matrix {
	rows := v.Matrix()
	from = min(from, len(rows))
	to := len(rows)
	if most != nil {
		to = min(to, from+*most)
	}
	out := Matrix{Total: len(rows), Tools: []MatrixTool{}, Rows: make([]MatrixRow, 0, to-from)}
	at := map[string]int{}
	for _, t := range v.Overview().Tools {
		at[t.Name] = len(out.Tools)
		out.Tools = append(out.Tools, MatrixTool{Tool: t.Name, Title: t.Title})
	}
	for _, row := range rows {
		for _, c := range row.Cells {
			out.Tools[at[c.Tool]].count(c.Severity)
		}
	}
	for _, row := range rows[from:to] {
		cells := make([]Cell, 0, len(row.Cells))
		for _, c := range row.Cells {
			cells = append(cells, Cell{Tool: c.Tool, Kind: c.Kind, Severity: CellSeverity(c.Severity), Asked: c.Asked, Resolved: c.Resolved, Classes: c.Classes, Folder: c.Folder, Affected: c.Affected, Among: c.Among})
		}
		one := MatrixRow{Repository: row.Repository, Loose: row.Loose, Quiet: row.Quiet, Cells: cells, Counts: []ClassFindings{}}
		for _, class := range assess.Classes() {
			if n := row.Tally.ByClass[class]; n > 0 {
				one.Counts = append(one.Counts, ClassFindings{Class: class.Name, Findings: n})
			}
		}
		out.Rows = append(out.Rows, one)
	}
	return out
}

// count adds a cell to what a tool's header shows.
func (t *MatrixTool) count(severity string) {
	switch severity {
	case "error":
		t.Error++
	case "warning":
		t.Warning++
	case "note":
		t.Note++
	default:
		t.Met++
	}
}

// GetReport gives everything in the report format, put into words while it is sent.
func (s *Server) GetReport(ctx context.Context, r GetReportRequestObject) (GetReportResponseObject, error) {
	p := r.Params
	v, err := s.view(ctx, p.AsOf, p.Machine)
	if err != nil {
		return nil, err
	}
	chosen, err := chosenBy{p.Class, p.Repository, p.Tool, p.Tag, p.Severity}.of(s, v)
	if err != nil {
		return nil, err
	}
	whole := v.Report(s.Version)
	whole.Only(chosen)
	return wholeReport{whole}, nil
}

type wholeReport struct{ *report.Report }

// VisitGetReportResponse writes the report.
func (r wholeReport) VisitGetReportResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/json")
	return r.WriteJSON(w)
}

// ListFindings gives findings, filtered and paged.
func (s *Server) ListFindings(ctx context.Context, r ListFindingsRequestObject) (ListFindingsResponseObject, error) {
	p := r.Params
	v, err := s.view(ctx, p.AsOf, p.Machine)
	if err != nil {
		return nil, err
	}
	chosen, err := chosenBy{p.Class, p.Repository, p.Tool, p.Tag, p.Severity}.of(s, v)
	if err != nil {
		return nil, err
	}
	all := v.Choose(view.Choice{Choice: chosen, Cause: p.Cause, Days: p.Age, Over: p.Over, Apart: value(p.Apart), Words: words(p.Q), ByNeed: p.Sort != nil && *p.Sort == ListFindingsParamsSortNeed})
	shown, total, err := page(all, p.Limit, p.Offset)
	if err != nil {
		return nil, err
	}
	links, err := s.links(ctx, shown)
	return ListFindings200JSONResponse{Total: total, Findings: findings(v, shown), Links: links}, err
}

// ListCauses gives what one act would mend together.
func (s *Server) ListCauses(ctx context.Context, r ListCausesRequestObject) (ListCausesResponseObject, error) {
	p := r.Params
	v, err := s.view(ctx, p.AsOf, p.Machine)
	if err != nil {
		return nil, err
	}
	chosen, err := chosenBy{p.Class, p.Repository, p.Tool, p.Tag, p.Severity}.of(s, v)
	if err != nil {
		return nil, err
	}
	all := v.ChooseCauses(view.Choice{Choice: chosen, Days: p.Age, Over: p.Over, Words: words(p.Q)})
	shown, total, err := page(slices.Values(all), p.Limit, p.Offset)
	return ListCauses200JSONResponse{Total: total, Causes: causesOf(v, shown)}, err
}

// ListClaims gives the claims of the newest readings.
func (s *Server) ListClaims(ctx context.Context, r ListClaimsRequestObject) (ListClaimsResponseObject, error) {
	v, err := s.view(ctx, nil, nil)
	if err != nil {
		return nil, err
	}
	if err := s.named(v, r.Params.Repository, r.Params.Tool); err != nil {
		return nil, err
	}
	all := []ClaimItem{}
	for _, read := range v.Reads {
		if r.Params.Repository != nil && *r.Params.Repository != read.Name {
			continue
		}
		for _, subject := range read.Subjects {
			if r.Params.Tool != nil && *r.Params.Tool != subject.Tool.Name {
				continue
			}
			for _, a := range subject.Claims {
				if subject.Own(a) {
					all = append(all, ClaimItem{Repository: read.Name, Folder: subject.Folder, Tool: subject.Tool.Name, Claim: claimOf(report.NewClaim(a, v.Day))})
				}
			}
		}
	}
	shown, total, err := page(slices.Values(all), r.Params.Limit, r.Params.Offset)
	return ListClaims200JSONResponse{Total: total, Claims: shown}, err
}

// ListResolutions gives resolutions with their ladders; machines that come to the same are together.
func (s *Server) ListResolutions(ctx context.Context, r ListResolutionsRequestObject) (ListResolutionsResponseObject, error) {
	p := r.Params
	v, err := s.view(ctx, p.AsOf, p.Machine)
	if err != nil {
		return nil, err
	}
	if err := s.named(v, p.Repository, p.Tool); err != nil {
		return nil, err
	}
	all := func(yield func(func() ResolutionItem) bool) {
		for _, read := range v.Reads {
			if p.Repository != nil && *p.Repository != read.Name {
				continue
			}
			for i, subject := range read.Subjects {
				if p.Tool != nil && *p.Tool != subject.Tool.Name || p.Folder != nil && *p.Folder != subject.Folder {
					continue
				}
				for ladder := range v.Laddered(subject, read.Judged[i], v.Day) {
					item := func() ResolutionItem {
						return ResolutionItem{Repository: read.Name, Folder: subject.Folder, Tool: subject.Tool.Name, Resolution: resolutionOf(ladder())}
					}
					if !yield(item) {
						return
					}
				}
			}
		}
	}
	some, total, err := page(all, p.Limit, p.Offset)
	shown := make([]ResolutionItem, 0, len(some))
	for _, item := range some { // ladders are built of those that are shown
		shown = append(shown, item())
	}
	return ListResolutions200JSONResponse{Total: total, Resolutions: shown}, err
}

// ListLines gives release lines with their support phases.
func (s *Server) ListLines(ctx context.Context, r ListLinesRequestObject) (ListLinesResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, nil)
	if err != nil {
		return nil, err
	}
	tools := s.Catalogue.Tools()
	if r.Params.Tool != nil {
		name, err := s.toolNamed(*r.Params.Tool)
		if err != nil {
			return nil, err
		}
		tool, _ := s.Catalogue.Tool(name)
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
			End: end, Phase: LinePhase(u.Line.PhaseOn(day.On(v.Day))), Repositories: u.Repositories})
	}
	return out
}
