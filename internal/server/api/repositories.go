package api

import (
	"context"
	"net/http"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/nearest"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/server/store"
	"wexo/internal/server/view"
	"wexo/internal/terminal"
)

// ListRepositories lists the repositories with when each was read.
func (s *Server) ListRepositories(ctx context.Context, _ ListRepositoriesRequestObject) (ListRepositoriesResponseObject, error) {
	out, err := s.repositories(ctx, nil)
	return ListRepositories200JSONResponse(out), err
}

// repositories lists those with the given paths, or all.
func (s *Server) repositories(ctx context.Context, paths []string) (RepositoryList, error) {
	out := RepositoryList{Repositories: []Repository{}}
	list, err := s.Store.Repositories(ctx)
	if err != nil {
		return out, err
	}
	readings, err := s.Store.Readings(ctx)
	if err != nil {
		return out, err
	}
	byName := map[string]store.Reading{}
	for _, r := range readings {
		byName[r.Repository] = r
	}
	for _, r := range list {
		if paths == nil || slices.Contains(paths, r.Path) {
			read := byName[r.Name]
			out.Repositories = append(out.Repositories, Repository{Name: r.Name, Path: r.Path, Ref: read.Ref, Commit: read.Commit, ReadAt: read.ReadAt})
		}
	}
	return out, nil
}

// AddRepositories adds every repository at or below a local path.
func (s *Server) AddRepositories(ctx context.Context, r AddRepositoriesRequestObject) (AddRepositoriesResponseObject, error) {
	path, err := s.allowed(r.Body.Path)
	if err != nil {
		return nil, err
	}
	found, problems := repo.Discover([]string{path}, s.Reader.Marks)
	if len(found) == 0 && len(problems) > 0 {
		return nil, problem(http.StatusUnprocessableEntity, problems[0].Error()+".")
	}
	if len(found) == 0 {
		return nil, problem(http.StatusUnprocessableEntity, "There is no repository at or below "+path+".")
	}
	list, err := s.Store.Repositories(ctx)
	if err != nil {
		return nil, err
	}
	taken := map[string]string{}
	for _, known := range list {
		taken[known.Name] = known.Path
	}
	var paths []string
	for _, l := range found {
		name := freeName(taken, l)
		taken[name] = l.Path
		paths = append(paths, l.Path)
		added := store.Repository{Name: name, Path: l.Path, Kind: string(l.Kind), AddedAt: s.Now().UTC().Format(time.RFC3339)}
		if err := s.Store.AddRepository(ctx, added); err != nil {
			return nil, err
		}
	}
	out, err := s.repositories(ctx, paths)
	passed := gaps(repo.Gaps(problems))
	out.Unseen = &passed
	return AddRepositories201JSONResponse(out), err
}

// allowed checks that a path lies below one of the configured roots, links followed.
func (s *Server) allowed(path string) (string, error) {
	if !filepath.IsAbs(path) {
		return "", problem(http.StatusBadRequest, "Give an absolute path.")
	}
	if len(s.Roots) == 0 {
		return "", problem(http.StatusForbidden, "No local paths may be added: the configuration names no roots (key roots in wexo.yaml, or --roots).")
	}
	real, err := filepath.EvalSymlinks(path)
	if err != nil {
		real = filepath.Clean(path) // judged first, so that nothing is told of other folders
	}
	switch {
	case !repo.Within(s.Roots).Holds(real):
		return "", problem(http.StatusForbidden, path+" does not lie below a folder that the configuration allows ("+strings.Join(s.Roots, ", ")+").")
	case err != nil:
		return "", problem(http.StatusUnprocessableEntity, path+": no such folder.")
	}
	return real, nil
}

// freeName is the repository's name without slashes, numbered where another path has it.
func freeName(taken map[string]string, l repo.Location) string {
	base := terminal.Clean(strings.ToValidUTF8(strings.ReplaceAll(l.Name, "/", "."), "\ufffd"))
	if strings.Trim(base, ".") == "" {
		base = "repository"
	}
	name := base
	for n := 2; ; n++ {
		if path, used := taken[name]; !used || path == l.Path {
			return name
		}
		name = base + "-" + strconv.Itoa(n)
	}
}

// RemoveRepository forgets a repository.
func (s *Server) RemoveRepository(ctx context.Context, r RemoveRepositoryRequestObject) (RemoveRepositoryResponseObject, error) {
	if err := s.Store.RemoveRepository(ctx, r.Name); err != nil {
		return nil, s.missing(ctx, err, "repository", r.Name)
	}
	return RemoveRepository204Response{}, nil
}

// named tells what was not found.
func named(err error, kind, name string) error {
	if describe(err).Status == http.StatusNotFound {
		return problem(http.StatusNotFound, "No "+kind+" is called "+name+".")
	}
	return err
}

// missing tells that no repository or machine has a name, and the nearest that there is.
func (s *Server) missing(ctx context.Context, err error, kind, name string) error {
	if describe(err).Status != http.StatusNotFound {
		return err
	}
	var known []string
	if kind == "machine" {
		machines, _ := s.Store.Inventories(ctx) // a hint is no reason to fail otherwise
		for _, m := range machines {
			known = append(known, m.Machine.Name)
		}
		return unfound(kind, name, known)
	}
	repositories, _ := s.Store.Repositories(ctx)
	for _, r := range repositories {
		known = append(known, r.Name)
	}
	return unfound(kind, name, known)
}

// unfound is what is answered where nothing is called so.
func unfound(kind, name string, known []string) error {
	text := "No " + kind + " is called " + name
	if near, ok := nearest.To(name, known); ok {
		return problem(http.StatusNotFound, text+"; did you mean "+near+"?")
	}
	return problem(http.StatusNotFound, text+".")
}

// GetRepository gives one repository by folder and tool.
func (s *Server) GetRepository(ctx context.Context, r GetRepositoryRequestObject) (GetRepositoryResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, r.Params.Machine)
	if err != nil {
		return nil, err
	}
	read, reading, ok := v.Repository(r.Name)
	if !ok {
		return s.unread(ctx, r.Name)
	}
	out := RepositoryDetail{Name: reading.Repository, Path: reading.Path, Ref: reading.Ref, Commit: reading.Commit, ReadAt: reading.ReadAt, Notice: read.Notice, Folders: []FolderDetail{}}
	out.Subjects = len(read.Subjects)
	concerning := concerningOf(read.Result)
	for _, i := range shownSubjects(read.Result, value(r.Params.Folder), value(r.Params.Tool)) {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		subject := read.Subjects[i]
		if n := len(out.Folders); n == 0 || out.Folders[n-1].Path != subject.Folder {
			out.Folders = append(out.Folders, FolderDetail{Path: subject.Folder, Tools: []ToolDetail{}})
		}
		at := &out.Folders[len(out.Folders)-1]
		at.Tools = append(at.Tools, tool(v, read.Result, i, concerning.of(subject)))
	}
	var loose []*assess.Finding
	for _, f := range read.Findings {
		if f.Tool == nil {
			loose = append(loose, f)
		}
	}
	out.Findings = findings(v, loose)
	out.Tags = append([]string{}, read.Settings.Tags...)
	location, err := s.location(ctx, r.Name)
	if err != nil {
		return nil, err
	}
	out.Link = s.link(location, reading.Commit)
	out.Mentions, out.OwnRules, out.Unseen = s.mentions(read.Mentions), ownRules(read.Taken), gaps(read.Gaps)
	return GetRepository200JSONResponse(out), nil
}

// mostSubjects is how many folders and tools are told of in one answer: nobody looks over more.
const mostSubjects = 400

// shownSubjects are the subjects that are told of, in their order: those with the worst findings,
// where there are very many, and the one that is asked for.
func shownSubjects(r *assess.Result, folder, tool string) []int {
	out := make([]int, len(r.Subjects))
	for i := range out {
		out[i] = i
	}
	if len(out) <= mostSubjects {
		return out
	}
	worst := map[*assess.Subject]int{}
	for _, f := range r.Findings {
		if f.Subject != nil && !f.Apart {
			worst[f.Subject] = max(worst[f.Subject], f.Severity.Rank())
		}
	}
	slices.SortStableFunc(out, func(a, b int) int { return worst[r.Subjects[b]] - worst[r.Subjects[a]] })
	out = out[:mostSubjects]
	if n := subjectNear(r, folder, tool); n >= 0 && !slices.Contains(out, n) {
		out = append(out, n)
	}
	slices.Sort(out)
	return out
}

// subjectNear is the subject of a tool in a folder, or in the nearest one above it; below zero
// where there is none.
func subjectNear(r *assess.Result, folder, tool string) int {
	for at := folder; tool != ""; at = claim.Above(at) {
		n := slices.IndexFunc(r.Subjects, func(s *assess.Subject) bool { return s.Folder == at && s.Tool.Name == tool })
		if n >= 0 || at == "" {
			return n
		}
	}
	return -1
}

// ownRules are a repository's own rules, with what each takes away.
func ownRules(list []assess.Taken) []OwnRule {
	out := make([]OwnRule, len(list))
	for i, t := range list {
		out[i] = OwnRule{Kind: t.Kind, Text: t.Text, File: userrule.File, Line: t.Line, Claims: t.Claims}
		f := &out[i].Findings
		f.Error, f.Warning, f.Note = t.Findings[assess.Error], t.Findings[assess.Warning], t.Findings[assess.Note]
	}
	return out
}

// mentions are the places of a repository that look like a tool beside a version and made
// no claim.
func (s *Server) mentions(list []claim.Mention) []Mention {
	out := make([]Mention, 0, len(list))
	for _, m := range list {
		title := m.Tool
		if tool, known := s.Catalogue.Tool(m.Tool); known {
			title = tool.Title
		}
		out = append(out, Mention{Tool: m.Tool, Title: title, Raw: m.Raw, Folder: m.Folder, File: m.File, Line: m.Line, Column: m.Column, Reason: m.Reason})
	}
	return out
}

// unread answers for a repository that is there but was not read yet.
func (s *Server) unread(ctx context.Context, name string) (GetRepositoryResponseObject, error) {
	list, err := s.Store.Repositories(ctx)
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		if r.Name == name {
			return GetRepository200JSONResponse{Name: name, Path: r.Path, Findings: []Finding{}, Folders: []FolderDetail{}, Mentions: []Mention{}, OwnRules: []OwnRule{}, Tags: []string{}, Notice: "It has not been read yet; start a survey."}, nil
		}
	}
	return nil, s.missing(ctx, store.ErrNotFound, "repository", name)
}

// tool is all of one tool in one folder.
// concerning finds the findings that concern a subject without looking at all of them for each.
type concerning struct {
	all       []*assess.Finding
	at        map[folderTool][]int // of one folder and tool
	ofSubject map[*assess.Subject][]int
	wide      []int // of several folders or tools
}

type folderTool struct{ folder, tool string }

func concerningOf(r *assess.Result) *concerning {
	c := &concerning{all: r.Findings, at: map[folderTool][]int{}, ofSubject: map[*assess.Subject][]int{}}
	for i, f := range r.Findings {
		switch {
		case f.View != nil || f.Verdict != nil && f.Verdict.Wide:
			c.wide = append(c.wide, i)
		case f.Tool != nil:
			key := folderTool{f.Folder, f.Tool.Name}
			c.at[key] = append(c.at[key], i)
			if s := f.Subject; s != nil && s.Folder != f.Folder {
				c.ofSubject[s] = append(c.ofSubject[s], i)
			}
		}
	}
	return c
}

func (c *concerning) of(s *assess.Subject) []*assess.Finding {
	places := slices.Concat(c.at[folderTool{s.Folder, s.Tool.Name}], c.ofSubject[s], c.wide)
	slices.Sort(places)
	var out []*assess.Finding
	for _, i := range slices.Compact(places) {
		if c.all[i].Concerns(s) {
			out = append(out, c.all[i])
		}
	}
	return out
}

func tool(v *view.View, r *assess.Result, n int, own []*assess.Finding) ToolDetail {
	subject, t := r.Subjects[n], v.NewTrace(r, n, v.Day)
	return ToolDetail{Tool: t.Tool, Title: subject.Tool.Title, Claims: claimsOf(t.Claims), Feasible: t.Feasible, Conflict: claimsOf(t.Conflict),
		Resolutions: resolutionsOf(t.Resolutions), Findings: findings(v, own), Ruler: ruler(v.RulerOf(r, n))}
}

func ruler(r view.Ruler) Ruler {
	out := Ruler{Lines: []RulerLine{}, Bars: []RulerBar{}, Ticks: []RulerTick{}, Points: []RulerPoint{}, Feasible: []Span{}}
	for i, l := range r.Lines {
		end := ""
		if !l.End.IsZero() {
			end = l.End.Format(time.DateOnly)
		}
		out.Lines = append(out.Lines, RulerLine{Line: l.Line, End: end, Ended: r.Ended(l), Gap: r.Gap(i)})
	}
	for _, b := range r.Bars {
		gaps := []Span{}
		for _, g := range b.Gaps {
			gaps = append(gaps, Span{From: g.From, To: g.To})
		}
		out.Bars = append(out.Bars, RulerBar{Role: string(b.Claim.Role), Text: b.Claim.Raw, File: b.Claim.File, Line: b.Claim.Line, From: b.From, To: b.To, Gaps: gaps, Agrees: b.Agrees})
	}
	for _, t := range r.Ticks {
		out.Ticks = append(out.Ticks, RulerTick{Version: t.Version, At: t.At, Machines: t.Machines, Chosen: t.Chosen})
	}
	for _, p := range r.Points {
		out.Points = append(out.Points, RulerPoint{Version: p.Version, At: p.At, Agrees: p.Agrees})
	}
	for _, s := range r.Feasible {
		out.Feasible = append(out.Feasible, Span{From: s.From, To: s.To})
	}
	return out
}
