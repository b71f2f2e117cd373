package api

import (
	"cmp"
	"context"
	"encoding/json"
	"net/http"

	"wexo/internal/core/unseen"
	"wexo/internal/report"
)

// GetTogether answers for all tools of a folder together.
func (s *Server) GetTogether(ctx context.Context, r GetTogetherRequestObject) (GetTogetherResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, r.Params.Machine)
	if err != nil {
		return nil, err
	}
	read, _, ok := v.Repository(r.Name)
	if !ok {
		return nil, problem(http.StatusNotFound, "No repository is called "+r.Name+".")
	}
	folder := ""
	if r.Params.Folder != nil {
		folder = *r.Params.Folder
	}
	viewed, joint := s.Views.Estate.Reconciling(v.Judgement).Folder(read.Result, folder)
	if viewed == nil {
		return nil, problem(http.StatusNotFound, r.Name+" says nothing of any tool in "+cmp.Or(folder, "the root folder")+".")
	}
	answer := v.NewReconciled(read.Result, viewed, joint, v.Day)
	answer.Unseen = unseen.For(read.Gaps, viewed.Folder, "")
	return together(answer)
}

// together is an answer in the form of the contract, whose fields are the same.
func together(r report.Reconciled) (GetTogetherResponseObject, error) {
	data, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	var out Together
	if err := json.Unmarshal(data, &out); err != nil {
		return nil, err
	}
	return GetTogether200JSONResponse(out), nil
}
