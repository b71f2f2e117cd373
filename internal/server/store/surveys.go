package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// Survey is one pass over the repositories. State is running, finished, failed or stopped.
type Survey struct {
	ID         int64  `db:"id" json:"id"`
	State      string `db:"state" json:"state"`
	AsOf       string `db:"as_of" json:"asOf"`
	StartedAt  string `db:"started_at" json:"startedAt"`
	FinishedAt string `db:"finished_at" json:"finishedAt"`
	Total      int    `db:"total" json:"total"`
	Done       int    `db:"done" json:"done"`
	Message    string `db:"message" json:"message"`
	Opened     int    `db:"opened" json:"opened"` // findings that were not there before
	Closed     int    `db:"closed" json:"closed"` // findings that are there no more
}

const surveyColumns = `id, state, as_of, started_at, finished_at, total, done, message, opened, closed`

// StartSurvey records a new survey.
func (s *Store) StartSurvey(ctx context.Context, asOf, now time.Time, total int) (Survey, error) {
	out := Survey{State: "running", AsOf: asOf.Format(time.DateOnly), StartedAt: stamp(now), Total: total}
	result, err := s.execNamed(ctx, `INSERT INTO surveys (state, as_of, started_at, total) VALUES (:state, :as_of, :started_at, :total)`, out)
	if err != nil {
		return out, err
	}
	out.ID, err = result.LastInsertId()
	return out, err
}

// EndSurvey records how a survey ended.
func (s *Store) EndSurvey(ctx context.Context, survey Survey, now time.Time) (Survey, error) {
	survey.FinishedAt = stamp(now)
	_, err := s.execNamed(ctx, `UPDATE surveys SET state = :state, finished_at = :finished_at, done = :done, message = :message, opened = :opened, closed = :closed WHERE id = :id`, survey)
	return survey, err
}

// StopLeftOver ends the surveys that an earlier process left running.
func (s *Store) StopLeftOver(ctx context.Context, now time.Time) error {
	_, err := s.exec(ctx, `UPDATE surveys SET state = 'stopped', finished_at = ?, message = 'the service was stopped' WHERE state = 'running'`, stamp(now))
	return err
}

// Surveys lists the newest surveys, newest first.
func (s *Store) Surveys(ctx context.Context, most int) ([]Survey, error) {
	var out []Survey
	err := s.db.SelectContext(ctx, &out, `SELECT `+surveyColumns+` FROM surveys ORDER BY id DESC LIMIT ?`, most)
	return out, err
}

// Survey is one survey.
func (s *Store) Survey(ctx context.Context, id int64) (Survey, error) {
	var out Survey
	err := s.db.GetContext(ctx, &out, `SELECT `+surveyColumns+` FROM surveys WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return out, ErrNotFound
	}
	return out, err
}
