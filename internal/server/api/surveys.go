package api

import (
	"context"
	"encoding/json"
	"fmt"
	"io"

	"wexo/internal/server/store"
)

func surveyOf(s store.Survey) Survey {
	return Survey{Id: s.ID, State: SurveyState(s.State), AsOf: s.AsOf, StartedAt: s.StartedAt, FinishedAt: s.FinishedAt, Total: s.Total, Done: s.Done, Message: s.Message, Opened: s.Opened, Closed: s.Closed}
}

// ListSurveys lists surveys, newest first.
func (s *Server) ListSurveys(ctx context.Context, _ ListSurveysRequestObject) (ListSurveysResponseObject, error) {
	list, err := s.Store.Surveys(ctx, 50)
	if err != nil {
		return nil, err
	}
	out := SurveyList{Surveys: []Survey{}}
	for _, survey := range list {
		if current, running := s.Jobs.Current(survey.ID); running {
			survey = current
		}
		out.Surveys = append(out.Surveys, surveyOf(survey))
	}
	return ListSurveys200JSONResponse(out), nil
}

// StartSurvey starts a survey of every repository.
func (s *Server) StartSurvey(context.Context, StartSurveyRequestObject) (StartSurveyResponseObject, error) {
	survey, err := s.Jobs.Start(s.Lasting, s.Day())
	if err != nil {
		return nil, err
	}
	return StartSurvey202JSONResponse(surveyOf(survey)), nil
}

// GetSurvey gives one survey.
func (s *Server) GetSurvey(ctx context.Context, r GetSurveyRequestObject) (GetSurveyResponseObject, error) {
	if current, running := s.Jobs.Current(r.Id); running {
		return GetSurvey200JSONResponse(surveyOf(current)), nil
	}
	survey, err := s.Store.Survey(ctx, r.Id)
	if err != nil {
		return nil, named(err, "survey", fmt.Sprint(r.Id))
	}
	return GetSurvey200JSONResponse(surveyOf(survey)), nil
}

// WatchSurvey sends a survey's progress as server-sent events until it ends.
func (s *Server) WatchSurvey(ctx context.Context, r WatchSurveyRequestObject) (WatchSurveyResponseObject, error) {
	events, stop, running := s.Jobs.Watch(r.Id)
	if !running {
		survey, err := s.Store.Survey(ctx, r.Id)
		if err != nil {
			return nil, named(err, "survey", fmt.Sprint(r.Id))
		}
		ended := make(chan store.Survey, 1)
		ended <- survey
		close(ended)
		events, stop = ended, func() {}
	}
	out, in := io.Pipe()
	go func() {
		defer stop()
		in.CloseWithError(send(s.Lasting, ctx, in, events))
	}()
	return WatchSurvey200TexteventStreamResponse{Body: out}, nil
}

// send writes each state as one event; the browser's reader needs data lines only.
func send(lasting, ctx context.Context, w io.Writer, events <-chan store.Survey) error {
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-lasting.Done():
			return nil
		case survey, more := <-events:
			if !more {
				return nil
			}
			data, err := json.Marshal(surveyOf(survey))
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(w, "event: survey\ndata: %s\n\n", data); err != nil {
				return err
			}
		}
	}
}
