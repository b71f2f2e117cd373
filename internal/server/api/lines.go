package api

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"slices"

	"wexo/internal/core/assess"
	"wexo/internal/core/document"
	"wexo/internal/core/excerpt"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/server/secret"
	"wexo/internal/server/store"
)

// longestFile is how large a file may be of which lines are shown, in bytes.
const longestFile = 4 << 20

// GetLines gives the line that something is said of, with all but the value and its key masked;
// or, to those who may and where the service shows them, the lines around it without what looks
// like a secret. Other places of a repository are nobody's business here.
func (s *Server) GetLines(ctx context.Context, r GetLinesRequestObject) (GetLinesResponseObject, error) {
	v, err := s.view(ctx, nil, nil)
	if err != nil {
		return nil, err
	}
	read, reading, ok := v.Repository(r.Name)
	if !ok {
		return nil, s.missing(ctx, store.ErrNotFound, "repository", r.Name)
	}
	file, line := r.Params.File, r.Params.Line
	values := spokenOf(read, file, line)
	if len(values) == 0 {
		return nil, problem(http.StatusNotFound, fmt.Sprintf("Nothing is said of %s:%d in %s; only lines that a claim or a finding rests on are shown.", file, line, r.Name))
	}
	location, err := s.location(ctx, r.Name)
	if err != nil {
		return nil, err
	}
	out := Excerpt{File: file, Line: line}
	text, err := s.textOf(ctx, location, reading.Commit, file)
	if err != nil {
		out.Notice = "The file cannot be read any more: " + err.Error() + "."
	}
	lines := excerpt.Claimed(text, line, values)
	if s.Around && slices.Contains(aroundRoles, callerOf(ctx).role) {
		lines = excerpt.Around(text, line, secret.Mask)
	}
	for _, l := range lines {
		out.Lines = append(out.Lines, struct {
			Number int    `json:"number"`
			Text   string `json:"text"`
		}{l.Number, l.Text})
	}
	if out.Lines == nil {
		out.Lines = []struct {
			Number int    `json:"number"`
			Text   string `json:"text"`
		}{}
		if out.Notice == "" {
			out.Notice = "The file has changed since it was read, and ends before this line."
		}
	}
	return GetLines200JSONResponse(out), nil
}

// aroundRoles are the roles that see the lines around a claim, where the service shows them.
var aroundRoles = []string{"lead", "owner"}

// spokenOf are the values at a place that a claim, a finding or a mention rests on.
func spokenOf(r report.Read, file string, line int) []excerpt.Value {
	var out []excerpt.Value
	add := func(at string, n int, raw string, column int) {
		if at == file && n == line {
			out = append(out, excerpt.Value{Raw: raw, Column: column})
		}
	}
	for _, c := range r.Claims {
		if c.File == file && c.Line == line {
			out = append(out, excerpt.Value{Raw: c.Raw, Column: c.Column, Length: c.End - c.Begin})
		}
		if c.Given != nil {
			add(c.Given.File, c.Given.Line, c.Raw, c.Given.Column)
		}
	}
	for _, f := range r.Findings {
		for _, e := range f.Evidence {
			add(e.File, e.Line, e.Raw, e.Column)
		}
	}
	for _, t := range r.Taken {
		add(userrule.File, t.Line, t.Text, 0)
	}
	for _, m := range r.Mentions {
		add(m.File, m.Line, m.Raw, m.Column)
	}
	return out
}

// location is where a repository lies.
func (s *Server) location(ctx context.Context, name string) (repo.Location, error) {
	list, err := s.Store.Repositories(ctx)
	if err != nil {
		return repo.Location{}, err
	}
	for _, r := range list {
		if r.Name == name {
			return repo.Location{Name: r.Name, Path: r.Path, Kind: repo.Kind(r.Kind)}, nil
		}
	}
	return repo.Location{}, s.missing(ctx, store.ErrNotFound, "repository", name)
}

// textOf is a file's text at the commit that was read, or as it lies there where there is none.
func (s *Server) textOf(ctx context.Context, l repo.Location, commit, file string) ([]byte, error) {
	tree, err := repo.Open(ctx, l, repo.Reading{Ref: commit, Within: s.Jobs.Within})
	if err != nil {
		return nil, err
	}
	defer tree.Close()
	info, err := fs.Stat(tree, file)
	var gone *fs.PathError
	switch {
	case errors.As(err, &gone):
		return nil, gone.Err
	case err != nil:
		return nil, err
	case !info.Mode().IsRegular() || info.Size() > longestFile:
		return nil, errors.New("it is no file of which lines are shown")
	}
	f, err := tree.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, longestFile))
	if err != nil {
		return nil, err
	}
	text, err := document.Decode(data)
	return text.Data, err
}

// links are where the files of the repositories of some findings are shown.
func (s *Server) links(ctx context.Context, list []*assess.Finding) (map[string]string, error) {
	out := map[string]string{}
	if len(list) == 0 {
		return out, nil
	}
	repositories, err := s.Store.Repositories(ctx)
	if err != nil {
		return nil, err
	}
	at := make(map[string]repo.Location, len(repositories))
	for _, r := range repositories {
		at[r.Name] = repo.Location{Name: r.Name, Path: r.Path, Kind: repo.Kind(r.Kind)}
	}
	looked := map[string]bool{}
	for _, f := range list {
		name := f.Repository.Name
		if l, known := at[name]; known && !looked[name] {
			looked[name] = true
			if link := s.link(l, f.Repository.Commit); link != "" {
				out[name] = link
			}
		}
	}
	return out, nil
}

// link is where a repository's files are shown. What lies outside the roots is not looked at.
func (s *Server) link(l repo.Location, commit string) string {
	if !s.Jobs.Within.Holds(l.Path) {
		return ""
	}
	return repo.FileLink(l, commit, s.FileLinks)
}
